import { spawn, type ChildProcess } from 'node:child_process';
import { createHash, randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { parseArgs } from 'node:util';
import Database from 'better-sqlite3';
import { seededRandom } from '$core/geometry/random';
import { checkFolder } from '$lib/server/app/check';
import { JOB_STATE } from '$protocol/ipp';
import { ALL_MODES } from '$standins/printer/modes';
import { cmykBox, madePdf, spotStroke } from '../tests/made/pdf';

/**
 * Kills the server, and now and then the printer, at random moments of uploads, edits, RIPs, prints and cuts, again and
 * again, and looks afterwards whether what was acknowledged is there, what was printed is known, and nothing is stuck:
 * `npm run torture -- --rounds 200 --seed 1`. The data folder is kept where something is wrong.
 */

const { values } = parseArgs({
  options: {
    rounds: { type: 'string', default: '20' },
    seed: { type: 'string', default: '1' },
    verbose: { type: 'boolean', default: false }
  }
});
const rounds = Number(values.rounds);
const random = seededRandom(Number(values.seed));
const folder = mkdtempSync(join(tmpdir(), 'zing-torture-'));
const data = join(folder, 'shop');
const FILM = { name: 'Film', surface: 'gloss', widthMm: 400, lengthMm: 900_000 };
const DRAFT = ALL_MODES.find(({ code }) => code === 'Petrel 13/Harbour/calendered/360/4/both ways/draft')!;
/** How long all that goes on may take to come to rest at the end. */
const REST_MS = 90_000;

interface Child {
  process: ChildProcess;
  url: string;
}

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as { port: number };
  server.close();
  await once(server, 'close');
  return port;
}

async function start(script: string, env: Record<string, string>): Promise<Child> {
  const child = spawn(process.execPath, [script], { env: { ...process.env, ...env }, stdio: ['ignore', 'pipe', 'inherit'] });
  const told = once(child.stdout, 'data');
  await Promise.race([told, once(child, 'exit').then(() => Promise.reject(new Error(`${script} did not start.`)))]);
  return { process: child, url: `http://127.0.0.1:${env.PORT}` };
}
async function kill(child: Child): Promise<void> {
  if (child.process.exitCode !== null || child.process.signalCode !== null) return;
  const gone = once(child.process, 'exit');
  child.process.kill('SIGKILL');
  await gone;
}

const ports = { server: await freePort(), printer: await freePort(), cutter: await freePort(), hpgl: await freePort() };
const startServer = () =>
  start('build/index.js', { ZING_DATA: data, PORT: String(ports.server), ZING_LOG: 'fatal', ZING_SILENCE_MS: '4000' });
const startPrinter = () =>
  start('dist-node/printer.js', {
    PORT: String(ports.printer),
    FOLDER: join(folder, 'printer'),
    SPEED: '150',
    MEDIA: JSON.stringify(FILM)
  });

const base = `http://127.0.0.1:${ports.server}`;
class Refused extends Error {}
/** One call of the JSON interface. @throws Refused with the server's sentence; anything else where it does not answer */
async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const raw = body instanceof Uint8Array;
  const reply = await fetch(`${base}${path}`, {
    method,
    signal: AbortSignal.timeout(60_000),
    ...(body !== undefined && {
      body: raw ? (body as Uint8Array<ArrayBuffer>) : JSON.stringify(body),
      headers: { 'content-type': raw ? 'application/octet-stream' : 'application/json' }
    })
  });
  const answer = (await reply.json()) as T & { error?: string };
  if (!reply.ok) throw new Refused(answer.error ?? String(reply.status));
  return answer;
}

let printer = await startPrinter();
const cutter = await start('dist-node/cutter.js', { PORT: String(ports.cutter), HPGL_PORT: String(ports.hpgl), SEED: '5' });
let server = await startServer();

// The shop.
const machine = await call<{ id: number }>('POST', '/api/machines', { kind: 'printer', name: 'Petrel 13', url: printer.url });
await call('POST', '/api/machines', { kind: 'cutter', name: 'Tern 130', url: cutter.url });
const media = await call<{ id: number }>('POST', '/api/media', { name: 'Film', widthMm: 400 });
const condition = await call<{ id: number; hasProfile: boolean }>('POST', '/api/conditions', {
  machineId: machine.id,
  mediaId: media.id,
  mode: DRAFT.code
});
for (let ready = false; !ready; await setTimeout(100))
  ready = (await call<{ hasProfile: boolean }[]>('GET', '/api/conditions')).some(({ hasProfile }) => hasProfile);
