import { randomUUID } from 'node:crypto';
import * as fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newWall } from '$core/panels/wall';
import { pieceOf } from '$core/layout/pieces';
import { NO_RECORDS } from '$core/records/choices';
import { Shop } from '$lib/server/app/shop';
import { Problem } from '$lib/server/platform/problem';
import type { Run } from '$lib/server/production/run';
import { modeOf, oneChunk, startStandIn, temporaryFolder, until, type StandIn } from '../harness';
import { nameField } from '../made/fields';
import { smallPage } from '../made/small-page';

/**
 * Whatever is done to runs in whatever order, every copy that was asked for waits or is printed, and none twice: held
 * back, taken out and put back, moved to another lane, divided by sheets, put into a run of its own, printed in part.
 */

const folder = temporaryFolder();
let printers: StandIn[] = [];
let shop: Shop;
let artworkId: number;
/** Two medias on a roll, and two on sheets. */
const conditions: number[] = [];
let bed: number;

beforeAll(async () => {
  const roll = { name: 'Film', surface: 'gloss', widthMm: 300, lengthMm: 20_000 };
  const sheets = { name: 'Board', surface: 'matt', widthMm: 300, lengthMm: 0, sheetMm: 160, sheets: 99 };
  printers = await Promise.all([
    startStandIn('printer', { MEDIA: JSON.stringify(roll) }),
    startStandIn('printer', { MODEL: 'Skua 25', MEDIA: JSON.stringify(sheets) })
  ]);
  shop = new Shop(folder.path);
  const petrel = shop.machines.add('printer', 'Petrel 13', printers[0]!.url);
  bed = shop.machines.add('printer', 'Skua 25', printers[1]!.url);
  shop.start();
  await shop.machines.lookNow();
  for (const name of ['Film', 'Cloth']) {
    const { id } = shop.media.addNew({ name, widthMm: 300 });
    conditions.push(shop.conditionEditing.add(petrel, id, modeOf('Petrel 13/Harbour/calendered/360/4/both ways/draft')));
  }
  for (const name of ['Board', 'Plate']) {
    const { id } = shop.media.addNew({ name, family: 'rigid', surface: 'matt', widthMm: 300, thicknessMm: 5 });
    conditions.push(shop.conditionEditing.add(bed, id, modeOf('Skua 25/Skerry/rigid/360/4/both ways/draft')));
  }
  await until(() => shop.conditions.list().every(({ hasProfile }) => hasProfile));
  const { id } = await shop.artworks.take('tag.pdf', oneChunk(smallPage('0 0 0 .2 k 0 0 20 20 re f')));
  await until(() => shop.artworks.get(id).state === 'ready');
  artworkId = id;
});
afterAll(async () => {
  await shop.close();
  for (const printer of printers) printer.stop();
  folder.remove();
});

const CSV = `name\n${['Ada', 'Bo', 'Cai', 'Dov', 'Eli'].join('\n')}\n`;

/** Three dockets: tags, tags with a name each, and a wall. */
async function dockets(): Promise<number[]> {
  const all = { conditionId: conditions[0]!, mayTurn: false };
  const tags = shop.dockets.add(artworkId, 0, { ...all, copies: 7, widthMm: 90, heightMm: 60 }, 'Tags');
  const named = shop.dockets.add(
    artworkId,
    0,
    { ...all, widthMm: 90, heightMm: 50, records: { ...NO_RECORDS, fields: [nameField] } },
    'Named'
  );
  const table = { bytes: new TextEncoder().encode(CSV), name: 'crew.csv', how: {}, key: undefined };
  await shop.docketRecords.take(named.id, named.version, table);
  const wall = { ...all, copies: 2, widthMm: 500, heightMm: 150, bleedMm: 13, wall: newWall(13) };
  return [tags.id, named.id, shop.dockets.add(artworkId, 0, wall, 'Wall').id];
}

/** Two dockets on sheets, of which many are equal: three of the larger ones lie side by side. */
async function onSheets(): Promise<number[]> {
  const all = { conditionId: conditions[2]!, mayTurn: false };
  const some = [
    { copies: 16, widthMm: 90, heightMm: 60 },
    { copies: 5, widthMm: 120, heightMm: 50 }
  ];
  return some.map((one) => shop.dockets.add(artworkId, 0, { ...all, ...one }, `Tags of ${one.widthMm} mm`).id);
}

/** Copies of a docket in a run, each by what tells it apart: its number, its record, or which panel of which copy. */
function copiesIn(run: Run, docket: number): string[] {
  const piecesOf = run.laid.filter((piece) => piece.docket === String(docket));
  return piecesOf.flatMap(({ id, copies, first, records, panel }) =>
    Array.from({ length: copies }, (_, i) =>
      panel ? `panel ${pieceOf(id).piece}` : records ? `record ${records[i]}` : `copy ${first + i}`
    )
  );
}

