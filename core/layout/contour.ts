import type { Tool } from '../artwork/roles';
import { areaOf, grow } from '../geometry/areas';
import type { Point } from '../geometry/matrix';
import { flatten, type Path } from '../geometry/path';

/** Corners are kept to this, mm: what is placed by its shape is a hair larger than what is cut, never smaller. */
const FLAT_MM = 0.1;

/**
 * The outer shape of a piece by its cut lines, mm of the finished size, holes (even-odd) included: by what is cut
 * through, or where nothing is, by what is kiss cut.
 */
export function contourOf(lines: readonly { id: string; tool: Tool; outline: Path }[]): Point[][] | undefined {
  const by = (tool: Tool) =>
    lines
      .filter((line) => line.tool === tool && line.id !== 'weed')
      .flatMap((line) => flatten(line.outline, FLAT_MM))
      .filter((line) => line.closed && line.points.length > 2)
      .map((line) => line.points);
  const through = by('through cut');
  const rings = through.length > 0 ? through : by('kiss cut');
  return rings.length > 0 ? grow(areaOf(rings), FLAT_MM, 'round') : undefined;
}