const db = new Database(join(data, 'shop.sqlite'), { readonly: true });
const rows = <T>(sql: string, ...given: unknown[]) => db.prepare<unknown[], T>(sql).all(...given);

/** What the server said yes to, and must know. */
const said = {
  artwork: new Map<number, string>(),
  /** By docket: the last note that was acknowledged, and one that was sent after it and may have arrived. */
  notes: new Map<number, { version: number; kept: string; sent: string }>(),
  prints: new Map<string, number[]>(),
  acts: 0
};
/** What was told no, and how often. */
const refused = new Map<string, number>();
let alive = true;
const wait = (ms: number) => setTimeout(ms);
/** Does something again and again until the server is killed; what is refused or breaks is not counted. */
async function again(act: () => Promise<unknown>, pauseMs: number): Promise<void> {
  while (alive) {
    try {
      await act();
    } catch (error) {
      // Killed in the middle, or told no: neither is a promise.
      if (error instanceof Refused) refused.set(error.message, (refused.get(error.message) ?? 0) + 1);
    }
    await wait(pauseMs * (0.5 + random()));
  }
}

let count = 0;
async function upload(): Promise<void> {
  const n = ++count;
  const bytes = madePdf({
    width: 60,
    height: 40,
    spots: { Cut: [0, 1, 0, 0] },
    content: `${cmykBox(`0.${n % 10} 0 0 ${n % 2}`, 0, 0, 60, 40 - (n % 7))}${spotStroke('5 5 m 55 5 l 55 35 l 5 35 l h')}`
  });
  const { id } = await call<{ id: number }>('POST', `/api/artworks?name=tag-${n}.pdf`, new Uint8Array(bytes));
  said.artwork.set(id, createHash('sha256').update(bytes).digest('hex'));
  said.acts++;
}
async function edit(): Promise<void> {
  const [row] = rows<{ id: number }>("SELECT id FROM artwork WHERE state = 'ready' ORDER BY random() LIMIT 1");
  if (!row) return;
  const { ids } = await call<{ ids: number[] }>('POST', '/api/dockets', { pages: [{ artworkId: row.id, page: 0 }] });
  const id = ids[0]!;
  said.notes.set(id, { version: 1, kept: '', sent: '' });
  said.acts++;
  for (let i = 0; i < 4; i++) {
    const known = said.notes.get(id)!;
    known.sent = `${id}/${i}`;
    const { version, choices } = await call<{ version: number; choices: object }>('GET', `/api/dockets/${id}`);
    const changed = await call<{ version: number }>('PUT', `/api/dockets/${id}`, {
      version,
      note: known.sent,
      choices: { ...choices, conditionId: condition.id, cut: i % 2 === 1, bleedMm: 0, copies: 3 }
    });
    said.notes.set(id, { version: changed.version, kept: known.sent, sent: known.sent });
    said.acts++;
  }
  // Runs stay small, so that some come through between two kills.
  const [waiting] = rows<{ n: number }>(
    "SELECT count(*) AS n FROM run_docket JOIN run ON run.id = run_id WHERE state IN ('laying out', 'ripping')"
  );
  if (waiting && waiting.n >= 3) return;
  await call('POST', '/api/runs', { docketIds: [id] });
  said.acts++;
}
async function produce(): Promise<void> {
  const [open] = rows<{ id: number; state: string }>(
    "SELECT id, state FROM run WHERE state IN ('laying out', 'ripped') AND id IN (SELECT run_id FROM run_docket) ORDER BY random() LIMIT 1"
  );
  if (!open) return;
  if (open.state === 'laying out') {
    await call('POST', `/api/runs/${open.id}/rip`);
    said.acts++;
    return;
  }
  const request = randomUUID();
  const order = { machineId: machine.id, times: 1 + (random() < 0.2 ? 1 : 0), request };
  let isOld = false;
  // A person presses twice now and then.
  const asked = await Promise.all(
    Array.from({ length: random() < 0.3 ? 2 : 1 }, () =>
      call<{ id: number }[]>('POST', `/api/runs/${open.id}/print`, order).catch((error: unknown) => {
        isOld ||= error instanceof Refused && /RIP it again/.test(error.message);
        return undefined;
      })
    )
  );
  const prints = asked.find((answer) => answer !== undefined);
  // What came into the run since is RIPped too.
  if (isOld) await call('POST', `/api/runs/${open.id}/rip`);
  if (!prints) return;
  said.prints.set(
    request,
    prints.map(({ id }) => id)
  );
  said.acts++;
}
async function cut(): Promise<void> {
  const [task] = rows<{ id: number; state: string }>(
    "SELECT id, state FROM cut_task WHERE state IN ('waiting', 'loaded', 'registered') ORDER BY id DESC LIMIT 1"
  );
  if (!task) return;
  const step = { waiting: 'load', loaded: 'marks', registered: 'cut' }[task.state]!;
  await call('POST', `/api/cuts/${task.id}/${step}`, step === 'cut' ? {} : undefined);
  said.acts++;
}

