import { seededRandom } from '../geometry/random';
import { apply, type Matrix, type Point } from '../geometry/matrix';
import { fitLie, lieAt, NOISE_MM, stiffnessOf, type Fit, type Lie, type Pair, type Stiffness } from './lie';

/**
 * Which of the discs that the camera sees are the marks of a print, and how the print lies: by consensus over all pairs
 * (Fischler & Bolles 1981, here exhaustive). Dirty marks are left out. What could lie in two ways is refused, and what no
 * other mark confirms.
 */

/** Run coordinates → the cutter's, and the marks that it was found by. */
export interface Registration extends Lie {
  /** The farthest and the root-mean-square distance of a mark from where the fit says it is, mm. */
  worst: number;
  rms: number;
  matched: { expected: Point; seen: Point; miss: number }[];
}

/** A print whose marks are farther off than this is not cut, mm. */
export const MOST_OFF_MM = 0.3;

export class RegistrationError extends Error {
  override name = 'RegistrationError';
}

/** A way in which the print may lie, to some millimetres. */
interface Guess {
  map: Matrix;
  pairs: Pair[];
}

/** Marks that fit each other. */
interface Answer {
  fit: Fit;
  pairs: Pair[];
}

/** Marks match when they lie within this of where a first guess puts them, mm. */
const GUESS_MM = 4;
/** A print is stretched or shrunk by less than this, and the camera is off by so much, mm. */
const STRETCH = 0.006;
const CAMERA_MM = 1;
/** Of the print's marks at least this share is seen, and four: of three, one that is dirty would be believed. */
const LEAST_SHARE = 0.4;
export const LEAST_MARKS = 4;
/** Two ways of lying that put a print's marks farther apart than this are two, mm; and two for the knife. */
const APART_MM = 5;
const CUT_APART_MM = 0.2;
/** Pairs of marks that are tried as the first two: the longest tell the direction best. */
const MOST_PAIRS = 80;
/** Where much is seen that is no mark, fewer are tried: the work grows with the square of it. */
const MOST_TRIES = 1e6;
const MOST_SEEN = 1000;
/** Guesses that are looked at closely, those that explain most. */
const MOST_GUESSES = 24;
/** A mark is dirty that lies farther from where the others put it than so many standard deviations. */
const DIRTY = 4;
/** Nor does one move the fit by more than this, mm. */
const MOST_PULL_MM = 0.13;
/** Of so few marks any three are tried as the clean ones; of more so many fives. */
const FEW = 10;
const MOST_FIVES = 12;
/** How sure the others are of each mark's place, and all of every mark's, mm: what is not, dirt could move unseen. */
const MOST_UNSURE_MM = 0.12;
const MOST_DOUBT_MM = 0.08;
/** What a mark that is explained counts for against strain: were it dirt, it could lie anywhere within some mm (as a logarithm). */
const WORTH = Math.log(9 / (2 * NOISE_MM ** 2));
/** An answer must be so much better than any that believes other marks (as a logarithm: e⁵ is 150 to one). */
const MARGIN = 5;

/**
 * @param expected in the run's coordinates, y down
 * @param seen in the cutter's coordinates, y up
 * @param limit the residual above which the fit is refused, mm
 * @throws RegistrationError with the figure and what to do
 */
