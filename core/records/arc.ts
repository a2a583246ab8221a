import { boxAround } from '../geometry/box';
import type { Point } from '../geometry/matrix';
import type { FieldPlace, TextField } from './field';
import type { TextBlock } from './fitting';

/** Lettering on an arc that is as wide as its place. */

/** A glyph where it stands in its place, mm, y down; turned clockwise, radians. */
export interface PlacedGlyph {
  id: number;
  x: number;
  y: number;
  turn: number;
}

interface LaidArc {
  glyphs: PlacedGlyph[];
  inside: boolean;
}

type ArcField = Pick<TextField, 'place' | 'bend' | 'along' | 'down'>;

/**
 * Puts one line on the arc of its field: letters stand upright on it, their tops outward where the middle is high, inward
 * where it is low.
 *
 * @param block of one line, em
 * @param size of the em, mm
 */
export function layArc({ place, bend, along, down }: ArcField, block: TextBlock, size: number): LaidArc {
  const line = block.lines[0]?.line;
  if (!line || line.glyphs.length === 0) return { glyphs: [], inside: true };
  const half = halfAngle(bend);
  const isHigh = bend > 0;
  const above = block.lines[0]!.baseline * size;
  const below = block.height * size - above;
  // The corners of straight letters reach out beyond the arc that their middles touch.
  const widest = (line.glyphs.reduce((most, { advance }) => Math.max(most, advance), 0) / 2) * size;
  const outer = Math.sqrt(Math.max(0, radiusOf(place, half) ** 2 - widest ** 2));
  const radius = outer - (isHigh ? above : below);
  if (radius <= (isHigh ? below : above)) return { glyphs: [], inside: false };
  const length = line.width * size;
  const spare = 2 * half * radius - length;
  const start = along === 'left' ? 0 : along === 'centre' ? spare / 2 : spare;
  const corners: Point[] = [];
  // About the middle of the place’s top or bottom, where the arc’s own middle is; y down.
  const glyphs = line.glyphs.map(({ id, x, y, advance }): PlacedGlyph => {
    const middle = (x + advance / 2) * size;
    const angle = ((start + middle) / radius - half) * (isHigh ? 1 : -1);
    const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
    const at = (dx: number, up: number): Point => {
      // From the middle of the glyph’s foot, along its line and upward from it.
      const far = isHigh ? radius + up : radius - up;
      const foot = isHigh ? { x: sin * far, y: outer - cos * far } : { x: -sin * far, y: cos * far - outer };
      return { x: place.width / 2 + foot.x + cos * dx, y: foot.y + sin * dx };
    };
    const wide = (advance / 2) * size;
    for (const dx of [-wide, wide]) for (const up of [above, -below]) corners.push(at(dx, up));
    const origin = at(-wide, y * size);
    return { id, x: origin.x, y: origin.y, turn: angle };
  });
  const box = boxAround([corners])!;
  const free = place.height - box.height;
  const top = (down === 'top' ? 0 : down === 'middle' ? free / 2 : free) - box.y;
  const HAIR = 1e-6;
  const inside = spare >= -HAIR && free >= -HAIR && box.x >= -HAIR && box.x + box.width <= place.width + HAIR;
  return { glyphs: glyphs.map((glyph) => ({ ...glyph, y: glyph.y + top })), inside };
}

/** The largest size at which a line is inside of its place on the arc, mm; 0 where the arc itself is higher than the place. */
export function largestOnArc(field: ArcField, block: TextBlock): number {
  const half = halfAngle(field.bend);
  const { width, height } = block;
  if (width === 0 || height === 0) return Infinity;
  let [least, most] = [0, (2 * half * radiusOf(field.place, half)) / width];
  for (let i = 0; i < 40; i++) {
    const size = (least + most) / 2;
    if (layArc(field, block, size).inside) least = size;
    else most = size;
  }
  return least;
}

const halfAngle = (bend: number): number => (Math.abs(bend) * Math.PI) / 360;
/** Of the outermost arc, whose ends are as far apart as the place is wide. */
const radiusOf = ({ width }: Pick<FieldPlace, 'width'>, half: number): number => width / (2 * Math.sin(half));
