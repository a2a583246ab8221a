import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Box } from '../geometry/box';
import type { Mark } from './print-list';
import { DEFAULT_MARKS, markRoom, registrationMarks } from './registration';

const anyBox = (least: number) =>
  fc.record({
    x: fc.double({ min: 20, max: 600, noNaN: true }),
    y: fc.double({ min: 20, max: 3000, noNaN: true }),
    width: fc.double({ min: least, max: 600, noNaN: true }),
    height: fc.double({ min: least, max: 900, noNaN: true })
  });
const pieces = (least: number) => fc.array(anyBox(least), { minLength: 1, maxLength: 6 });
const apart = (p: Mark, q: Mark) => Math.hypot(p.x - q.x, p.y - q.y);
/** From the nearest place of a box. */
const away = (mark: Mark, { x, y, width, height }: Box) =>
  Math.hypot(Math.max(x - mark.x, 0, mark.x - x - width), Math.max(y - mark.y, 0, mark.y - y - height));

describe('registration marks', () => {
  it('have white around them, to the pieces and to each other, and stand in their room', () => {
    fc.assert(
      fc.property(pieces(5), (all) => {
        const marks = registrationMarks(all, DEFAULT_MARKS);
        const { diameter, quiet } = DEFAULT_MARKS;
        const [left, top] = [Math.min(...all.map(({ x }) => x)), Math.min(...all.map(({ y }) => y))];
        marks.forEach((mark, i) => {
          for (const piece of all) expect(away(mark, piece)).toBeGreaterThanOrEqual(diameter / 2 + quiet - 1e-9);
          for (const other of marks.slice(i + 1)) expect(apart(mark, other)).toBeGreaterThan(diameter + quiet / 3);
          expect(mark.x - diameter / 2 - quiet).toBeGreaterThanOrEqual(left - markRoom(DEFAULT_MARKS) - 1e-9);
          expect(mark.y - diameter / 2 - quiet).toBeGreaterThanOrEqual(top - markRoom(DEFAULT_MARKS) - 1e-9);
        });
      })
    );
  });

  it('stand no farther apart along the roll than the rule says', () => {
    fc.assert(
      fc.property(pieces(40), fc.double({ min: 100, max: 2000, noNaN: true }), (all, pitch) => {
        const marks = registrationMarks(all, { ...DEFAULT_MARKS, pitch });
        for (const side of [Math.min, Math.max]) {
          const x = side(...marks.map((mark) => mark.x));
          const ys = marks.filter((mark) => mark.x === x).map(({ y }) => y);
          ys.sort((p, q) => p - q);
          ys.slice(1).forEach((y, i) => expect(y - ys[i]!).toBeLessThanOrEqual(pitch + 1e-6));
        }
      })
    );
  });

  it('tell a sheet that is turned about from one that is not, whichever two of them are lost', () => {
    fc.assert(
      fc.property(pieces(40), (all) => {
        const marks = registrationMarks(all, DEFAULT_MARKS);
        /** The most marks that lie where one is, of those seen, when the sheet is turned about. */
        const explained = (seen: readonly Mark[]) => {
          let most = 0;
          for (const from of marks)
            for (const to of seen) {
              const turned = seen.filter(({ x, y }) =>
                marks.some((mark) => Math.hypot(to.x + from.x - mark.x - x, to.y + from.y - mark.y - y) < 1)
              );
              most = Math.max(most, turned.length);
            }
          return most;
        };
        for (let a = 0; a < marks.length; a++)
          for (let b = a + 1; b < marks.length; b++) {
            const seen = marks.filter((_, i) => i !== a && i !== b);
            expect(explained(seen)).toBeLessThan(seen.length);
          }
      }),
      { numRuns: 8 }
    );
  });

  it('are none around nothing', () => {
    expect(registrationMarks([], DEFAULT_MARKS)).toEqual([]);
  });
});
