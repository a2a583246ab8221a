// One command for a look at Zing Mast: installs, builds, makes demo data, starts the stand-ins and the server.
import { mkdirSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';
import { installWhenStale } from './install.mjs';

installWhenStale();
const { buildAll } = await import('./build.mjs');
const { startMachines, startServer, seed } = await import('./stack.mjs');

console.log('Building what has changed.');
await buildAll();
const data = process.env.ZING_DATA ?? join(process.env.XDG_DATA_HOME ?? join(homedir(), '.local', 'share'), 'zing-mast-demo');
mkdirSync(data, { recursive: true });
const children = [];
let stopping = false;
const stop = () => {
  stopping = true;
  for (const child of children) child.kill('SIGTERM');
  setTimeout(() => process.exit(0), 1500).unref();
};
process.on('SIGINT', stop);
process.on('SIGTERM', stop);

const machines = await startMachines(join(data, 'printer'), process.env.SPEED ?? 'full');
children.push(...Object.values(machines).map(({ child }) => child));
await seed(data, machines);
if (!stopping) {
  // From here on at twenty times life speed, so that a print can be watched.
  for (const { url } of [machines.printer, machines.wide, machines.flatbed])
    await fetch(`${url}/speed`, { method: 'POST', body: JSON.stringify({ speed: 20 }) });
  const server = await startServer({ ZING_DATA: data, PORT: process.env.PORT ?? '4780' });
  children.push(server.child);
  server.child.on('exit', stop);
  console.log(`\nZing Mast is at ${server.url}\nThe demo data are in ${data}. Ctrl C stops everything.`);
}
