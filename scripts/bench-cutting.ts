import { lieAt } from '$core/cutting/lie';
import { orderCuts, travel, type CutLine } from '$core/cutting/order';
import { register, RegistrationError } from '$core/cutting/registration';
import type { Point } from '$core/geometry/matrix';
import { seededRandom } from '$core/geometry/random';
import { lyingPrint, spoiltPrint } from '../tests/made/lying-prints';
import { report } from './bench-rip';

const TRIALS = 2000;
const LIMIT_MM = 0.3;
/** What lies farther beside the print than this is cut wrong, mm. */
const WRONG_MM = 0.2;

/** Prints with marks lost, dirty and false, turned anyhow, stretched and bowed. */
function trials(): { wrong: number; taken: number } {
  const random = seededRandom(2026);
  let [wrong, taken, takable] = [0, 0, 0];
  for (let round = 0; round < TRIALS; round++) {
    const { expected, seen, farOff, clean } = spoiltPrint(random);
    if (clean >= 4) takable++;
    try {
      const fit = register(expected, seen, LIMIT_MM);
      if (farOff((p) => lieAt(fit, p)) > WRONG_MM) wrong++;
      else if (clean >= 4) taken++;
    } catch (error) {
      if (!(error instanceof RegistrationError)) throw error;
    }
  }
  return { wrong, taken: (100 * taken) / takable };
}

/** The farthest that anything of prints of 8 m lies off that bow by 1 mm and are stretched by 0.3 %, all marks seen. */
function worstOfLong(): number {
  const random = seededRandom(8);
  let worst = 0;
  for (let round = 0; round < 50; round++) {
    const sign = round % 2 === 0 ? 1 : -1;
    const print = lyingPrint(random, { width: 1200, length: 8000, bow: sign, stretch: 0.003 * sign });
    // The camera's noise, as in the trials.
    const seen = print.expected.map(print.truth).map(({ x, y }) => ({ x: x + noise(random), y: y + noise(random) }));
    worst = Math.max(worst, print.farOff(placing(register(print.expected, seen, LIMIT_MM))));
  }
  return worst;
}

const noise = (random: () => number) => 0.03 * Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
const placing = (fit: Parameters<typeof lieAt>[0]) => (p: Point) => lieAt(fit, p);

/** Closed lines of 10 to 30 mm, anywhere on 13 m². */
function lines(count: number): CutLine[] {
  const random = seededRandom(3);
  return Array.from({ length: count }, () => {
    const [x, y, size, sides] = [1300 * random(), 10_000 * random(), 5 + 10 * random(), 4 + Math.floor(20 * random())];
    const points = Array.from({ length: sides }, (_, i) => {
      const angle = (2 * Math.PI * i) / sides;
      return { x: x + size * Math.cos(angle), y: y + size * Math.sin(angle) };
    });
    return { points, closed: true, tool: 'kiss cut' };
  });
}

/** Always the line whose middle is nearest, begun at its nearest corner. */
function nearestNeighbour(all: readonly CutLine[]): CutLine[] {
  const middles = all.map(({ points }) => {
    const sum = points.reduce((p, q) => ({ x: p.x + q.x, y: p.y + q.y }));
    return { x: sum.x / points.length, y: sum.y / points.length };
  });
  const far = (p: Point, q: Point) => (p.x - q.x) ** 2 + (p.y - q.y) ** 2;
  const left = new Set(all.keys());
  const out: CutLine[] = [];
  let at: Point = { x: 0, y: 0 };
  while (left.size > 0) {
    let [best, least] = [-1, Infinity];
    for (const i of left) if (far(middles[i]!, at) < least) [best, least] = [i, far(middles[i]!, at)];
    left.delete(best);
    const { points } = all[best]!;
    let start = 0;
    points.forEach((p, i) => (start = far(p, at) < far(points[start]!, at) ? i : start));
    out.push({ ...all[best]!, points: [...points.slice(start), ...points.slice(0, start)] });
    at = points[start]!;
  }
  return out;
}

let tried: ReturnType<typeof trials> | undefined;
let ordered: { seconds: number; ratio: number } | undefined;

function order(): { seconds: number; ratio: number } {
  const all = lines(20_000);
  const start = performance.now();
  const short = orderCuts(all);
  const seconds = (performance.now() - start) / 1000;
  return { seconds, ratio: travel(short) / travel(nearestNeighbour(all)) };
}

const benches: Record<string, () => void> = {
  'cut-wrong': () => report('cut-wrong', (tried ??= trials()).wrong, `of ${TRIALS}`),
  'cut-taken': () => report('cut-taken', (tried ??= trials()).taken, '%'),
  'cut-worst': () => report('cut-worst', worstOfLong(), 'mm'),
  'cut-order-20000': () => report('cut-order-20000', (ordered ??= order()).seconds, 's'),
  'cut-travel': () => report('cut-travel', (ordered ??= order()).ratio, 'ratio')
};
for (const wanted of process.argv.slice(2)) benches[wanted]?.();
