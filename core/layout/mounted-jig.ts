import { apply, chain, rotation, translation, type Matrix, type Point } from '../geometry/matrix';
import { CORNERS, type Corner, type PocketRule, type StockJig, type Touched } from './placement';

/** A jig as it lies on what is printed on: at the machine's own corner, turned over, and as it was touched. */

/** So many points give a turn and show whether they agree. */
const TOUCHED_POINTS = 3;
/** Points that agree no better were not touched well, or are others, mm. */
export const MOST_DISAGREEMENT_MM = 0.5;
/** No jig is laid in so askew: such points belong to others, degrees. */
export const MOST_TURN = 10;

class LayError extends Error {
  override name = 'LayError';
}

type Size = Pick<StockJig['bed'], 'width' | 'height'>;

const cornerOf = ({ width, height }: Size, corner: Corner): Point => ({
  x: corner.endsWith('left') ? 0 : width,
  y: corner.startsWith('front') ? 0 : height
});

/** Where a point lies that the machine counts from its own corner. Away from it both figures grow. */
export function fromOrigin(on: Size, origin: Corner, { x, y }: Point): Point {
  const from = cornerOf(on, origin);
  return { x: from.x === 0 ? x : from.x - x, y: from.y === 0 ? y : from.y - y };
}

/** Turned over, left to right: from behind, what lay at the left lies at the right. */
function turnedOver(jig: StockJig): StockJig {
  const { bed, plate, thing, pockets } = jig;
  return {
    ...jig,
    plate: { ...plate, x: bed.width - plate.x - plate.width },
    thing: { ...thing, outline: thing.outline.map((ring) => ring.map(({ x, y }) => ({ x: thing.width - x, y }))) },
    pockets: pockets.map((pocket) => ({ ...pocket, x: bed.width - pocket.x, turn: (360 - pocket.turn) % 360 }))
  };
}

/** From its bed to what is printed on: the machine's own corner is that of both. */
function toOrigin({ bed }: StockJig, on: Size): { dx: number; dy: number } {
  const [from, to] = [cornerOf(bed, bed.origin), cornerOf(on, bed.origin)];
  return { dx: to.x - from.x, dy: to.y - from.y };
}

function atOrigin(jig: StockJig, on: Size): StockJig {
  const { dx, dy } = toOrigin(jig, on);
  return {
    ...jig,
    plate: { ...jig.plate, x: jig.plate.x + dx, y: jig.plate.y + dy },
    pockets: jig.pockets.map((pocket) => ({ ...pocket, x: pocket.x + dx, y: pocket.y + dy }))
  };
}

/** Where a point that can be touched should lie. @throws LayError for a pocket that there is not */
function shouldLie(laid: StockJig, at: Touched['at']): Point {
  if (typeof at === 'number') {
    const pocket = laid.pockets.find(({ number }) => number === at);
    if (!pocket) throw new LayError(`${laid.name} has no pocket ${at}. Touch another point.`);
    return pocket;
  }
  const corner = cornerOf(laid.plate, at);
  return { x: corner.x + laid.plate.x, y: corner.y + laid.plate.y };
}

/**
 * The turn and shift that bring points nearest to where they were touched, by least squares: no stretch, since a jig has none.
 *
 * @throws LayError for too few points, points at one place, and those that do not agree
 */
function layOf(pairs: readonly { is: Point; should: Point }[]): { map: Matrix; turn: number; residualMm: number } {
  if (pairs.length < TOUCHED_POINTS)
    throw new LayError(`${pairs.length} points are touched; ${TOUCHED_POINTS} say how a jig lies.`);
  const mean = (of: (pair: (typeof pairs)[number]) => number) => pairs.reduce((sum, pair) => sum + of(pair), 0) / pairs.length;
  const is = { x: mean((pair) => pair.is.x), y: mean((pair) => pair.is.y) };
  const should = { x: mean((pair) => pair.should.x), y: mean((pair) => pair.should.y) };
  let [dot, cross, spread] = [0, 0, 0];
  for (const pair of pairs) {
    const [u, v] = [pair.should.x - should.x, pair.should.y - should.y];
    const [p, q] = [pair.is.x - is.x, pair.is.y - is.y];
    dot += u * p + v * q;
    cross += u * q - v * p;
    spread = Math.max(spread, Math.hypot(u, v));
  }
  if (spread < LEAST_SPREAD_MM)
    throw new LayError(
      `The points lie within ${spread.toFixed(0)} mm of each other: that says no turn. Touch points farther apart.`
    );
  const turn = (Math.atan2(cross, dot) * 180) / Math.PI;
  const map = chain(chain(translation(-should.x, -should.y), rotation(turn)), translation(is.x, is.y));
  const residualMm = Math.sqrt(
    mean((pair) => {
      const at = apply(map, pair.should);
      return (at.x - pair.is.x) ** 2 + (at.y - pair.is.y) ** 2;
    })
  );
  if (Math.abs(turn) > MOST_TURN)
    throw new LayError(`The jig would lie ${Math.abs(turn).toFixed(1)}° askew; ${MOST_TURN}° is the most. Touch the points again, each at its own figures.`); // prettier-ignore
  if (residualMm > MOST_DISAGREEMENT_MM)
    throw new LayError(`The points do not agree: they are ${residualMm.toFixed(2)} mm off one lay; ${MOST_DISAGREEMENT_MM} mm is the most. Touch them again.`); // prettier-ignore
  return { map, turn, residualMm };
}

/** Points nearer to each other give no turn that is worth having, mm. */
const LEAST_SPREAD_MM = 20;

/**
 * Points that are touched first, the corners of the plate at the machine's own one, where they are as long as a jig lies as it
 * should.
 *
 * @param laid as `mountedJig` gives it without touched points
 */
export function firstTouched(laid: StockJig, on: Size): Touched[] {
  const { origin } = laid.bed;
  const [way, side] = origin.split(' ');
  return CORNERS.filter((at) => at.startsWith(way!) || at.endsWith(side!)).map((at) => ({
    at,
    // There and back are one: what lies so far from a corner is so far from it.
    ...fromOrigin(on, origin, shouldLie(laid, at))
  }));
}

/** What a rule says of how a jig lies. */
export type Mount = Pick<PocketRule, 'side' | 'touched'>;

/**
 * A jig's pockets on what is printed on, with how it lies by its touched points; where these say nothing that can be, with why
 * nothing is to be placed in it.
 *
 * @param on what is printed on, mm
 */
export function mountedJig(jig: StockJig, on: Size, { side, touched }: Mount): StockJig {
  const faced = side === 'back' ? turnedOver(jig) : jig;
  const laid = atOrigin(faced, on);
  if (touched.length === 0) return laid;
  try {
    const { origin } = jig.bed;
    const { map, turn, residualMm } = layOf(
      touched.map(({ at, x, y }) => ({ is: fromOrigin(on, origin, { x, y }), should: shouldLie(laid, at) }))
    );
    const corner = cornerOf(on, origin);
    const to = apply(map, corner);
    return {
      ...laid,
      lay: { turn, dx: to.x - corner.x, dy: to.y - corner.y, residualMm },
      pockets: laid.pockets.map((pocket) => ({ ...pocket, ...apply(map, pocket), turn: (pocket.turn + turn + 360) % 360 }))
    };
  } catch (error) {
    if (error instanceof LayError) return { ...laid, fault: error.message };
    throw error;
  }
}
