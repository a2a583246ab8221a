import { describe, expect, it } from 'vitest';
import type { Lie } from '$core/cutting/lie';
import { seededRandom } from '$core/geometry/random';
import { DEFAULT_KNIVES } from '$core/media/knife';
import { PLAIN_CUTTER } from '$protocol/cutter';
import { polylinePath, rectanglePath } from '$core/geometry/path';
import type { CutPlan } from './cut';
import {
  chooseTask,
  codeApart,
  cutAfter,
  isElsewhere,
  isRefusal,
  lacking,
  mayBeBroken,
  partOf,
  type Candidate
} from './cut-rules';

const CODE = '7K3QW9XZ0A';
const task = (id: number, state: Candidate['state'], over: Partial<Candidate> = {}): Candidate => ({
  id,
  code: `7K3QW-9XZ0A/${id}`,
  state,
  closed: null,
  lines_cut: 0,
  allowed: 0,
  cut_at: null,
  ...over
});
const kindOf = (tasks: Candidate[], changed = false) => {
  const chosen = chooseTask(CODE, tasks, changed);
  return isRefusal(chosen) ? chosen.kind : chosen.id;
};

describe('which print it is that lies in a cutter', () => {
  it('is the first that waits', () => {
    expect(kindOf([task(1, 'cut'), task(2, 'waiting'), task(3, 'waiting')])).toBe(2);
  });

  it('is none when all are cut, or one is in another cutter', () => {
    expect(kindOf([task(1, 'cut'), task(2, 'cut')])).toBe('cut');
    expect(kindOf([task(1, 'cut'), task(2, 'cutting')])).toBe('claimed');
    expect(kindOf([task(1, 'registered')])).toBe('claimed');
  });

  it('is none of those that a person put down, which is said', () => {
    const by = (closed: Candidate['closed']) => task(1, 'cut', { closed, lines_cut: 2 });
    expect(kindOf([by('not to be cut'), task(2, 'waiting')])).toBe(2);
    expect(chooseTask(CODE, [by('cut elsewhere')], false)).toEqual({
      kind: 'cut',
      sentence: '7K3QW-9XZ0A was put down as cut elsewhere.'
    });
    expect(chooseTask(CODE, [by('not to be cut'), task(2, 'cut')], true)).toMatchObject({
      kind: 'cut',
      sentence: 'No print of 7K3QW-9XZ0A waits: 1 of 2 have been cut already, and 7K3QW-9XZ0A/1 was put down as not to be cut.'
    });
    // One that was begun and is not to be cut is in nobody's way.
    expect(kindOf([by('not to be cut'), task(2, 'waiting'), task(3, 'waiting')])).toBe(2);
    expect(kindOf([{ ...by('cut elsewhere'), allowed: 1 }, task(2, 'waiting')])).toBe(1);
  });

  it('is asked back where one of several is half cut, and known where it is the last', () => {
    expect(kindOf([task(1, 'waiting', { lines_cut: 3 }), task(2, 'waiting')])).toBe('half cut');
    expect(kindOf([task(1, 'cut'), task(2, 'waiting', { lines_cut: 3 })])).toBe(2);
  });

  it('is none of a docket that was changed, unless somebody says so: then the one that is meant, cut or not', () => {
    expect(kindOf([task(1, 'waiting')], true)).toBe('changed');
    expect(kindOf([task(1, 'waiting'), task(2, 'waiting', { allowed: 1 })], true)).toBe(2);
    expect(kindOf([task(1, 'cut', { allowed: 1 }), task(2, 'waiting')])).toBe(1);
    // What another cutter has is not given away by a word.
    expect(kindOf([task(1, 'cutting', { allowed: 1 })])).toBe('claimed');
  });
});

describe('how far a cut is', () => {
  it('is counted as by going through all lines', () => {
    const random = seededRandom(3);
    for (let trial = 0; trial < 200; trial++) {
      let end = 0;
      const ends = Array.from({ length: Math.floor(40 * random()) }, () => (end += 1 + Math.floor(3 * random())));
      const strokes = Math.floor((end + 4) * random()) - 2;
      expect(cutAfter(ends, strokes)).toBe(ends.filter((one) => one <= strokes).length);
    }
  });
});

describe('a code', () => {
  const lie: Lie = { map: [0, 1, 1, 0, 100, 20], middle: 0, half: 1, rows: [] };
  const codes = [{ x: 10, y: 5, width: 8, height: 8 }, { x: 10, y: 205, width: 8, height: 8 }]; // prettier-ignore

  it('lies where the marks say, at the head or the foot, or the marks are of another print', () => {
    expect(isElsewhere(codeApart(lie, codes, { x: 109, y: 34 }))).toBe(false);
    expect(codeApart(lie, codes, { x: 309.5, y: 34 })).toBeCloseTo(0.5, 6);
    expect(isElsewhere(codeApart(lie, codes, { x: 150, y: 34 }))).toBe(true);
    // Its number was given by a person.
    expect(codeApart(lie, codes, null)).toBe(0);
  });
});

