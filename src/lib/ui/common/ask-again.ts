const AGAIN_MS = 1000;

/** What screens are made of: their data, as the framework asks for it, and the Floor. */
const isOfScreen = (asked: RequestInfo | URL, here: string): boolean => {
  const { origin, pathname } = new URL(asked instanceof Request ? asked.url : asked, here);
  return origin === new URL(here).origin && (pathname.endsWith('/__data.json') || pathname === '/api/floor');
};

const LINE_END = 10;

/**
 * An answer whose first line has come, which is all that a page is made of; what follows may take its time.
 *
 * @throws TypeError where it is cut off before
 */
async function withFirstLine(answer: Response): Promise<Response> {
  const reader = answer.body?.getReader();
  if (!reader) return answer;
  const come: Uint8Array[] = [];
  const take = async () => {
    const { value } = await reader.read();
    if (value) come.push(value);
    return value;
  };
  for (let last = await take(); last && !last.includes(LINE_END);) last = await take();
  const all = new ReadableStream({
    async pull(stream) {
      const next = come.shift() ?? (await reader.read()).value;
      if (next) stream.enqueue(next);
      else stream.close();
    },
    cancel: (reason) => reader.cancel(reason)
  });
  return new Response(all, answer);
}

/**
 * What a screen asks for while the server goes away is asked again until somebody answers, to the end of what the screen needs.
 * The framework would leave the page where its data cannot be had, for one that the browser has nothing to show of. All else fails
 * as it does.
 *
 * @param plain the browser's own
 * @param here the address that others are relative to
 */
export const askingAgain =
  (plain: typeof fetch, here: string): typeof fetch =>
  async (asked, how) => {
    for (;;) {
      const isScreen = isOfScreen(asked, here);
      try {
        const answer = await plain(asked, how);
        return isScreen ? await withFirstLine(answer) : answer;
      } catch (error) {
        if (!isScreen || how?.signal?.aborted) throw error;
      }
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
    }
  };
