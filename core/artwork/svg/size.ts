import { ArtworkError } from '../facts';
import { fitted, readViewBox } from './fit';
import type { Box } from '../../geometry/box';

const POINTS: Record<string, number> = {
  '': 0.75,
  px: 0.75,
  pt: 1,
  mm: 72 / 25.4,
  cm: 720 / 25.4,
  in: 72,
  pc: 12,
  q: 18 / 25.4,
  // Of a root without lettering of its own: 16 px.
  em: 12,
  rem: 12,
  ex: 6
};

export interface SvgSize {
  /** Points. */
  width: number;
  height: number;
  viewBox: Box;
  aspect: string;
  /** What was taken where the file does not say. */
  note: string | undefined;
}

/**
 * The size of a drawing as SVG and CSS have it: width and height; where one of them is missing or a share of something that
 * is not there, the view box gives the proportion, and where both are, the size.
 *
 * @param drawn what is drawn, for a drawing that says nothing at all
 * @throws ArtworkError when nothing is drawn either
 */
export function svgSize(root: Readonly<Record<string, string>>, drawn: () => Box | undefined): SvgSize {
  const box = readViewBox(root['viewBox']);
  const read = (text: string | undefined): number | undefined => {
    const [, figure, unit = ''] = /^\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z]*)\s*$/i.exec(text ?? '') ?? [];
    const points = POINTS[unit.toLowerCase()];
    const value = figure !== undefined && points !== undefined ? Number(figure) * points : NaN;
    return value > 0 && Number.isFinite(value) ? value : undefined;
  };
  let [width, height] = [read(root['width']), read(root['height'])];
  const aspect = root['preserveAspectRatio'] ?? '';
  const note = width || height ? undefined : 'The SVG does not say its size; its units were taken as 1/96 inch.';
  if (box) {
    width ??= height !== undefined ? (height * box.width) / box.height : box.width * 0.75;
    height ??= (width * box.height) / box.width;
    return { width, height, viewBox: box, aspect, note };
  }
  if (width && height)
    return { width, height, viewBox: { x: 0, y: 0, width: width / 0.75, height: height / 0.75 }, aspect, note };
  const area = drawn();
  if (!area || !(area.width > 0) || !(area.height > 0))
    throw new ArtworkError('The SVG has no size: neither width and height, nor a view box, nor anything drawn.');
  return { width: area.width * 0.75, height: area.height * 0.75, viewBox: area, aspect: 'none', note };
}

/** Units of the drawing → points of its page, y up. */
export function toPage({ viewBox, width, height, aspect }: SvgSize): readonly [number, number, number, number, number, number] {
  const [a, , , d, e, f] = fitted(viewBox, { x: 0, y: 0, width, height }, aspect).matrix;
  return [a, 0, 0, -d, e, height - f];
}
