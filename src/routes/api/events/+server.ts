import type { RequestEvent } from '@sveltejs/kit';
import type { Call } from '$lib/server/platform/http/call';

/** What changes, as Server-Sent Events; a comment now and then keeps the line open. */
const respond = ({ locals }: RequestEvent): Promise<Response> => {
  let stop = () => undefined as void;
  const stream = new ReadableStream<string>({
    start(controller) {
      const send = (text: string) => {
        try {
          controller.enqueue(text);
        } catch {
          stop();
        }
      };
      const quiet = locals.shop.events.listen((event) => send(`data: ${JSON.stringify(event)}\n\n`));
      const beat = setInterval(() => send(': still here\n\n'), 20_000);
      stop = () => {
        quiet();
        clearInterval(beat);
      };
      send('retry: 1000\n\n');
      send(`data: ${JSON.stringify({ kind: 'hello', changes: locals.shop.events.changes })}\n\n`);
    },
    cancel: () => stop()
  });
  return Promise.resolve(
    new Response(stream.pipeThrough(new TextEncoderStream()), {
      headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' }
    })
  );
};

export const GET: Call = Object.assign(respond, {
  spec: { summary: 'What changes in the shop, as it happens', answers: 'text/event-stream' }
});
