import { describe, expect, it } from 'vitest';
import type { CutterRoll, RollPlace } from '$protocol/cutter';
import { tuneFor } from './sounds';

const place = (n: number, state: RollPlace['state']): RollPlace => ({
  n,
  state,
  fromMm: 0,
  toMm: 1,
  code: null,
  task: null,
  name: null,
  reason: null,
  refused: null,
  isTurned: false
});
const roll = (state: CutterRoll['state'], places: RollPlace[] = [], id = 'roll'): CutterRoll => ({
  id,
  widthMm: 1,
  lengthMm: 1,
  positionMm: 0,
  reason: null,
  state,
  places
});

describe('what a roll sounds like', () => {
  it('is a start, an end, and each refusal, once', () => {
    expect(tuneFor(roll('lies'), roll('looking'))).toBe('start');
    expect(tuneFor(roll('looking'), roll('cutting'))).toBeUndefined();
    expect(tuneFor(roll('cutting'), roll('cutting', [place(1, 'refused')]))).toBe('refused');
    expect(tuneFor(roll('cutting', [place(1, 'refused')]), roll('looking', [place(1, 'refused')]))).toBeUndefined();
    expect(tuneFor(roll('looking'), roll('done'))).toBe('done');
    expect(tuneFor(roll('done'), roll('done'))).toBeUndefined();
    expect(tuneFor(roll('cutting'), roll('stopped'))).toBe('refused');
    expect(tuneFor(roll('stopped'), roll('looking'))).toBe('start');
  });

  it('is nothing when a page has just been opened, or another roll lies there', () => {
    expect(tuneFor(undefined, roll('done', [place(1, 'refused')]))).toBeUndefined();
    expect(tuneFor(roll('lies', [], 'another'), roll('cutting'))).toBeUndefined();
  });
});