console.log(`${rounds} rounds in ${folder}`);
let printerKills = 0;
for (let round = 1; round <= rounds; round++) {
  alive = true;
  const clients = [again(upload, 900), again(edit, 400), again(produce, 100), again(produce, 150), again(cut, 100)];
  await wait(300 + random() ** 2 * 6000);
  if (random() < 0.25) {
    await kill(printer);
    printerKills++;
    await wait(random() * 400);
    printer = await startPrinter();
    await wait(random() * 400);
  }
  alive = false;
  await kill(server);
  await Promise.all(clients);
  server = await startServer();
  if (round % 20 === 0) console.log(`${round} rounds, ${said.acts} acts acknowledged`);
}

// Everything comes to rest by itself.
const stuck = () => [
  ...rows<{ what: string }>("SELECT 'Run ' || id || ' is ' || state AS what FROM run WHERE state IN ('ripping', 'printing')"),
  ...rows<{ what: string }>("SELECT 'Print ' || id || ' is ' || state AS what FROM print WHERE ended_at IS NULL"),
  ...rows<{ what: string }>("SELECT 'Cut ' || code || ' is ' || state AS what FROM cut_task WHERE state = 'cutting'"),
  ...rows<{ what: string }>("SELECT 'Artwork ' || id || ' is ' || state AS what FROM artwork WHERE state = 'reading'"),
  ...rows<{ what: string }>("SELECT 'Task ' || id || ' is ' || state AS what FROM task WHERE state IN ('waiting', 'working')")
];
for (const end = Date.now() + REST_MS; stuck().length > 0 && Date.now() < end;) await wait(200);

const wrong: string[] = stuck().map(({ what }) => what);
const artwork = new Map(
  rows<{ id: number; file_hash: string }>('SELECT id, file_hash FROM artwork').map((row) => [row.id, row.file_hash])
);
for (const [id, hash] of said.artwork) if (artwork.get(id) !== hash) wrong.push(`Artwork ${id} was acknowledged and is lost.`);
const dockets = new Map(rows<{ id: number; note: string }>('SELECT id, note FROM docket').map((row) => [row.id, row.note]));
for (const [id, { kept, sent }] of said.notes) {
  const note = dockets.get(id);
  if (note !== kept && note !== sent) wrong.push(`Docket ${id} says “${note}”; “${kept}” was acknowledged.`);
}
const prints = rows<{ id: number; key: string; request: string; state: string; printed_mm: number; usage: string | null }>(
  'SELECT id, key, request, state, printed_mm, usage FROM print'
);
for (const [request, ids] of said.prints)
  if (ids.some((id) => !prints.some((print) => print.id === id && print.request === request)))
    wrong.push(`Prints ${ids.join()} were acknowledged and are lost.`);

