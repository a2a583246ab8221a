import * as fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CutterRoll } from '$protocol/cutter';
import { Shop } from '$lib/server/app/shop';
import { Problem } from '$lib/server/platform/problem';
import { modeOf, oneChunk, startStandIn, temporaryFolder, until, type StandIn } from '../harness';
import { cmykBox, madePdf, spotStroke } from '../made/pdf';

/**
 * Whatever becomes of prints of one code in two cutters, of which each is sent its lines or asks for them, in whatever order: no
 * line is cut twice unless a person said so, none is told as cut that is not, and a print is in one cutter's hands at most.
 */

const folder = temporaryFolder();
const PRINTS = 4;
const LINES = 5;
let printer: StandIn;
let shop: Shop;
let cutters: number[];
let tasks: number[];
let code: string;
let marks: { x: number; y: number }[];
let docket: number;
/** By line the strokes that are made when it is cut. */
let ends: number[];

beforeAll(async () => {
  printer = await startStandIn('printer', { MEDIA: JSON.stringify({ name: 'Film', surface: 'gloss', widthMm: 300, lengthMm: 90_000 }) }); // prettier-ignore
  shop = new Shop(folder.path);
  const petrel = shop.machines.add('printer', 'Petrel 13', printer.url);
  // They answer nothing: what they do is told in their place.
  cutters = [1, 2].map((n) => shop.machines.add('cutter', `Tern ${n}`, `http://127.0.0.1:${n}`));
  shop.start();
  await shop.machines.lookNow();
  const media = shop.media.addNew({ name: 'Film', widthMm: 300 }).id;
  const conditionId = shop.conditionEditing.add(petrel, media, modeOf('Petrel 13/Harbour/calendered/720/8/both ways/quality'));
  await until(() => shop.conditions.get(conditionId).hasProfile);
  const line = '4 4 m 46 4 l 46 26 l 4 26 l h';
  const bytes = madePdf({ width: 50, height: 30, spots: { Cut: [0, 1, 0, 0] }, content: `${cmykBox('0.3 0 0 0', 0, 0, 50, 30)}${spotStroke(line)}` }); // prettier-ignore
  const { id } = await shop.artworks.take('tag.pdf', oneChunk(bytes));
  await until(() => shop.artworks.get(id).state === 'ready');
  docket = shop.dockets.add(id, 0, { conditionId, copies: LINES, bleedMm: 0, cut: true }).id;
  const run = shop.layingOut.add([docket])[0]!;
  await shop.tasks.ended((await shop.ripping.rip(run)).id);
  const prints = await shop.printing.start(run, petrel, PRINTS);
  await until(() => prints.every((print) => shop.prints.get(print.id).endedAt !== null));
  tasks = shop.cuts.ofRun(run).map((task) => task.id).sort((a, b) => a - b); // prettier-ignore
  const plan = shop.cuts.plan(tasks[0]!);
  code = plan.codes!.length > 0 ? shop.cuts.row(tasks[0]!).print_code! : '';
  // As a camera sees them: y up.
  marks = plan.marks.map(({ x, y }) => ({ x, y: plan.lengthMm - y }));
  shop.cuts.loaded(tasks[0]!, 'first', cutters[0]!);
  shop.cuts.registered(tasks[0]!, await shop.cutPaths.sighted(tasks[0]!, marks), 'first');
  ends = (await shop.cutPaths.led(tasks[0]!, 0)).ends;
});
afterAll(async () => {
  await shop.close();
  printer.stop();
  folder.remove();
});

/** What may happen, with how often it is tried. */
const ACTS = {
  'lay in': 4,
  'find marks': 4,
  send: 4,
  ask: 6,
  'go on': 8,
  'come to its end': 4,
  break: 3,
  'switch off': 1,
  'give up': 1,
  'take out': 1,
  'put down': 2,
  'put back': 2,
  allow: 2
};
type Act = keyof typeof ACTS;
const step = fc.record({
  act: fc.constantFrom(...Object.entries(ACTS).flatMap(([act, often]) => Array.from({ length: often }, () => act as Act))),
  task: fc.nat(PRINTS - 1),
  cutter: fc.nat(1),
  lines: fc.nat(LINES)
});
interface Step {
  act: Act;
  task: number;
  cutter: number;
  lines: number;
}