/** Runs that are not charts, with what is held back in them laid out too. */
const allRuns = (): Run[] =>
  shop.db
    .prepare<[], number>('SELECT id FROM run WHERE chart_id IS NULL ORDER BY id')
    .pluck()
    .all()
    .map((id) => shop.runs.get(id));

/** With what is held back laid out as well. */
function heldToo<T>(look: () => T): T {
  shop.db.exec('BEGIN; UPDATE run_docket SET held = 0');
  try {
    return look();
  } finally {
    shop.db.exec('ROLLBACK');
  }
}
/** Copies of a docket that a run prints still, or printed: equal sheets are one run, so many times. */
const times = (run: Run, docket: number): string[] =>
  Array.from({ length: run.state === 'printed' ? run.times : run.times - run.came }, () => copiesIn(run, docket)).flat();

/** All that waits of a docket, in order. */
const waiting = (docket: number): string[] =>
  heldToo(() =>
    allRuns()
      .filter(({ state }) => state !== 'printed')
      .flatMap((run) => times(run, docket))
      .sort()
  );

/** Those of dockets that are held back. */
const heldOf = (ids: number[]): number[] =>
  ids.filter((id) =>
    allRuns().some(({ state, entries }) => state !== 'printed' && entries.some((one) => one.docketId === id && one.held))
  );

/** The two lanes of the machine that dockets are for. */
const lanesFor = ([id]: readonly number[]): number[] => {
  const { machineId } = shop.conditions.get(shop.dockets.get(id!).choices.conditionId!);
  return shop.lanes.list().flatMap((lane) => (lane.condition.machineId === machineId ? [lane.id] : []));
};

/** What may be done, with how often it is tried. */
const ACTS = {
  'lay out': 2,
  move: 3,
  'hold back': 3,
  'take out': 2,
  'put back': 3,
  rip: 4,
  'rip what is full': 2,
  'put apart': 3,
  print: 3,
  'print one of them': 3,
  'leave it at that': 2,
  'print again': 1,
  divide: 3
};
type Act = keyof typeof ACTS;
interface Step {
  act: Act;
  a: number;
  b: number;
  c: number;
}
const SEED = 7;
const step: fc.Arbitrary<Step> = fc.record({
  act: fc.constantFrom(...Object.entries(ACTS).flatMap(([act, often]) => Array.from({ length: often }, () => act as Act))),
  a: fc.nat(1000),
  b: fc.nat(1000),
  c: fc.nat(1000)
});

/** What lies where, to be read where a step went wrong. */
const told = (): string =>
  allRuns()
    .map(
      ({ id, state, stale, laid }) =>
        `${id} ${state}${stale ? '!' : ''}: ${laid.map((one) => `${one.copies} × ${one.id}`).join(', ')}`
    )
    .join('; ');

/** The dockets of a shop, what is to wait of each, and what of them was taken out of which run. */
interface Known {
  ids: number[];
  whole: Map<number, string[]>;
  takenOut: Map<string, string[]>;
  log: string[];
}

/** Prints a run so often, without a machine. */
function comesOut({ id: runId }: Run, often: number): void {
  const what = { runId, machineId: bed, lengthMm: 100, fromMm: 0, restOf: null };
  for (const id of shop.prints.add(randomUUID(), what, often))
    shop.prints.end(id, { state: 'done', reason: null, printedMm: 100, inkMl: [0, 0, 0, 0], seconds: 1 });
}

