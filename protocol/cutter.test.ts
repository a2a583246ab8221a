import { describe, expect, it } from 'vitest';
import { Claim, CutterAbilities, CutterRoll, Failed, PLAIN_CUTTER, Progress } from './cutter';

describe('what comes from a cutter', () => {
  const claim = { sheet: 'roll/1', seen: [{ x: 1, y: 2 }], code: null };

  it('is taken as it should be', () => {
    expect(Claim.parse(claim)).toEqual(claim);
    expect(Claim.parse({ sheet: 'roll/1', seen: [] })).toEqual({ ...claim, seen: [] });
    expect(CutterAbilities.parse({})).toEqual(PLAIN_CUTTER);
  });

  it.each([
    { ...claim, seen: 'all of them' },
    { ...claim, seen: [{ x: NaN, y: 0 }] },
    { ...claim, seen: [{ x: Infinity, y: 0 }] },
    { ...claim, seen: [{ x: 1e9, y: 0 }] },
    { ...claim, seen: [{ x: '1', y: 0 }] },
    { ...claim, seen: Array.from({ length: 1001 }, () => ({ x: 0, y: 0 })) },
    { ...claim, sheet: 'x'.repeat(101) },
    { ...claim, sheet: '' },
    { ...claim, code: { x: 0 } },
    null
  ])('is refused where it is no claim: %#', (hostile) => {
    expect(Claim.safeParse(hostile).success).toBe(false);
  });

  it('counts strokes and says reasons within bounds', () => {
    for (const strokes of [-1, 0.5, 1e9, '3', NaN]) expect(Progress.safeParse({ task: 1, strokes }).success).toBe(false);
    expect(Failed.safeParse({ task: 1, strokes: 0, reason: ' ' }).success).toBe(false);
    expect(Failed.safeParse({ task: 1, strokes: 0, reason: 'x'.repeat(301) }).success).toBe(false);
  });

  it('has a roll of no more places than a screen can show', () => {
    const place = { n: 1, fromMm: 0, toMm: 1, code: null, task: null, name: null, state: 'cut', reason: null };
    const roll = { id: 'a', widthMm: 1, lengthMm: 1, positionMm: 0, state: 'done', reason: null };
    expect(CutterRoll.safeParse({ ...roll, places: [place] }).success).toBe(true);
    expect(CutterRoll.safeParse({ ...roll, places: Array.from({ length: 1001 }, () => place) }).success).toBe(false);
    expect(CutterRoll.safeParse({ ...roll, places: [{ ...place, state: 'burnt' }] }).success).toBe(false);
  });
});