/** What a print is in truth: how often each of its lines was cut, and by which cutter it is being cut. */
interface Truth {
  cut: number[];
  by: number | null;
  asked: boolean;
}
const anew = (): Truth => ({ cut: Array.from({ length: LINES }, () => 0), by: null, asked: false });
const known = ({ cut }: Truth) => cut.filter((times) => times > 0).length;

let sheets = 0;

/** Does one thing, as cutters and persons do it. @returns what was done, for where it goes wrong */
async function doing({ act, task: which, cutter, lines }: Step, truth: Map<number, Truth>): Promise<string> {
  const { cuts, asking } = shop;
  const id = tasks[which]!;
  const machineId = cutters[cutter]!;
  const row = cuts.row(id);
  const own = truth.get(id)!;
  /** The knife goes on to a line, and the shop hears of it as its way has it. */
  const cutTo = (to: number) => {
    for (let line = known(own); line < to; line++) own.cut[line]!++;
    return { task: id, strokes: (to === 0 ? 0 : ends[to - 1]!) + row.line_offset };
  };
  const to = Math.max(known(own), Math.min(LINES, lines));
  const begins = (of: number, by: number, asked: boolean) => {
    const begun = truth.get(of)!;
    expect(begun.by, `${of} is cut by two`).toBeNull();
    truth.set(of, { ...begun, by, asked });
  };
  switch (act) {
    case 'lay in':
      // A cutter that cuts has no room.
      if ([...truth.values()].some(({ by }) => by === machineId)) return 'no room';
      if (!cuts.loaded(id, `S${++sheets}`, machineId)) return 'not free';
      if (row.state === 'cut') truth.set(id, anew());
      return 'lies in it';
    case 'find marks':
      return String(cuts.registered(id, await shop.cutPaths.sighted(id, marks), row.sheet ?? ''));
    case 'send': {
      if ([...truth.values()].some(({ by }) => by === row.machine_id)) return 'it is busy';
      const { knife, linesCut: from } = cuts.get(id);
      if (!cuts.claim(id, { sheet: row.sheet ?? '', knife, hpglHash: '', from, offset: -(ends[from - 1] ?? 0) })) return 'no';
      expect(from).toBe(known(own));
      begins(id, row.machine_id!, false);
      return `sent from ${from}`;
    }
    case 'ask': {
      const before = new Map(tasks.map((one) => [one, cuts.row(one)]));
      const roll = [...truth.values()].some(({ by, asked }) => by === machineId && asked);
      if (roll) return 'it is busy';
      const { task, from, of } = await asking.claim(machineId, code, {
        sheet: `R${machineId}/${++sheets}`,
        seen: marks,
        code: null
      });
      expect(of).toBe(LINES);
      const was = before.get(task)!;
      // What is cut already is cut once more because somebody said so.
      if (was.state === 'cut') expect(was.allowed).toBe(1);
      if (was.state === 'cut' && was.closed === null) truth.set(task, anew());
      expect(from).toBe(known(truth.get(task)!));
      begins(task, machineId, true);
      return `has ${task} from ${from}`;
    }
    case 'go on':
      if (own.by === null) {
        // Who does not have it, or has it no more, is told so.
        await expect(asking.progress(machineId, code, { task: id, strokes: 1 })).rejects.toThrow('is not being cut by');
        return 'refused';
      }
      if (own.asked) await asking.progress(own.by, code, cutTo(to));
      else {
        cutTo(to);
        cuts.progress(id, to, null);
      }
      return `at ${to}`;
    case 'come to its end':
      if (own.by === null) return 'not cut';
      if (own.asked) await asking.done(own.by, code, cutTo(LINES));
      else {
        cutTo(LINES);
        cuts.ended(id, 'cut', LINES, null);
      }
      own.by = null;
      return 'cut';
    case 'break':
      if (own.by === null) return 'not cut';
      if (own.asked) await asking.failed(own.by, code, { ...cutTo(to), reason: 'The blade broke.' });
      else {
        cutTo(to);
        cuts.ended(id, 'registered', to, 'The line broke.');
      }
      own.by = null;
      return `broke at ${to}`;
    case 'switch off': {
      // A cutter that asked has another roll, or none, when it is on again. What it said before it claimed comes late.
      const isLate = lines === 0 && [...truth.values()].some(({ by, asked }) => by === machineId && asked);
      shop.events.tell('cutter seen', {
        machineId,
        roll: { id: `new ${++sheets}`, state: 'lies', places: [] as unknown[] } as CutterRoll,
        askedAt: isLate ? 0 : performance.now()
      });
      if (isLate) return 'late';
      for (const one of truth.values()) if (one.by === machineId && one.asked) one.by = null;
      return 'off';
    }
    case 'give up':
      if (own.by === null) return 'not cut';
      shop.cutting.giveUp(id);
      own.by = null;
      return 'given up';
    case 'take out':
      if (row.state === 'cutting') return 'it is cut';
      cuts.unloaded(id, row.sheet, 'Taken out.');
      return 'taken out';
    case 'put down': {
      const closed = cuts.close([id], 'cut elsewhere');
      expect(closed.length > 0).toBe(row.state !== 'cutting' && row.state !== 'cut');
      return String(closed.length);
    }
    case 'put back': {
      expect(cuts.putBack([id]).length > 0).toBe(row.closed !== null);
      return 'back';
    }
    case 'allow':
      cuts.allow(id);
      return 'allowed';
  }
}

