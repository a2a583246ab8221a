import type { Box } from '../geometry/box';
import { chain, rotation, translation, turnedSize, type Matrix, type Point } from '../geometry/matrix';
import type { FieldPlace } from './field';

/** Fields that are moved, sized, turned and lined up by hand. Lengths are mm of the finished size. */

/** Which edges of a field are pulled: -1 left or top, 1 right or bottom, 0 neither. */
export interface Pulled {
  across: -1 | 0 | 1;
  down: -1 | 0 | 1;
}

/** A field’s own axes as the piece has them. */
const axes = (turn: number) => {
  const angle = (turn * Math.PI) / 180;
  return { cos: Math.cos(angle), sin: Math.sin(angle) };
};

const LEAST_MM = 0.5;

/** A point of the piece in a field’s own upright box, from its top left corner. */
export function inField({ x, y, width, height, turn }: FieldPlace, at: Point): Point {
  const { cos, sin } = axes(turn);
  const [dx, dy] = [at.x - x - width / 2, at.y - y - height / 2];
  return { x: dx * cos + dy * sin + width / 2, y: dy * cos - dx * sin + height / 2 };
}

/** The same backwards. */
export function fromField({ x, y, width, height, turn }: FieldPlace, at: Point): Point {
  const { cos, sin } = axes(turn);
  const [dx, dy] = [at.x - width / 2, at.y - height / 2];
  return { x: dx * cos - dy * sin + x + width / 2, y: dx * sin + dy * cos + y + height / 2 };
}

/** A field whose pulled edges go to a point of the piece; the opposite ones stay where they are, however it is turned. */
export function pull(place: FieldPlace, { across, down }: Pulled, to: Point): FieldPlace {
  const at = inField(place, to);
  const left = across < 0 ? Math.min(at.x, place.width - LEAST_MM) : 0;
  const right = across > 0 ? Math.max(at.x, LEAST_MM) : place.width;
  const top = down < 0 ? Math.min(at.y, place.height - LEAST_MM) : 0;
  const bottom = down > 0 ? Math.max(at.y, LEAST_MM) : place.height;
  const [width, height] = [right - left, bottom - top];
  const middle = fromField(place, { x: (left + right) / 2, y: (top + bottom) / 2 });
  return { ...place, x: middle.x - width / 2, y: middle.y - height / 2, width, height };
}

/** A field turned so that its top points to a point; near quarter turns it takes those. */
export function turnTo(place: FieldPlace, to: Point, snapDegrees = 3): FieldPlace {
  const [dx, dy] = [to.x - place.x - place.width / 2, to.y - place.y - place.height / 2];
  const angle = (Math.atan2(dx, -dy) * 180) / Math.PI;
  const quarter = Math.round(angle / 45) * 45;
  const turn = Math.abs(angle - quarter) <= snapDegrees ? quarter : Math.round(angle * 10) / 10;
  return { ...place, turn: (turn + 360) % 360 };
}

/** How a field is lined up with another, or with the piece. */
export const ALIGNMENTS = ['left', 'middle across', 'right', 'top', 'middle down', 'bottom'] as const;
export type FieldAlignment = (typeof ALIGNMENTS)[number];

/** The upright box around a place, turned as it is. */
function boxOf({ x, y, width, height, turn }: FieldPlace): Box {
  const size = turnedSize(width, height, turn);
  return { x: x + (width - size.width) / 2, y: y + (height - size.height) / 2, ...size };
}

/** A field whose edge or middle lies where that of another does. */
export function aligned(place: FieldPlace, other: FieldPlace, alignment: FieldAlignment): FieldPlace {
  const [own, to] = [boxOf(place), boxOf(other)];
  const share = alignment.startsWith('middle') ? 0.5 : alignment === 'right' || alignment === 'bottom' ? 1 : 0;
  return alignment === 'left' || alignment === 'middle across' || alignment === 'right'
    ? { ...place, x: place.x + to.x - own.x + share * (to.width - own.width) }
    : { ...place, y: place.y + to.y - own.y + share * (to.height - own.height) };
}

interface Size {
  widthMm: number;
  heightMm: number;
}

/** What was lined up with, for a line to be shown. */
export interface Guide {
  is: 'across' | 'down';
  at: number;
}

/**
 * A field that was moved near to a line that others have takes it: edges and middles of the piece and of other upright fields.
 *
 * @param near how near, mm
 */
export function snapped(
  place: FieldPlace,
  others: readonly FieldPlace[],
  { widthMm, heightMm }: Size,
  near: number
): { place: FieldPlace; guides: Guide[] } {
  if (place.turn % 180 !== 0) return { place, guides: [] };
  const upright = others.filter(({ turn }) => turn % 180 === 0);
  const lines = (from: number, size: number) => [from, from + size / 2, from + size];
  const best = (own: readonly number[], all: readonly number[]): { by: number; at: number } | undefined => {
    let found: { by: number; at: number } | undefined;
    for (const line of all)
      for (const mine of own)
        if (Math.abs(line - mine) <= near && Math.abs(line - mine) < Math.abs(found?.by ?? Infinity))
          found = { by: line - mine, at: line };
    return found;
  };
  const x = best(lines(place.x, place.width), [...lines(0, widthMm), ...upright.flatMap((one) => lines(one.x, one.width))]);
  const y = best(lines(place.y, place.height), [...lines(0, heightMm), ...upright.flatMap((one) => lines(one.y, one.height))]);
  return {
    place: { ...place, x: place.x + (x?.by ?? 0), y: place.y + (y?.by ?? 0) },
    guides: [...(x ? [{ is: 'across' as const, at: x.at }] : []), ...(y ? [{ is: 'down' as const, at: y.at }] : [])]
  };
}

/** A place for a new field: in the middle, so large that it is seen; below others as long as there is room. */
export function freePlace(others: readonly FieldPlace[], { widthMm, heightMm }: Size, square: boolean): FieldPlace {
  const height = square ? Math.min(widthMm, heightMm) * 0.4 : Math.min(heightMm * 0.2, widthMm * 0.3);
  const width = square ? height : widthMm * 0.7;
  const x = (widthMm - width) / 2;
  const lowest = Math.max(heightMm * 0.1, ...others.map((one) => one.y + one.height + heightMm * 0.03));
  return { x, y: lowest + height <= heightMm ? lowest : (heightMm - height) / 2, width, height, turn: 0 };
}

/** A field's own upright place, mm from its top left corner → the piece: turned clockwise about its middle. */
export function placeMatrix({ x, y, width, height, turn }: FieldPlace): Matrix {
  const aboutMiddle = chain(translation(-width / 2, -height / 2), rotation(turn));
  return chain(aboutMiddle, translation(x + width / 2, y + height / 2));
}
