import { Clipper, Clipper64, ClipType, EndType, FillRule, JoinType, type Path64 } from 'clipper2-ts';
import type { Point } from './matrix';
import { signedArea } from './path';

/** Polygon arithmetic, by Clipper2, on whole numbers of 1/10000 mm. Outer rings run clockwise with y down, holes the other way. */

const UNITS = 1e4;
/** Arcs depart from the true circle by at most this, mm. */
const ARC_MM = 0.002;
/** A sharp corner reaches at most this many offsets out; sharper ones are cut straight. */
const MITRE = 4;

const toUnits = (rings: readonly (readonly Point[])[]): Path64[] =>
  rings.map((ring) => ring.map((p) => ({ x: Math.round(p.x * UNITS), y: Math.round(p.y * UNITS) })));
const toMm = (paths: Path64[]): Point[][] => paths.map((path) => path.map((p) => ({ x: p.x / UNITS, y: p.y / UNITS })));

/** One area of all rings; even-odd tells holes, so that their direction does not matter. */
export const areaOf = (rings: readonly (readonly Point[])[]): Point[][] => toMm(Clipper.union(toUnits(rings), FillRule.EvenOdd));

/** What a path fills by a rule; the direction of its rings counts for `nonzero`. */
export const filled = (rings: readonly (readonly Point[])[], rule: 'evenodd' | 'nonzero'): Point[][] =>
  toMm(Clipper.union(toUnits(rings), rule === 'evenodd' ? FillRule.EvenOdd : FillRule.NonZero));

/** All areas as one; each ring counts as filled whichever way it runs. */
export const unite = (rings: readonly (readonly Point[])[]): Point[][] =>
  toMm(Clipper.union(toUnits(rings.map((ring) => (signedArea(ring) < 0 ? [...ring].reverse() : ring))), FillRule.NonZero));

/** An area grown, or shrunk below 0; areas that meet become one. */
export function grow(rings: readonly (readonly Point[])[], distance: number, corners: 'round' | 'sharp'): Point[][] {
  if (distance === 0) return areaOf(rings);
  const area = Clipper.union(toUnits(rings), FillRule.EvenOdd);
  const join = corners === 'round' ? JoinType.Round : JoinType.Miter;
  return toMm(Clipper.inflatePaths(area, distance * UNITS, join, EndType.Polygon, MITRE, ARC_MM * UNITS));
}

/** Open or closed lines as the area that a round pen of this width draws. */
export function strokeArea(lines: readonly { points: Point[]; closed: boolean }[], width: number): Point[][] {
  const part = (closed: boolean) =>
    Clipper.inflatePaths(
      toUnits(lines.filter((line) => line.closed === closed).map((line) => line.points)),
      (width / 2) * UNITS,
      JoinType.Round,
      closed ? EndType.Joined : EndType.Round,
      MITRE,
      ARC_MM * UNITS
    );
  return toMm(Clipper.union([...part(true), ...part(false)], FillRule.NonZero));
}

export const intersect = (a: readonly (readonly Point[])[], b: readonly (readonly Point[])[]): Point[][] =>
  toMm(Clipper.intersect(toUnits(a), toUnits(b), FillRule.EvenOdd));

export const difference = (a: readonly (readonly Point[])[], b: readonly (readonly Point[])[]): Point[][] =>
  toMm(Clipper.difference(toUnits(a), toUnits(b), FillRule.EvenOdd));

/** What of open lines lies outside of an area. */
export function outside(lines: readonly (readonly Point[])[], rings: readonly (readonly Point[])[]): Point[][] {
  const clipper = new Clipper64();
  clipper.addOpenSubject(toUnits(lines));
  clipper.addClip(toUnits(rings));
  const open: Path64[] = [];
  clipper.execute(ClipType.Difference, FillRule.EvenOdd, [], open);
  return toMm(open);
}