/** What the shop says of each print is what it is in truth. */
function compare(truth: Map<number, Truth>): void {
  for (const [id, { cut, by, asked }] of truth) {
    const row = shop.cuts.row(id);
    expect(Math.max(...cut), `${id}: a line was cut twice`).toBeLessThanOrEqual(1);
    expect([row.state === 'cutting', row.state === 'cutting' ? row.machine_id : null], `${id}: who cuts it`).toEqual([by !== null, by]); // prettier-ignore
    if (by !== null) expect(row.asked === 1).toBe(asked);
    expect(row.lines_cut, `${id}: lines`).toBe(cut.filter((times) => times > 0).length);
    if (row.state === 'cut' && row.closed === null) expect(row.lines_cut, `${id}: whole`).toBe(LINES);
    expect(row.state === 'loaded' || row.state === 'registered' ? row.sheet : '').not.toBeNull();
  }
  // In a cutter that is sent its lines lies one sheet.
  for (const cutter of cutters) {
    const inside = [...truth.keys()].filter((id) => {
      const { state, machine_id: machine } = shop.cuts.row(id);
      return machine === cutter && (state === 'loaded' || state === 'registered');
    });
    expect(inside.length).toBeLessThanOrEqual(1);
  }
  const isDone = tasks.every((id) => shop.cuts.row(id).state === 'cut');
  expect(shop.dockets.lines([docket])[0]!.stage).toBe(isDone ? 'done' : 'printed');
}

describe('prints that are cut', () => {
  it('are each cut once, by one cutter, whatever becomes of it', async () => {
    expect([tasks.length, ends.length, code.length > 0]).toEqual([PRINTS, LINES, true]);
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 10, maxLength: 60 }), async (steps) => {
        shop.db.exec(
          "UPDATE cut_task SET state = 'waiting', lines_cut = 0, allowed = 0, closed = NULL, sheet = NULL, registration = NULL, machine_id = NULL, asked = 0"
        );
        const truth = new Map(tasks.map((id) => [id, anew()]));
        const log: string[] = [];
        for (const one of steps) {
          const what = `${one.act} print ${one.task} cutter ${one.cutter} lines ${one.lines}`;
          try {
            log.push(`${what}: ${await doing(one, truth)}`);
          } catch (error) {
            if (!(error instanceof Problem)) throw new Error(`${log.join('\n')}\n${what}`, { cause: error });
            log.push(`${what}: ${error.message}`);
          }
          try {
            compare(truth);
          } catch (error) {
            throw new Error(log.join('\n'), { cause: error });
          }
        }
      }),
      { numRuns: 100, seed: 11 }
    );
  });
});
