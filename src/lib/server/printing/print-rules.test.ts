import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fourInks } from '$core/inks/ink-set';
import { wholePage } from '$core/artwork/preparation';
import { evenSides } from '$core/geometry/box';
import type { RipPlan } from '$core/rip/plan';
import { JOB_STATE } from '$protocol/ipp';
import type { JobStatus } from '../machines/printer-client';
import type { Machine } from '../machines/machines';
import type { Run } from '../production/run';
import type { Print } from './print';
import { endOf, hindrance, reasonText, restFrom, unsent } from './print-rules';

const plan: RipPlan = {
  widthMm: 1300,
  lengthMm: 900,
  dpi: { x: 720, y: 720 },
  inks: fourInks([6, 13, 21]),
  totalInk: null,
  sources: [
    {
      file: 'a',
      page: 0,
      widthMm: 200,
      heightMm: 100,
      bleed: evenSides(0),
      prepare: wholePage({ widthMm: 200, heightMm: 100 }),
      intent: 'relative',
      sources: { rgb: 'srgb', cmyk: 'offset', grey: 'grey' }
    }
  ],
  pieces: [0, 150, 300, 450].map((y) => ({ source: 0, x: 10, y: y + 20, turn: 0 as const })),
  marks: []
};
const run = (over: Partial<Run> = {}) =>
  ({
    state: 'ripped',
    stale: false,
    hasPlates: true,
    condition: { machineId: 1, machine: 'Petrel 13', media: 'Film' },
    stock: { kind: 'roll', width: 1300 },
    ...over
  }) as Run;
/** Sheets with a jig whose things stand so high. */
const inJig = (thicknessMm: number) =>
  ({ kind: 'sheet', width: 1300, height: 900, corner: 'front left', jig: { thicknessMm } }) as Run['stock'];
const machine = (media: object = {}, over: object = {}) =>
  ({
    id: 1,
    name: 'Petrel 13',
    online: true,
    printer: {
      reasons: [],
      media: { name: 'Film', widthMm: 1300, lengthMm: 5000, sheetMm: null, sheets: 0, ...media }
    },
    ...over
  }) as unknown as Machine;

describe('a machine prints a run', () => {
  it('when it has what the run is for', () => {
    expect(hindrance(run(), plan, machine(), 1, 'mm')).toBeUndefined();
    expect(hindrance(run({ state: 'printed' }), plan, machine(), 5, 'mm')).toBeUndefined();
    expect(hindrance(run(), plan, machine({ sheetMm: 900, sheets: 3, lengthMm: 0 }), 3, 'mm')).toBeUndefined();
  });

  it.each([
    ['not RIPped', run({ state: 'laying out' }), machine(), 1, 'RIP the run first.'],
    ['printing', run({ state: 'printing' }), machine(), 1, 'The run is being printed.'],
    ['off', run(), machine({}, { online: false }), 1, 'Petrel 13 does not answer. Switch it on.'],
    ['another machine', run(), machine({}, { id: 2 }), 1, 'The run is for Petrel 13.'],
    ['another media', run(), machine({ name: 'Cloth' }), 1, 'Petrel 13 has Cloth loaded; the run is for Film.'],
    ['for another media', run({ hindrance: 'Sign is for Cloth by now.' }), machine(), 1, 'Sign is for Cloth by now.'],
    ['too narrow', run(), machine({ widthMm: 1270 }), 1, 'The roll is 1270 mm wide; the run needs 1300 mm.'],
    ['sheets too short', run(), machine({ sheetMm: 800, sheets: 9 }), 1, 'The sheets are 800 mm long; the run needs 900 mm.'],
    ['too few sheets', run(), machine({ sheetMm: 900, sheets: 2 }), 3, '2 sheets are left; 3 are needed.'],
    ['too short a roll', run(), machine({ lengthMm: 1700 }), 2, '1.70 m are left on the roll; 1.80 m are needed.'],
    [
      'too high things',
      run({ stock: inJig(120) }),
      machine({}, { printer: { ...machine().printer, mostThingMm: 100 } }),
      1,
      'These things stand 120 mm high; Petrel 13 takes 100 mm.'
    ],
    [
      'several loads at once',
      run({ stock: inJig(4) }),
      machine(),
      2,
      'One load at a time: its things are taken off, and the next laid in, before that prints.'
    ],
    ['old plates', run({ stale: true }), machine(), 1, 'The layout has changed since the RIP. RIP it again.']
  ])('not when it is %s, and says so', (_why, of, on, times, sentence) => {
    expect(hindrance(of, of.state === 'laying out' ? undefined : plan, on, times, 'mm')).toBe(sentence);
  });

  it('tells lengths in what the shop measures in', () => {
    expect(hindrance(run(), plan, machine({ widthMm: 1270 }), 1, 'in')).toBe('The roll is 50 in wide; the run needs 51.2 in.');
    expect(hindrance(run(), plan, machine({ lengthMm: 1700 }), 2, 'in')).toBe(
      '5.58 ft are left on the roll; 5.91 ft are needed.'
    );
  });

  it('not when something stops it', () => {
    const stopped = machine();
    stopped.printer!.reasons = ['cover-open', 'spool-area-full'];
    expect(hindrance(run(), plan, stopped, 1, 'mm')).toMatch(/^The cover is open/);
    expect(reasonText('spool-area-full')).toBe('The machine says: spool-area-full.');
  });
});