describe('a cutter', () => {
  it('says what it lacks: width, and the blade that a line is set to', () => {
    const narrow = { ...PLAIN_CUTTER, widthMm: 600, blades: ['drag knife' as const] };
    const tools = new Set(['kiss cut', 'crease'] as const);
    expect(lacking('Tern', PLAIN_CUTTER, { widthMm: 9000, lengthMm: 9000, marks: [] }, tools, DEFAULT_KNIVES)).toBeUndefined();
    const crosses = [{ shape: 'cross' as const }];
    expect(
      lacking('Tern', { ...PLAIN_CUTTER, marks: ['disc', 'ring'] }, { widthMm: 5, lengthMm: 5, marks: crosses }, tools, DEFAULT_KNIVES) // prettier-ignore
    ).toMatch(/are crosses, and Tern sees discs, rings/);
    expect(lacking('Tern', narrow, { widthMm: 700, lengthMm: 900, marks: [] }, new Set(['kiss cut']), DEFAULT_KNIVES)).toMatch(
      /700 mm wide, and Tern takes 600/
    );
    expect(lacking('Tern', narrow, { widthMm: 500, lengthMm: 900, marks: [] }, tools, DEFAULT_KNIVES)).toMatch(
      /no crease wheel, which the crease lines/
    );
    expect(
      lacking('Tern', narrow, { widthMm: 500, lengthMm: 900, marks: [] }, new Set(['kiss cut']), DEFAULT_KNIVES)
    ).toBeUndefined();
  });
});

describe('a print that broke off', () => {
  const mark = (y: number) => ({ x: 10, y, diameter: 6, shape: 'disc' as const });
  const box = (copy: number, y: number, height: number): CutPlan['cuts'][number] => ({ docket: '4', piece: 0, copy, tool: 'kiss cut', path: rectanglePath({ x: 20, y, width: 30, height }) }); // prettier-ignore
  const across = (copy: number, y: number): CutPlan['cuts'][number] => ({ docket: '', piece: 0, copy, tool: 'through cut', path: polylinePath({ points: [{ x: 0, y }, { x: 90, y }], closed: false }) }); // prettier-ignore
  const plan: CutPlan = {
    widthMm: 100,
    lengthMm: 400,
    marks: [mark(10), mark(130), mark(250), mark(390)],
    codes: [{ x: 0, y: 12, width: 8, height: 8 }, { x: 0, y: 380, width: 8, height: 8 }], // prettier-ignore
    cuts: [box(0, 20, 100), box(1, 140, 100), box(1, 150, 20), box(2, 260, 120), box(2, 265, 10), across(0, 130), across(1, 250), across(2, 390)], // prettier-ignore
    inOrder: true
  };

  it('is cut as far as it goes: copies all of whose lines came out, and cuts along pieces each by itself', () => {
    const part = partOf(plan, 253, 270);
    expect(part.cuts).toEqual([plan.cuts[0], plan.cuts[1], plan.cuts[2], plan.cuts[5], plan.cuts[6]]);
    expect(part.marks.map(({ y }) => y)).toEqual([10, 130, 250]);
    expect(part).toMatchObject({ lengthMm: 270, codes: [plan.codes![0]], widthMm: 100, inOrder: true });
    expect(partOf(plan, 252.9, 270).marks).toHaveLength(2);
    expect(partOf(plan, 15, 20).cuts).toEqual([]);
  });

  it('may be what lies in a cutter, as long as no mark is seen that it does not have', () => {
    const seen = (...ys: number[]) => ys.map((y) => ({ x: 10, y }));
    const why = (ys: number[], broken: number[]) => mayBeBroken(plan.marks, seen(...ys), broken, 'mm');
    expect(why([10, 130, 250], [])).toBeUndefined();
    expect(why([10, 130, 250], [300])).toMatch(/broke off after 0.30 m: of the marks beyond that none is seen/);
    expect(why([10, 130, 250], [140])).toBeUndefined();
    expect(why([10, 130, 250], [140, 260])).toMatch(/after 0.26 m/);
    expect(why([10, 250, 390], [300, 20])).toBeUndefined();
    // It had all marks: whichever it is, all of it can be cut.
    expect(why([10, 130, 250], [395])).toBeUndefined();
  });
});
