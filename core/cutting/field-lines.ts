import type { Tool } from '../artwork/roles';
import { filled, grow } from '../geometry/areas';
import { apply, type Matrix, type Point } from '../geometry/matrix';
import { signedArea, transformPath, type Path } from '../geometry/path';
import type { TextField } from '../records/field';
import { placeMatrix } from '../records/field-placing';
import { layText, placedGlyphs, type FieldText } from '../records/overlay';
import type { TextFace } from '../records/shaping';
import { closedRings } from './docket-lines';
import { fitRing } from './fit';

/** Lines that follow the lettering of a record. All lengths are mm at the finished size. */

export interface FieldLine {
  field: number;
  tool: Tool;
  path: Path;
}

/** The most a line may depart from the exact one. */
const FITTED_MM = 0.02;
/** Holes and specks that no knife goes around, mm². */
const LEAST_MM2 = 0.05;

const isCut = (text: FieldText): text is FieldText & { field: TextField } => text.field.is === 'text' && text.field.cut !== null;

/**
 * The lines of one record.
 *
 * @param faces by name of a font
 * @param most by field of one size for all, that size
 * @throws RangeError for a font that is not there
 */
export function fieldLines(
  texts: readonly FieldText[],
  faces: ReadonlyMap<string, TextFace>,
  most: ReadonlyMap<number, number> = new Map()
): FieldLine[] {
  return texts.filter(isCut).flatMap(({ field, text }) => {
    if (text.trim() === '') return [];
    const face = faces.get(field.font);
    if (!face) throw new RangeError(`The shop has no font ${field.font}.`);
    const { tool, mm, holes } = field.cut!;
    const toPiece = placeMatrix(field.place);
    // Letters that overlap, as joined ones do, are one area.
    const rings = filled(letterRings(field, text, face, most.get(field.id)), 'nonzero');
    return grow(rings, mm, 'round')
      .filter((ring) => Math.abs(signedArea(ring)) >= LEAST_MM2 && (holes || signedArea(ring) > 0))
      .map((ring) =>
        fitRing(
          ring.map((p) => apply(toPiece, p)),
          FITTED_MM
        )
      )
      .filter((path) => path.length > 0)
      .map((path) => ({ field: field.id, tool, path }));
  });
}

/** The outlines of lettering in its own place. */
function letterRings(field: TextField, text: string, face: TextFace, most: number | undefined): Point[][] {
  const laid = layText(field, text, face, most);
  const { size } = laid;
  return placedGlyphs(field, laid).flatMap(({ id, x, y, turn }) => {
    const [cos, sin] = [Math.cos(turn) * size, Math.sin(turn) * size];
    // Letters stand upright where y goes down.
    const stand: Matrix = [cos, sin, sin, -cos, x, y];
    return closedRings(transformPath(face.outlineOf(id), stand));
  });
}
