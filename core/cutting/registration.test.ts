import { describe, expect, it } from 'vitest';
import { DEFAULT_MARKS, registrationMarks } from '../marks/registration';
import { apply, chain, rotation, scaling, translation, type Matrix, type Point } from '../geometry/matrix';
import { seededRandom } from '../geometry/random';
import { register, RegistrationError } from './registration';

/** Prints that lie in the cutter any way round, as a camera sees them. */

const LIMIT_MM = 0.3;
const marksOf = (width: number, height: number): Point[] =>
  registrationMarks([{ x: 20, y: 20, width, height }], DEFAULT_MARKS).map(({ x, y }) => ({ x, y }));

interface Trial {
  expected: Point[];
  seen: Point[];
  truth: Matrix;
  clean: number;
}

/** One print: turned anyhow, some marks lost, some spoiled, and discs that are no marks. */
function trial(random: () => number): Trial {
  const expected = marksOf(200 + 1000 * random(), 150 + 1500 * random());
  const turned = chain(scaling(1 + (random() - 0.5) * 0.004, -(1 + (random() - 0.5) * 0.004)), rotation(random() * 360));
  const truth = chain(turned, translation(2000 * random(), 2000 * random()));
  const lost = Math.floor(random() * 4);
  const order = expected.map((mark) => ({ mark, at: random() })).sort((p, q) => p.at - q.at);
  const noise = () => (random() - 0.5) * 0.08;
  const left = order.slice(lost).map(({ mark }) => apply(truth, mark));
  // Dirt moves the middle of what is seen of a mark.
  const dirty = random() < 0.3 ? 1 : 0;
  const seen = left.map((p, i) => ({
    x: p.x + noise() + (i < dirty ? 2 + 2 * random() : 0),
    y: p.y + noise()
  }));
  for (let i = Math.floor(random() * 5); i > 0; i--) {
    const near = apply(truth, { x: random() * 1200, y: random() * 1500 });
    seen.push(near);
  }
  return { expected, seen: seen.sort(() => random() - 0.5), truth, clean: left.length - dirty };
}

const farOff = (map: Matrix, truth: Matrix, points: readonly Point[]) =>
  Math.max(
    ...points.map((p) => {
      const [at, want] = [apply(map, p), apply(truth, p)];
      return Math.hypot(at.x - want.x, at.y - want.y);
    })
  );

describe('how a print lies in the cutter', () => {
  it('is never found wrong, and found where four marks and its direction can be seen', () => {
    const random = seededRandom(17);
    const counts = { wrong: 0, taken: 0, takable: 0 };
    for (let round = 0; round < 500; round++) {
      const { expected, seen, truth, clean } = trial(random);
      if (clean >= 4) counts.takable++;
      try {
        const { map, matched, worst } = register(expected, seen, LIMIT_MM);
        expect(worst).toBeLessThanOrEqual(LIMIT_MM);
        expect(matched.length).toBeGreaterThanOrEqual(3);
        if (farOff(map, truth, expected) > 1) counts.wrong++;
        else if (clean >= 4) counts.taken++;
      } catch (error) {
        expect(error).toBeInstanceOf(RegistrationError);
      }
    }
    expect(counts.wrong).toBe(0);
    expect(counts.takable).toBeGreaterThan(200);
    expect(counts.taken / counts.takable).toBeGreaterThan(0.75);
  });

  const marks = marksOf(600, 400);
  const flip = (p: Point) => ({ x: p.x, y: 500 - p.y });
  const upsideDown = chain([1, 0, 0, -1, 0, 500], chain(rotation(180), translation(700, 500)));

  it('is told where any one mark is lost, either way round', () => {
    for (const map of [[1, 0, 0, -1, 0, 500] as Matrix, upsideDown])
      for (let lost = 0; lost < marks.length; lost++) {
        const seen = marks.filter((_, i) => i !== lost).map((p) => apply(map, p));
        expect(farOff(register(marks, seen, LIMIT_MM).map, map, marks)).toBeLessThan(0.01);
      }
  });

  it('is refused where both marks that tell its direction are lost', () => {
    const seen = marks.slice(0, 4).map(flip);
    expect(() => register(marks, seen, LIMIT_MM)).toThrow(/4 marks that are seen fit this print in 2 ways/);
  });

  it('is refused with what is wrong: too few marks, another print, marks in a line, one that is out of place', () => {
    expect(() => register(marks, marks.slice(0, 2).map(flip), LIMIT_MM)).toThrow(/sees 2 of 6 marks/);
    expect(() =>
      register(
        marks,
        marks.map((p) => ({ x: p.x * 0.6, y: p.y * 1.4 })),
        LIMIT_MM
      )
    ).toThrow(/right print/);
    const inLine = [marks[0]!, marks[1]!, marks[4]!].map(flip);
    expect(() => register(marks, inLine, LIMIT_MM)).toThrow(RegistrationError);
    const moved = marks.map((p, i) => (i === 3 ? { x: p.x + 1.2, y: 500 - p.y } : flip(p)));
    expect(() => register(marks, moved, LIMIT_MM)).toThrow(/limit/);
    expect(() => register(marks, [], LIMIT_MM)).toThrow(/sees 0/);
    expect(() => register(marks, Array(6).fill({ x: 5, y: 5 }), LIMIT_MM)).toThrow(RegistrationError);
  });

  it('is found among hundreds of discs of its artwork, and refused among thousands', () => {
    const random = seededRandom(5);
    const discs = (count: number) => Array.from({ length: count }, () => ({ x: 700 * random(), y: 600 * random() }));
    const seen = marks.map((p) => apply(upsideDown, p));
    expect(farOff(register(marks, [...discs(300), ...seen], LIMIT_MM).map, upsideDown, marks)).toBeLessThan(1);
    expect(() => register(marks, [...seen, ...discs(5000)], LIMIT_MM)).toThrow(/sees 5006 things that could be marks; 1000/);
  });

  it('is found as fast along a long roll, where many marks are alike', () => {
    const long = marksOf(1200, 8000);
    const seen = long.map((p) => apply(upsideDown, p));
    expect(long.length).toBeGreaterThan(30);
    expect(farOff(register(long, seen, LIMIT_MM).map, upsideDown, long)).toBeLessThan(0.01);
    // One that is missing must not be taken for a shift by one mark.
    const some = seen.filter((_, i) => i !== 3);
    expect(farOff(register(long, some, LIMIT_MM).map, upsideDown, long)).toBeLessThan(0.01);
  });
});
