import { apply, chain, invert, type Matrix } from '../../geometry/matrix';
import { pdfNumber } from '../pdf-objects';
import type { Extent } from './extent';
import { matrixOf, number, type Plain } from './plain-tree';

export interface Stop {
  offset: number;
  /** sRGB, 0…1. */
  colour: readonly [number, number, number];
  opacity: number;
}

export function stopsOf(gradient: Plain): Stop[] {
  return gradient.kids
    .filter((kid) => kid.tag === 'stop')
    .map((stop) => ({
      offset: number(stop, 'offset'),
      colour: readColour(stop.attributes['stop-color'] ?? '#000000'),
      opacity: number(stop, 'stop-opacity', 1)
    }));
}

export function readColour(text: string): [number, number, number] {
  const value = Number.parseInt(text.slice(1, 7), 16);
  return [((value >> 16) & 255) / 255, ((value >> 8) & 255) / 255, (value & 255) / 255];
}

/** More repeats than this cannot be told apart. */
const MOST_REPEATS = 400;

/**
 * A gradient as a PDF shading.
 *
 * @param toPage the coordinates that the gradient is written in → page
 * @param area what is painted with it, on the page: repeating gradients are written out as far as it reaches
 * @param components of a stop, as the colour space has them
 */
export function shadingOf(
  gradient: Plain,
  toPage: Matrix,
  area: Extent,
  space: string,
  components: (stop: Stop) => number[]
): { shading: string; matrix: Matrix } | undefined {
  const matrix = chain(matrixOf(gradient, 'gradientTransform'), toPage);
  const stops = stopsOf(gradient);
  let back: Matrix;
  try {
    back = invert(matrix);
  } catch {
    return undefined;
  }
  const corners = [area.x0, area.x1].flatMap((x) => [area.y0, area.y1].map((y) => apply(back, { x, y })));
  const spread = gradient.attributes['spreadMethod'];
  const repeats = spread === 'repeat' || spread === 'reflect';
  const n = pdfNumber;
  if (gradient.tag === 'linearGradient') {
    const [x1, y1, x2, y2] = [number(gradient, 'x1'), number(gradient, 'y1'), number(gradient, 'x2', 1), number(gradient, 'y2')];
    const [dx, dy] = [x2 - x1, y2 - y1];
    const long = dx * dx + dy * dy;
    if (!(long > 0)) return undefined;
    let [from, to] = [0, 1];
    if (repeats) {
      const reach = corners.map((p) => ((p.x - x1) * dx + (p.y - y1) * dy) / long);
      from = Math.max(-MOST_REPEATS, Math.floor(Math.min(0, ...reach)));
      to = Math.min(MOST_REPEATS, Math.ceil(Math.max(1, ...reach)));
    }
    const coords = [x1 + dx * from, y1 + dy * from, x1 + dx * to, y1 + dy * to].map((v) => n(v, 7)).join(' ');
    const ramp = rampOf(repeated(stops, from, to, spread === 'reflect'), components);
    return { shading: `/ShadingType 2/ColorSpace ${space}/Coords[${coords}]/Function ${ramp}/Extend[true true]`, matrix };
  }
  const [cx, cy, r] = [number(gradient, 'cx', 0.5), number(gradient, 'cy', 0.5), number(gradient, 'r', 0.5)];
  let [fx, fy] = [number(gradient, 'fx', cx), number(gradient, 'fy', cy)];
  if (!(r > 0)) return undefined;
  // A focus on or beyond the circle lies just inside of it.
  const off = Math.hypot(fx - cx, fy - cy);
  if (off > r * 0.999) {
    fx = cx + ((fx - cx) * r * 0.999) / off;
    fy = cy + ((fy - cy) * r * 0.999) / off;
  }
  let to = 1;
  if (repeats) {
    const slack = r - Math.hypot(fx - cx, fy - cy);
    to = Math.min(MOST_REPEATS, Math.max(1, Math.ceil(Math.max(...corners.map((p) => Math.hypot(p.x - fx, p.y - fy))) / slack)));
  }
  const coords = [fx, fy, 0, fx + (cx - fx) * to, fy + (cy - fy) * to, r * to].map((v) => n(v, 7)).join(' ');
  const ramp = rampOf(repeated(stops, 0, to, spread === 'reflect'), components);
  return { shading: `/ShadingType 3/ColorSpace ${space}/Coords[${coords}]/Function ${ramp}/Extend[true true]`, matrix };
}

