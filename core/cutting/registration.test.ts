import { describe, expect, it } from 'vitest';
import { apply, chain, rotation, translation, type Matrix, type Point } from '../geometry/matrix';
import { seededRandom } from '../geometry/random';
import { lyingPrint, marksOf, spoiltPrint } from '../../tests/made/lying-prints';
import { lieAt, type Lie } from './lie';
import { register, RegistrationError } from './registration';

/** Prints that lie in the cutter any way round, as a camera sees them. */

const LIMIT_MM = 0.3;
/** The farthest that anything may be cut beside the print as it was made. */
const CUT_MM = 0.2;

const farOff = (lie: Lie, truth: Matrix, points: readonly Point[]) =>
  Math.max(
    ...points.map((p) => {
      const [at, want] = [lieAt(lie, p), apply(truth, p)];
      return Math.hypot(at.x - want.x, at.y - want.y);
    })
  );

describe('how a print lies in the cutter', () => {
  it('is never found wrong in 2,000 spoilt prints, and found in 97 of 100 where four marks are clean', () => {
    const random = seededRandom(17);
    const counts = { wrong: 0, taken: 0, takable: 0 };
    for (let round = 0; round < 2000; round++) {
      const { expected, seen, farOff: off, clean } = spoiltPrint(random);
      if (clean >= 4) counts.takable++;
      try {
        const fit = register(expected, seen, LIMIT_MM);
        expect(fit.worst).toBeLessThanOrEqual(LIMIT_MM);
        expect(fit.matched.length).toBeGreaterThanOrEqual(4);
        if (off((p) => lieAt(fit, p)) > CUT_MM) counts.wrong++;
        else if (clean >= 4) counts.taken++;
      } catch (error) {
        expect(error).toBeInstanceOf(RegistrationError);
      }
    }
    expect(counts.wrong).toBe(0);
    expect(counts.takable).toBeGreaterThan(1900);
    expect(counts.taken / counts.takable).toBeGreaterThan(0.97);
  }, 480_000);

  it('of 8 m that bows by a millimetre and is stretched by 0.3 % is known within 0.2 mm', () => {
    const random = seededRandom(3);
    for (const bow of [1, -1]) {
      const { expected, truth, farOff: off } = lyingPrint(random, { width: 1200, length: 8000, bow, stretch: 0.003 * bow });
      const fit = register(expected, expected.map(truth), LIMIT_MM);
      expect(fit.rows.length).toBeGreaterThan(15);
      expect(off((p) => lieAt(fit, p))).toBeLessThan(0.05);
      // Without what bends the rows it would be cut beside the line.
      expect(off((p) => apply(fit.map, p))).toBeGreaterThan(CUT_MM);
    }
  });

  const marks = marksOf(600, 400);
  const flip = (p: Point) => ({ x: p.x, y: 500 - p.y });
  const upright: Matrix = [1, 0, 0, -1, 0, 500];
  const upsideDown = chain(upright, chain(rotation(180), translation(700, 500)));

  it('goes on evenly from stretch to stretch', () => {
    const { expected, truth } = lyingPrint(seededRandom(4), { width: 900, length: 6000, bow: 2, stretch: 0 });
    const fit = register(expected, expected.map(truth), LIMIT_MM);
    for (const { y } of fit.rows)
      for (const x of [20, 500, 920]) {
        const [before, after] = [lieAt(fit, { x, y: y - 1e-6 }), lieAt(fit, { x, y: y + 1e-6 })];
        expect(Math.hypot(before.x - after.x, before.y - after.y)).toBeLessThan(1e-5);
      }
  });

  it('is told where any two marks are lost, either way round', () => {
    for (const map of [upright, upsideDown])
      for (let one = 0; one < marks.length; one++)
        for (let two = one; two < marks.length; two++) {
          const seen = marks.filter((_, i) => i !== one && i !== two).map((p) => apply(map, p));
          expect(farOff(register(marks, seen, LIMIT_MM), map, marks)).toBeLessThan(0.01);
        }
  });

  it('is told where any one mark is dirty, which is left out', () => {
    for (let dirty = 0; dirty < marks.length; dirty++) {
      const seen = marks.map((p, i) => (i === dirty ? { x: p.x + 1.2, y: 500 - p.y } : flip(p)));
      const fit = register(marks, seen, LIMIT_MM);
      expect(fit.matched).toHaveLength(marks.length - 1);
      expect(farOff(fit, upright, marks)).toBeLessThan(0.01);
    }
  });

  it('is refused where all marks that tell its direction are lost', () => {
    const isAlike = (p: Point) => marks.some((q) => apply([-1, 0, 0, -1, 640, 440], p).x === q.x && 440 - p.y === q.y);
    const seen = marks.filter(isAlike).map(flip);
    expect(seen).toHaveLength(6);
    expect(() => register(marks, seen, LIMIT_MM)).toThrow(/fit this print in one way, and 6 in another/);
  });

  it('is refused with what is wrong: too few marks, another print, marks in a line, at one side, one place for all', () => {
    expect(() => register(marks, marks.slice(0, 2).map(flip), LIMIT_MM)).toThrow(/sees 2 of 10 marks/);
    expect(() => register(marks, marks.map((p) => ({ x: p.x * 0.6, y: p.y * 1.4 })), LIMIT_MM)).toThrow(/right print/); // prettier-ignore
    const left = Math.min(...marks.map(({ x }) => x));
    expect(() => register(marks, marks.filter(({ x }) => x === left).map(flip), LIMIT_MM)).toThrow(RegistrationError);
    const long = marksOf(600, 3000);
    expect(() => register(long, long.filter(({ y }) => y < 2000).map(flip), LIMIT_MM)).toThrow(/all at one side/); // prettier-ignore
    expect(() => register(marks, [], LIMIT_MM)).toThrow(/sees 0/);
    expect(() => register(marks, Array(6).fill({ x: 5, y: 5 }), LIMIT_MM)).toThrow(RegistrationError);
  });

  it('is found among hundreds of discs of its artwork, and refused among thousands', () => {
    const random = seededRandom(5);
    const discs = (count: number) => Array.from({ length: count }, () => ({ x: 700 * random(), y: 600 * random() }));
    const seen = marks.map((p) => apply(upsideDown, p));
    expect(farOff(register(marks, [...discs(300), ...seen], LIMIT_MM), upsideDown, marks)).toBeLessThan(CUT_MM);
    expect(() => register(marks, [...seen, ...discs(5000)], LIMIT_MM)).toThrow(/sees 5010 things that could be marks; 1000/);
  });

  it('is not taken for a shift by one row along a long roll, where many marks are alike', () => {
    const long = marksOf(1200, 8000);
    const seen = long.map((p) => apply(upsideDown, p));
    expect(farOff(register(long, seen, LIMIT_MM), upsideDown, long)).toBeLessThan(0.01);
    const some = seen.filter((_, i) => i !== 3);
    expect(farOff(register(long, some, LIMIT_MM), upsideDown, long)).toBeLessThan(0.01);
  });
});
