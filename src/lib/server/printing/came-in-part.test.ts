import { describe, expect, it } from 'vitest';
import { seededRandom } from '$core/geometry/random';
import type { PlacedCopy } from '$core/layout/placement';
import { registrationMarks, DEFAULT_MARKS } from '$core/marks/registration';
import { cameInPart } from './came-in-part';

const copyAt = (copy: number, y: number, height: number): PlacedCopy => ({ id: '1', copy, x: 20, y, width: 50, height, turn: 0, pinned: false }); // prettier-ignore
const ids = (copies: readonly PlacedCopy[]) => copies.map(({ copy }) => copy);

describe('what of a print that broke off is of use', () => {
  const rows = [0, 1, 2, 3].map((n) => copyAt(n, 20 + 60 * n, 50));
  const plain = { plan: { marks: [] }, cuts: [] };

  it('are the copies that came out to their ends, where nothing is cut', () => {
    const { whole, missing, toMm } = cameInPart(plain, rows, 190)!;
    expect([ids(whole), ids(missing), toMm]).toEqual([[0, 1, 2], [3], 190]);
    expect(ids(cameInPart(plain, rows, 189.9)!.whole)).toEqual([0, 1]);
    // None is whole, or all are.
    expect(cameInPart(plain, rows, 69)).toBeUndefined();
    expect(cameInPart(plain, rows, 250)).toBeUndefined();
  });

  it('ends where its marks do, where it will be cut; too few of them tell nothing', () => {
    const random = seededRandom(11);
    let kept = 0;
    for (let round = 0; round < 300; round++) {
      const count = 2 + Math.floor(random() * 12);
      const copies = Array.from({ length: count }, (_, n) => copyAt(n, 20 + 60 * n, 30 + 20 * random()));
      const marks = registrationMarks(copies, { ...DEFAULT_MARKS, pitch: 100 + 400 * random() });
      const printedMm = random() * (80 + 60 * count);
      const part = cameInPart({ plan: { marks }, cuts: ['a line'] }, copies, printedMm);
      const out = marks.filter(({ y, diameter }) => y + diameter / 2 <= printedMm);
      if (!part) {
        const end = Math.max(...out.map(({ y }) => y + 3));
        const whole = copies.filter(({ y, height }) => y + height <= end).length;
        expect(out.length < 4 || whole === 0 || whole === count).toBe(true);
        continue;
      }
      kept++;
      expect(out.length).toBeGreaterThanOrEqual(4);
      expect([...ids(part.whole), ...ids(part.missing)].sort((a, b) => a - b)).toEqual(ids(copies));
      for (const { y, height } of part.whole) expect(out.some((mark) => mark.y + mark.diameter / 2 >= y + height)).toBe(true);
    }
    expect(kept).toBeGreaterThan(60);
  });
});