const print = (over: Partial<Print> = {}): Print => ({
  id: 1,
  runId: 1,
  machineId: 1,
  machine: 'Petrel 13',
  request: 'a',
  state: 'failed',
  reason: null,
  lengthMm: 900,
  printedMm: 0,
  fromMm: 0,
  restOf: null,
  keptMm: null,
  inkMl: [],
  givenUp: false,
  startedAt: 0,
  endedAt: 1,
  ...over
});

describe('a print that broke off', () => {
  it('goes on before the first row that is not whole, wherever it broke', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 899, noNaN: true }), (printedMm) => {
        const from = restFrom({ plan, cuts: [] }, print({ printedMm }), []);
        const open = plan.pieces.filter(({ y }) => y + 100 > printedMm);
        const top = Math.min(...open.map(({ y }) => y)) - 5;
        // Where no row is whole yet, all of it is printed again but for the white before the first.
        expect(from).toBe(open.length === 0 ? undefined : top);
      })
    );
  });

  it('a second time goes on after where it had gone on', () => {
    const second = print({ fromMm: 165, printedMm: 160 });
    expect(restFrom({ plan, cuts: [] }, second, [])).toBe(315);
    expect(restFrom({ plan, cuts: [] }, print({ fromMm: 165, printedMm: 20 }), [])).toBeUndefined();
  });

  it('once, unless nothing came of that', () => {
    const from = (...rests: Print[]) => restFrom({ plan, cuts: [] }, print({ printedMm: 300 }), rests);
    expect(from(print({ printedMm: 0, state: 'cancelled' }))).toBe(from());
    expect(from()).toBeGreaterThan(0);
    for (const rest of [
      { state: 'done' as const, printedMm: 600 },
      { printedMm: 40 },
      { endedAt: null },
      { printedMm: 0, givenUp: true }
    ])
      expect(from(print(rest), print({ printedMm: 0 }))).toBeUndefined();
  });

  it('does not where the cutter needs all marks, all came out, or the machine has yet to say how far it came', () => {
    expect(restFrom({ plan, cuts: [{}] as never }, print({ printedMm: 300 }), [])).toBeUndefined();
    expect(restFrom({ plan, cuts: [] }, print({ printedMm: 900, state: 'done' }), [])).toBeUndefined();
    expect(restFrom({ plan, cuts: [] }, print({ printedMm: 300, givenUp: true }), [])).toBeUndefined();
    expect(restFrom({ plan, cuts: [] }, print({ printedMm: 300, endedAt: null }), [])).toBeUndefined();
  });
});

describe('the end of a print', () => {
  const job = (state: number, printedMm: number, reason = ''): JobStatus => ({
    id: 1,
    state,
    reason,
    printedMm,
    inkMl: [1],
    seconds: 4,
    handling: null
  });
  const row = (cancelled = false) => ({ length_mm: 900, cancelled_at: cancelled ? 1 : null });

  it.each([JOB_STATE.pending, JOB_STATE.held, JOB_STATE.processing, JOB_STATE.stopped])('is not there in state %i', (state) => {
    expect(endOf(job(state, 300), row(), 'Petrel 13', 'mm')).toBeUndefined();
  });

  it.each([
    [JOB_STATE.completed, 900, '', false, undefined, 'done', null],
    [JOB_STATE.cancelled, 300, '', true, undefined, 'cancelled', 'It was cancelled when 0.30 m of 0.90 m were printed.'],
    [JOB_STATE.cancelled, 0, '', true, 'it was cancelled.', 'cancelled', 'It was cancelled before anything was printed.'],
    [
      JOB_STATE.aborted,
      0,
      'document-format-error',
      true,
      'it was cancelled.',
      'cancelled',
      'It was cancelled before anything was printed.'
    ],
    // At the machine itself.
    [JOB_STATE.cancelled, 300, '', false, undefined, 'cancelled', 'It was cancelled when 0.30 m of 0.90 m were printed.'],
    // By us, since its plates did not come.
    [JOB_STATE.cancelled, 0, '', false, 'the line broke.', 'failed', unsent('the line broke.')],
    [JOB_STATE.aborted, 0, '', false, 'the line broke.', 'failed', unsent('the line broke.')],
    [
      JOB_STATE.aborted,
      0,
      'resources-are-not-ready: Cloth is loaded.',
      false,
      undefined,
      'failed',
      'Petrel 13 did not begin: Cloth is loaded. Nothing was printed.'
    ],
    [
      JOB_STATE.aborted,
      300,
      'aborted-by-system',
      false,
      undefined,
      'failed',
      'Petrel 13 gave the job up when 0.30 m of 0.90 m were printed. Look at the machine first.'
    ]
  ])('in state %i with %d mm printed is told as it is', (state, mm, said, cancelled, why, wanted, sentence) => {
    const end = endOf(job(state, mm, said), row(cancelled), 'Petrel 13', 'mm', why);
    expect(end).toEqual({ state: wanted, reason: sentence, printedMm: mm, inkMl: [1], seconds: 4 });
  });

  it('never says that nothing was printed where something was', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(JOB_STATE.cancelled, JOB_STATE.aborted, JOB_STATE.completed),
        fc.double({ min: 0.01, max: 900, noNaN: true }),
        fc.option(fc.constant('the line broke.'), { nil: undefined }),
        fc.boolean(),
        (state, mm, why, cancelled) => {
          expect(endOf(job(state, mm), row(cancelled), 'M', 'mm', why)?.reason ?? '').not.toMatch(
            /[Nn]othing was printed|before anything/
          );
        }
      )
    );
  });
});