/** What the machine itself has printed, from its own journal as it tells it. */
const jobs = await machineJobs();
const byKey = new Map(prints.map((print) => [print.key, print]));
for (const job of jobs) {
  const print = byKey.get(job.key);
  if (!print) wrong.push(`The machine has printed ${job.printedMm} mm of a job that the shop does not know.`);
  else if (Math.abs(print.printed_mm - job.printedMm) > 0.02)
    wrong.push(`Print ${print.id} is ${print.state} with ${print.printed_mm} mm; the machine says ${job.printedMm} mm.`);
  else if ((job.state === JOB_STATE.completed) !== (print.state === 'done'))
    wrong.push(`Print ${print.id} is ${print.state}; the machine says ${job.state}.`);
}
if (new Set(jobs.map(({ key }) => key)).size !== jobs.length) wrong.push('The machine has two jobs for one print.');
for (const print of prints)
  if (print.printed_mm > 0 && !jobs.some(({ key }) => key === print.key))
    wrong.push(`Print ${print.id} is said to have come out; the machine knows nothing of it.`);
const used = prints.reduce((sum, { usage }) => sum + (usage ? (JSON.parse(usage) as { metres: number }).metres * 1000 : 0), 0);
const printed = jobs.reduce((sum, job) => sum + job.printedMm, 0);
const left = ((await (await fetch(`${printer.url}/state`)).json()) as { lengthMm: number }).lengthMm;
if (Math.abs(used - printed) > 0.05 * jobs.length + 0.1)
  wrong.push(`${used.toFixed(1)} mm are written down as used; ${printed.toFixed(1)} mm were printed.`);
if (Math.abs(FILM.lengthMm - left - printed) > 0.5)
  wrong.push(`The roll is ${(FILM.lengthMm - left).toFixed(1)} mm shorter; ${printed.toFixed(1)} mm were printed.`);

const states = rows<{ state: string; n: number }>('SELECT state, count(*) AS n FROM print GROUP BY state').map(
  ({ state, n }) => `${n} ${state}`
);
const cuts = rows<{ state: string; n: number }>('SELECT state, count(*) AS n FROM cut_task GROUP BY state').map(
  ({ state, n }) => `${n} ${state}`
);
const tasks = rows<{ what: string; n: number }>(
  "SELECT kind || ' ' || state AS what, count(*) AS n FROM task GROUP BY kind, state"
).map(({ what, n }) => `${n} ${what}`);
const ran = rows<{ state: string; n: number }>('SELECT state, count(*) AS n FROM run GROUP BY state').map(
  ({ state, n }) => `${n} ${state}`
);
db.close();
const gone = once(server.process, 'exit');
server.process.kill('SIGTERM');
await gone;
for (const { what, mended } of await checkFolder(data, { mend: true, contents: true, youngerMs: 0 })) {
  // What lay between a file and its row goes with the sweep, and nothing that was acknowledged is among it.
  if (!mended || !/needed by nothing|no run’s/.test(what)) wrong.push(what);
}
for (const { what } of await checkFolder(data, { mend: false, contents: true, youngerMs: 0 }))
  wrong.push(`After the sweep: ${what}`);
await kill(printer);
await kill(cutter);

console.log(`kills\t${rounds} of the server, ${printerKills} of the printer`);
console.log(`acts acknowledged\t${said.acts}`);
console.log(`tasks\t${tasks.join(', ')}\nruns\t${ran.join(', ')}`);
console.log(`artwork\t${said.artwork.size}\nprints\t${states.join(', ')}\ncuts\t${cuts.join(', ')}`);
console.log(`printed\t${(printed / 1000).toFixed(2)} m in ${jobs.length} jobs; written down ${(used / 1000).toFixed(2)} m`);
if (values.verbose) for (const [what, n] of [...refused].sort((p, q) => q[1] - p[1]).slice(0, 20)) console.log(`${n}\t${what}`);
console.log(`wrong\t${wrong.length}`);
for (const what of wrong.slice(0, 50)) console.log(`  ${what}`);
if (wrong.length === 0) rmSync(folder, { recursive: true, force: true });
else console.log(`The data folder is ${data}.`);
process.exit(wrong.length > 0 ? 1 : 0);

async function machineJobs(): Promise<{ key: string; state: number; printedMm: number }[]> {
  const reply = await fetch(`${printer.url}/jobs`);
  return (await reply.json()) as { key: string; state: number; printedMm: number }[];
}