export function register(expected: readonly Point[], seen: readonly Point[], limit: number): Registration {
  if (seen.length < LEAST_MARKS)
    throw new RegistrationError(
      `The camera sees ${seen.length} of ${expected.length} marks; at least ${LEAST_MARKS} are needed. Check that the right print is loaded, and that its marks are clean.`
    );
  if (seen.length > MOST_SEEN)
    throw new RegistrationError(
      `The camera sees ${seen.length} things that could be marks; ${MOST_SEEN} are the most that can be told apart. Check that the right print is loaded.`
    );
  const stiffness = stiffnessOf(expected);
  const answers: Answer[] = [];
  let most = 0;
  for (const guess of guessesOf(expected, seen)) {
    // What explains fewer is no rival to what is found.
    if (guess.pairs.length < most - 1) break;
    for (const answer of answersOf(grown(guess, expected, seen, stiffness), stiffness)) {
      answers.push(answer);
      most = Math.max(most, answer.pairs.length);
    }
  }
  answers.sort((a, b) => worthOf(b) - worthOf(a));
  const needed = Math.max(LEAST_MARKS, Math.ceil(expected.length * LEAST_SHARE));
  const [first] = answers;
  if (!first || first.pairs.length < needed)
    throw new RegistrationError(
      `Only ${first?.pairs.length ?? 0} of ${expected.length} marks are where this print has them, and ${needed} are needed. Check that the right print is loaded, and that its marks are clean.`
    );
  const believed = new Map(first.pairs.map(({ from, to }) => [from, to]));
  const rival = answers.find(
    (answer) =>
      worthOf(first) - worthOf(answer) < MARGIN &&
      answer.pairs.some(({ from, to }) => believed.get(from) !== to) &&
      expected.some((mark) => distance(lieAt(answer.fit, mark), lieAt(first.fit, mark)) > CUT_APART_MM)
  );
  if (rival)
    throw new RegistrationError(
      `${first.pairs.length} of the marks that are seen fit this print in one way, and ${rival.pairs.length} in another, as well; one of them alone is right. Clean the marks, so that those are seen that tell its direction.`
    );
  // A mark that is not far off, but that the others hardly hold, is not believed either.
  const sure = consistent(first.pairs, stiffness, first.fit.map, MOST_PULL_MM);
  if (!sure || sure.pairs.length < needed)
    throw new RegistrationError(
      `Of the ${first.pairs.length} marks that are seen some may be dirty, and the others do not tell which. Clean the marks.`
    );
  const { fit, pairs } = sure;
  const doubt = Math.max(...expected.map(fit.doubt));
  const alone = Math.max(...fit.unsure);
  if (doubt > MOST_DOUBT_MM || alone > MOST_UNSURE_MM)
    throw new RegistrationError(
      `The ${pairs.length} marks that are seen lie in a line, or all at one side: beside them the print may lie ${Math.max(doubt, alone).toFixed(2)} mm off, and nothing tells. Clean the other marks.`
    );
  const matched = pairs.map(({ from, to }) => ({ expected: from, seen: to, miss: distance(lieAt(fit, from), to) }));
  const worst = Math.max(...matched.map(({ miss }) => miss));
  if (worst > limit)
    throw new RegistrationError(
      `A mark is ${worst.toFixed(2)} mm from where the others put it; ${limit.toFixed(2)} mm is the limit. Lay the sheet flat, clean the marks and look again.`
    );
  const { map, middle, half, rows } = fit;
  const rms = Math.sqrt(matched.reduce((sum, { miss }) => sum + miss ** 2, 0) / matched.length);
  return { map, middle, half, rows, worst, rms, matched };
}

const worthOf = ({ fit, pairs }: Answer): number => WORTH * pairs.length - fit.strain / 2;

const distance = (p: Point, q: Point): number => Math.hypot(p.x - q.x, p.y - q.y);

/** The ways in which the print may lie, each once, to some millimetres; those that explain most. */
function guessesOf(expected: readonly Point[], seen: readonly Point[]): Guess[] {
  const tries = Math.max(1, Math.min(MOST_PAIRS, Math.floor(MOST_TRIES / seen.length ** 2)));
  const pairs = longestPairs(expected).slice(0, tries);
  const corners = pairs[0] ? [pairs[0].from, pairs[0].to] : [];
  const guesses: Guess[] = [];
  for (const { from: p, to: q } of pairs) {
    const long = distance(p, q);
    const within = CAMERA_MM + long * STRETCH;
    const [least, most] = [(long - within) ** 2, (long + within) ** 2];
    for (const s of seen)
      for (const t of seen) {
        const apart = (s.x - t.x) ** 2 + (s.y - t.y) ** 2;
        if (s === t || apart < least || apart > most) continue;
        const map = similar(p, q, s, t);
        const found = matches(expected, seen, (p) => apply(map, p));
        if (found.length < LEAST_MARKS) continue;
        const isNear = ({ map: known }: Guess) =>
          corners.every((corner) => distance(apply(known, corner), apply(map, corner)) < APART_MM);
        const known = guesses.find(isNear);
        if (!known) guesses.push({ map, pairs: found });
        else if (known.pairs.length < found.length) Object.assign(known, { map, pairs: found });
      }
    if (guesses.some((guess) => guess.pairs.length === expected.length)) break;
  }
  return guesses.sort((a, b) => b.pairs.length - a.pairs.length).slice(0, MOST_GUESSES);
}

