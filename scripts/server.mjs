// The server as it is built: `build/index.js`. PORT, ZING_DATA and ZING_HOSTS (further names of this machine) say how.
import { createServer } from 'node:http';
import compression from 'compression';

const host = process.env.HOST || '127.0.0.1';
const port = process.env.PORT || '4780';
// There is no sign-in: whoever reaches the server may print.
if (!['127.0.0.1', '::1', 'localhost'].includes(host)) {
  console.error(`Zing Mast answers this machine alone, and does not listen at ${host}. Leave HOST out.`);
  process.exit(1);
}
process.env.ORIGIN ||= `http://127.0.0.1:${port}`;
// Uploads are streamed to the disk, and every call bounds what it reads.
process.env.BODY_SIZE_LIMIT ||= 'Infinity';
const { handler } = await import('./handler.js');

// What happens is told line by line as it does, and must not wait to be packed.
const isPacked = (request, response) =>
  !String(response.getHeader('content-type')).startsWith('text/event-stream') && compression.filter(request, response);
const pack = compression({ filter: isPacked });
const server = createServer((request, response) => pack(request, response, () => handler(request, response)));
// A large file on a slow line takes hours. Only silence ends it.
server.requestTimeout = 0;
server.headersTimeout = 20_000;
server.setTimeout(120_000);

let stopping = false;
function stop(reason) {
  if (stopping) return;
  stopping = true;
  server.close();
  // Open pages listen for ever; they find the next server by themselves.
  setTimeout(() => server.closeAllConnections(), 200).unref();
  process.emit('sveltekit:shutdown', reason);
}
process.on('SIGTERM', () => stop('SIGTERM'));
process.on('SIGINT', () => stop('SIGINT'));
server.on('error', (error) => {
  console.error(
    error.code === 'EADDRINUSE'
      ? `Port ${port} is taken, perhaps by another Zing Mast. Stop it, or choose another with PORT.`
      : `The server cannot listen at ${host}:${port}: ${error.message}`
  );
  process.exit(1);
});
server.listen(Number(port), host, () => {
  console.log(`Zing Mast is at http://127.0.0.1:${port}`);
  // What makes pages is loaded with the first of them: a person does not wait for that.
  fetch(`http://${host.includes(':') ? `[${host}]` : host}:${port}`, { signal: AbortSignal.timeout(20_000) })
    .then((page) => page.arrayBuffer())
    .catch(() => undefined);
});