/** Does one thing, and sees that of every docket as much waits as then should. */
async function doing({ act, a, b, c }: Step, { ids, whole, takenOut, log }: Known): Promise<void> {
  const runs = allRuns();
  const open = runs.filter(({ state }) => state !== 'printed');
  const run = open[a % Math.max(1, open.length)];
  const docket = ids[b % ids.length]!;
  const some = ids.filter((_, i) => ((c >> i) & 1) === 1 || i === b % ids.length);
  const isChosen = (_: unknown, i: number) => ((c >> (i % 8)) & 1) === 1;
  const before = new Map(ids.map((id) => [id, waiting(id)]));
  const now = new Map(before);
  const isLying = (id: number) => open.some((one) => one.dockets.some((other) => other.id === id));
  const more = (id: number, copies: readonly string[]) => now.set(id, [...now.get(id)!, ...copies].sort());
  const less = (id: number, copies: readonly string[]) => {
    const rest = [...now.get(id)!];
    for (const copy of copies) {
      expect(rest, log.join('\n')).toContain(copy);
      rest.splice(rest.indexOf(copy), 1);
    }
    now.set(id, rest);
  };
  try {
    switch (act) {
      case 'lay out':
        for (const id of some) if (!isLying(id)) now.set(id, whole.get(id)!);
        shop.layingOut.add(some, undefined, c % 5 === 0);
        break;
      case 'move': {
        for (const id of some) if (!isLying(id)) now.set(id, whole.get(id)!);
        const held = heldOf(some);
        shop.layingOut.move(some, lanesFor(ids)[a % 2]!);
        expect(heldOf(some), log.join('\n')).toEqual(held);
        break;
      }
      case 'hold back':
        if (run) shop.runEditing.change(run.id, run.version, { held: run.dockets.map(({ id }) => id).filter(isChosen) });
        break;
      case 'take out': {
        if (!run?.dockets.some(({ id }) => id === docket)) break;
        const all = heldToo(() => times(shop.runs.get(run.id), docket));
        less(docket, all);
        const others = run.dockets.map(({ id }) => id).filter((id) => id !== docket);
        shop.runEditing.change(run.id, run.version, { docketIds: others });
        takenOut.set(`${run.id}/${docket}`, all);
        break;
      }
      case 'put back':
        if (!run || run.dockets.some(({ id }) => id === docket)) break;
        more(docket, takenOut.get(`${run.id}/${docket}`) ?? whole.get(docket)!);
        shop.runEditing.change(run.id, run.version, { docketIds: [...run.dockets.map(({ id }) => id), docket] });
        break;
      case 'divide':
        if (!run) break;
        shop.runEditing.change(run.id, run.version, {
          rule: { ...run.rule, longest: [null, 100, 170, 300][a % 4]!, placing: c % 2 === 0 ? 'rows' : 'close' }
        });
        break;
      case 'rip':
      case 'rip what is full':
        if (!run) break;
        await shop.ripping.rip(run.id, { fullM2: act === 'rip' ? 0 : 0.02 });
        await until(() => allRuns().every(({ state }) => state !== 'ripping'));
        break;
      case 'put apart': {
        const panels = new Set(run?.laid.flatMap(({ id, panel }) => (panel ? [id] : [])));
        const copies = run?.layout.parts
          .flatMap((part) => part.copies)
          .filter((copy, i) => panels.has(copy.id) && isChosen(copy, i));
        if (run && copies && copies.length > 0) shop.runCopies.apart(run.id, run.version, copies);
        break;
      }
      case 'print':
      case 'print one of them': {
        const ready = runs.filter(({ state, stale }) => state === 'ripped' && !stale);
        if (ready.length === 0) break;
        // Equal sheets first, where they are to be printed in part.
        const one = (act === 'print' ? undefined : ready.find((one) => one.times > 1)) ?? ready[a % ready.length]!;
        const often = act === 'print' ? one.times - one.came : 1;
        for (const id of ids) less(id, Array.from({ length: often }, () => copiesIn(one, id)).flat());
        comesOut(one, often);
        expect(shop.runs.row(one.id).state, log.join('\n')).toBe(one.came + often < one.times ? 'ripped' : 'printed');
        break;
      }
      case 'leave it at that': {
        const one = open.find(({ state, came }) => state === 'ripped' && came > 0) ?? run;
        if (!one) break;
        for (const id of ids) less(id, times(one, id));
        shop.runEditing.leave(one.id);
        break;
      }
      case 'print again': {
        const one = runs.find(({ state }) => state === 'printed');
        const copies = one?.layout.parts.flatMap((part) => part.copies).filter(isChosen) ?? [];
        if (!one || copies.length === 0) break;
        const made = shop.runs.get(shop.runCopies.again(one.id, copies));
        expect(made.laid.reduce((sum, piece) => sum + piece.copies, 0)).toBe(copies.length);
        for (const id of ids) more(id, times(made, id));
        break;
      }
    }
    log.push(`${act} ${a} ${b} ${c} → ${told()}`);
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    // What is refused changes nothing.
    log.push(`${act} ${a} ${b} ${c}: ${error.message}`);
    for (const id of ids) now.set(id, before.get(id)!);
  }
  for (const id of ids) expect(waiting(id).map(plain), log.join('\n')).toEqual(now.get(id)!.map(plain));
}
/** Copies that are alike are told apart by their numbers alone, which follow from where they lie. */
const plain = (copy: string): string => copy.replace(/^copy \d+$/, 'copy');

describe('copies', () => {
  it.each([
    { on: 'a roll', some: dockets, runs: 12 },
    { on: 'sheets', some: onSheets, runs: 8 }
  ])('wait or are printed on $on, each once, whatever is done', { timeout: 600_000 }, async ({ some, runs }) => {
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 6, maxLength: 24, size: 'max' }), async (steps) => {
        shop.db.exec("UPDATE run SET state = 'laying out' WHERE chart_id IS NULL; DELETE FROM cut_task; DELETE FROM print; DELETE FROM run WHERE chart_id IS NULL"); // prettier-ignore
        const ids = await some();
        shop.layingOut.add(ids);
        const known: Known = { ids, whole: new Map(ids.map((id) => [id, waiting(id)])), takenOut: new Map(), log: [] };
        for (const one of steps) {
          await doing(one, known);
          // What is RIPped has all of its copies on its plates.
          for (const run of allRuns()) {
            if (run.state !== 'ripped' || run.stale) continue;
            const { plan } = shop.runs.frozen(run.id);
            expect(plan.pieces.length, known.log.join('\n')).toBe(run.laid.reduce((sum, piece) => sum + piece.copies, 0));
          }
        }
      }),
      { numRuns: runs, seed: SEED }
    );
  });
});