/** The stops laid one after another from a whole number to another, back and forth where they reflect; 0…1 again. */
function repeated(stops: readonly Stop[], from: number, to: number, reflect: boolean): Stop[] {
  if (from === 0 && to === 1) return [...stops];
  const all: Stop[] = [];
  for (let turn = from; turn < to; turn++) {
    const back = reflect && Math.abs(turn) % 2 === 1;
    const ordered = back ? stops.map((stop) => ({ ...stop, offset: 1 - stop.offset })).reverse() : stops;
    const [first, last] = [ordered[0], ordered.at(-1)];
    // Each turn fills its whole length, so that one does not run into the next.
    if (first && first.offset > 0) all.push({ ...first, offset: turn });
    all.push(...ordered.map((stop) => ({ ...stop, offset: turn + stop.offset })));
    if (last && last.offset < 1) all.push({ ...last, offset: turn + 1 });
  }
  return all.map((stop) => ({ ...stop, offset: (stop.offset - from) / (to - from) }));
}

/** A function from 0…1 to colour components; where two stops lie at one place the colour jumps. */
function rampOf(stops: readonly Stop[], components: (stop: Stop) => number[]): string {
  const list = (stop: Stop) =>
    components(stop)
      .map((v) => pdfNumber(v))
      .join(' ');
  const [first, last] = [stops[0], stops.at(-1)];
  if (!first || !last) return '<</FunctionType 2/Domain[0 1]/C0[0]/C1[0]/N 1>>';
  const all = [{ ...first, offset: 0 }, ...stops, { ...last, offset: 1 }];
  const parts: string[] = [];
  const ends: number[] = [];
  for (let i = 1; i < all.length; i++) {
    const [a, b] = [all[i - 1]!, all[i]!];
    if (b.offset - a.offset < 1e-6) continue;
    parts.push(`<</FunctionType 2/Domain[0 1]/C0[${list(a)}]/C1[${list(b)}]/N 1>>`);
    ends.push(b.offset);
  }
  return stitched(parts, ends, 0, 1);
}

/** More parts than this the interpreter does not read in one function. */
const MOST_PARTS = 50;

/** Functions one after another over `from`…`to`, each over 0…1 of its own; many in functions of functions. */
function stitched(parts: readonly string[], ends: readonly number[], from: number, to: number): string {
  if (parts.length === 1) return parts[0]!;
  if (parts.length > MOST_PARTS) {
    const size = Math.ceil(parts.length / Math.ceil(parts.length / MOST_PARTS));
    const groups = Array.from(
      { length: Math.ceil(parts.length / size) },
      (_, i) => [i * size, Math.min(parts.length, (i + 1) * size)] as const
    );
    const edge = (i: number) => (i === 0 ? from : ends[i - 1]!);
    return stitched(
      groups.map(([start, end]) => stitched(parts.slice(start, end), ends.slice(start, end), edge(start), edge(end))),
      groups.map(([, end]) => edge(end)),
      from,
      to
    );
  }
  const bounds = ends.slice(0, -1).map((end) => pdfNumber((end - from) / (to - from), 7));
  return `<</FunctionType 3/Domain[0 1]/Functions[${parts.join('')}]/Bounds[${bounds.join(' ')}]/Encode[${parts.map(() => '0 1').join(' ')}]>>`;
}
