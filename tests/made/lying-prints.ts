import { DEFAULT_MARKS, registrationMarks } from '$core/marks/registration';
import { apply, chain, rotation, translation, type Point } from '$core/geometry/matrix';

/** Prints as they lie in a cutter, and what its camera makes of their marks. */

export interface LyingPrint {
  expected: Point[];
  seen: Point[];
  /** Marks that are seen, and where they are. */
  clean: number;
  /** Where a place of the run really is. */
  truth: (p: Point) => Point;
  /** The farthest that a map is off, on the whole print, mm. */
  farOff: (map: (p: Point) => Point) => number;
}

export const marksOf = (width: number, height: number): Point[] =>
  registrationMarks([{ x: 20, y: 20, width, height }], DEFAULT_MARKS).map(({ x, y }) => ({ x, y }));

const gaussian = (random: () => number) => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
const NOISE_MM = 0.03;
/** Of all marks. */
const LOST = 0.08;
const DIRTY = 0.06;
/** At 8 m, as the square of the length. */
const BOW_MM = 1;

interface Print {
  width: number;
  length: number;
  bow: number;
  stretch: number;
}

/** A print that is turned anyhow, sheared and stretched, and bowed as a long one is. */
export function lyingPrint(random: () => number, { width, length, bow, stretch }: Print): Omit<LyingPrint, 'seen' | 'clean'> {
  const sheared = [1 + (random() - 0.5) * 0.002, 0, (random() - 0.5) * 0.0004, -(1 + stretch), 0, 0] as const;
  const turned = chain(chain(sheared, rotation(random() * 360)), translation(2000 * random(), 2000 * random()));
  const truth = (p: Point) => {
    const t = (p.y - 20) / length;
    // A beam that bows turns its rows too.
    return apply(turned, {
      x: p.x + 4 * bow * t * (1 - t),
      y: p.y - ((4 * bow) / length) * (1 - 2 * t) * (p.x - 20 - width / 2)
    });
  };
  const places = [0, 0.1, 0.35, 0.5, 0.7, 0.9, 1].flatMap((v) =>
    [0, 0.5, 1].map((u) => ({ x: 20 + u * width, y: 20 + v * length }))
  );
  return {
    expected: marksOf(width, length),
    truth,
    farOff: (map) =>
      Math.max(
        ...places.map((p) => {
          const [at, want] = [map(p), truth(p)];
          return Math.hypot(at.x - want.x, at.y - want.y);
        })
      )
  };
}

/** One print with some marks lost, some dirty, and discs that are no marks. */
export function spoiltPrint(random: () => number): LyingPrint {
  const length = random() < 0.3 ? 1500 + 6500 * random() : 80 + 1500 * random();
  const print = lyingPrint(random, {
    width: 80 + 1200 * random(),
    length,
    bow: (random() - 0.5) * 2 * BOW_MM * (length / 8000) ** 2,
    stretch: (random() - 0.5) * 0.006
  });
  const { expected, truth } = print;
  const left = expected.filter(() => random() >= LOST);
  let clean = 0;
  const seen = left.map((mark) => {
    const at = truth(mark);
    // Dirt moves the middle of what is seen of a mark.
    const isDirty = random() < DIRTY;
    const [by, to] = [isDirty ? 0.2 + 2.8 * random() : 0, 2 * Math.PI * random()];
    if (!isDirty) clean++;
    return {
      x: at.x + NOISE_MM * gaussian(random) + by * Math.cos(to),
      y: at.y + NOISE_MM * gaussian(random) + by * Math.sin(to)
    };
  });
  for (let i = Math.floor(random() * 5); i > 0; i--) seen.push(truth({ x: random() * 1200, y: random() * length }));
  return { ...print, seen: seen.sort(() => random() - 0.5), clean };
}
