// Starts stand-ins and server as processes, for the demo, the pictures and the browser tests.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createServer } from 'node:net';
import { root } from './node-build.mjs';

export async function freePort() {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address();
  server.close();
  return port;
}

/** Starts a stand-in and waits until it says that it is ready. */
export async function startMachine(name, env = {}) {
  const child = spawn(process.execPath, [`dist-node/${name}.js`], {
    cwd: root,
    env: { ...process.env, PORT: '0', ...env },
    stdio: ['ignore', 'pipe', 'inherit']
  });
  const [line] = await Promise.race([
    once(child.stdout, 'data'),
    once(child, 'exit').then(() => Promise.reject(new Error(`The ${name} stand-in did not start.`)))
  ]);
  const { port } = JSON.parse(line.toString());
  return { url: `http://127.0.0.1:${port}`, child };
}

/** What the demo's machines have on them when they are first switched on. */
const WIDE_MEDIA = { name: 'Pier cloth', surface: 'matt', widthMm: 2600, lengthMm: 61_500 };
const BED_MEDIA = { name: 'Skerry board 5', surface: 'matt', widthMm: 2000, lengthMm: 0, sheetMm: 1000, sheets: 24 };

/** Every stand-in of the demo: two roll printers, a flatbed, a cutter, an instrument and a maker's library. */
export async function startMachines(folder, speed) {
  const [printer, wide, flatbed, cutter, instrument, library] = await Promise.all([
    startMachine('printer', { SPEED: speed, FOLDER: folder }),
    startMachine('printer', { SPEED: speed, FOLDER: `${folder}-wide`, MODEL: 'Gannet 32', MEDIA: JSON.stringify(WIDE_MEDIA) }),
    startMachine('printer', { SPEED: speed, FOLDER: `${folder}-bed`, MODEL: 'Skua 25', MEDIA: JSON.stringify(BED_MEDIA) }),
    startMachine('cutter', { SPEED: speed }),
    startMachine('instrument', { SPEED: 'full' }),
    startMachine('library')
  ]);
  return { printer, wide, flatbed, cutter, instrument, library };
}

export async function startServer(env) {
  const port = env.PORT ?? String(await freePort());
  // As “npm start” does it: docs/performance.md says why.
  const child = spawn(process.execPath, ['--max-semi-space-size=64', 'scripts/start.mjs'], {
    cwd: root,
    // A line that is closed at the very moment in which a test asks again over it breaks the test.
    env: { KEEP_ALIVE_TIMEOUT: '600', ...process.env, ...env, PORT: port, ORIGIN: `http://127.0.0.1:${port}` },
    stdio: ['ignore', 'pipe', 'inherit']
  });
  const url = `http://127.0.0.1:${port}`;
  for (let i = 0; i < 300; i++) {
    if (child.exitCode !== null) throw new Error('The server did not start; what is above says why.');
    if (
      await fetch(`${url}/api/settings`).then(
        (reply) => reply.ok,
        () => false
      )
    )
      return { url, child };
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error('The server did not answer in 30 s.');
}

/** Fills a data folder with the demo's work, or gives one that is filled its machines again. */
export async function seed(data, machines) {
  const child = spawn(process.execPath, ['dist-node/seed.js'], {
    cwd: root,
    env: {
      ...process.env,
      ZING_DATA: data,
      PRINTER_URL: machines.printer.url,
      WIDE_URL: machines.wide.url,
      FLATBED_URL: machines.flatbed.url,
      CUTTER_URL: machines.cutter.url,
      INSTRUMENT_URL: machines.instrument.url,
      LIBRARY_URL: machines.library.url
    },
    stdio: ['ignore', 'inherit', 'inherit']
  });
  const [code] = await once(child, 'exit');
  if (code !== 0) throw new Error('The demo data could not be made; what is above says why.');
}