/** A guess with the marks too that two of them did not reach: a long print is stretched by more than marks may be off. */
function grown(guess: Guess, expected: readonly Point[], seen: readonly Point[], stiffness: Stiffness): Guess {
  if (guess.pairs.length === expected.length) return guess;
  const answer = consistent(guess.pairs, stiffness, guess.map);
  if (!answer) return guess;
  const pairs = matches(expected, seen, (p) => lieAt(answer.fit, p));
  return pairs.length > guess.pairs.length ? { map: answer.fit.map, pairs } : guess;
}

/** The sets of a guess's marks that fit each other: those that fit some few of them, tried as its clean ones. */
function answersOf({ map, pairs }: Guess, stiffness: Stiffness): Answer[] {
  const whole = consistent(pairs, stiffness, map);
  const answers = whole ? [whole] : [];
  if (whole?.pairs.length === pairs.length) return answers;
  const tried = new Set<string>();
  for (const few of fewOf(pairs)) {
    const fit = fitLie(few, stiffness, map);
    const near = pairs.filter(({ from, to }) => distance(lieAt(fit, from), to) < DIRTY * Math.hypot(NOISE_MM, fit.doubt(from)));
    const key = near.map((pair) => pairs.indexOf(pair)).join();
    if (near.length < LEAST_MARKS || tried.has(key)) continue;
    tried.add(key);
    const answer = consistent(near, stiffness, map);
    if (answer) answers.push(answer);
  }
  return answers;
}

/** Every three of few marks; of more some fives. The same marks give the same. */
function* fewOf(pairs: readonly Pair[]): Generator<Pair[]> {
  const n = pairs.length;
  if (n <= FEW) {
    for (let i = 0; i < n; i++)
      for (let j = i + 1; j < n; j++) for (let k = j + 1; k < n; k++) yield [pairs[i]!, pairs[j]!, pairs[k]!];
    return;
  }
  const random = seededRandom(n);
  for (let round = 0; round < MOST_FIVES; round++) {
    const left = [...pairs];
    yield Array.from({ length: 5 }, () => left.splice(Math.floor(random() * left.length), 1)[0]!);
  }
}

/** Leaves out the worst mark until all that are left lie where the others put them; nothing where too few are left. */
function consistent(pairs: readonly Pair[], stiffness: Stiffness, guess: Matrix, mostPull = Infinity): Answer | undefined {
  let left = [...pairs];
  while (left.length >= LEAST_MARKS) {
    const fit = fitLie(left, stiffness, guess);
    let [worst, most] = [-1, 1];
    fit.apart.forEach((apart, i) => {
      const off = Math.max(apart / Math.hypot(NOISE_MM, fit.unsure[i]!) / DIRTY, fit.pull[i]! / mostPull);
      if (off > most) [worst, most] = [i, off];
    });
    if (worst < 0) return { fit, pairs: left };
    left = left.filter((_, i) => i !== worst);
  }
  return undefined;
}

/** Marks and the discs that are nearest to where they should be; each disc is one mark's. */
function matches(expected: readonly Point[], seen: readonly Point[], placed: (p: Point) => Point): Pair[] {
  const taken = new Map<Point, Pair & { far: number }>();
  for (const from of expected) {
    const at = placed(from);
    let to: Point | undefined;
    // By squares: this is most of the work.
    let far = GUESS_MM ** 2;
    for (const disc of seen) {
      const d = (at.x - disc.x) ** 2 + (at.y - disc.y) ** 2;
      if (d > far) continue;
      to = disc;
      far = d;
    }
    if (to && far < (taken.get(to)?.far ?? Infinity)) taken.set(to, { from, to, far });
  }
  return [...taken.values()];
}

/** Shift, turn, size and the flip of y that take two points to two others. */
function similar(p: Point, q: Point, s: Point, t: Point): Matrix {
  const [ux, uy] = [q.x - p.x, -(q.y - p.y)];
  const [vx, vy] = [t.x - s.x, t.y - s.y];
  const size = ux * ux + uy * uy;
  const [c, d] = [(ux * vx + uy * vy) / size, (ux * vy - uy * vx) / size];
  return [c, d, d, -c, s.x - c * p.x - d * p.y, s.y - d * p.x + c * p.y];
}

/** Pairs of points, the longest first. */
function longestPairs(points: readonly Point[]): Pair[] {
  return points
    .flatMap((from, i) => points.slice(i + 1).map((to) => ({ from, to })))
    .sort((p, q) => distance(q.from, q.to) - distance(p.from, p.to))
    .slice(0, MOST_PAIRS);
}
