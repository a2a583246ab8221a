import type { Box } from '../../geometry/box';
import type { Matrix } from '../../geometry/matrix';

/**
 * How a view box lies in a place (SVG, preserveAspectRatio).
 *
 * @returns view box → place; `slice` when what lies outside of the place is to be cut off
 */
export function fitted(box: Box, place: Box, aspect = ''): { matrix: Matrix; slice: boolean } {
  let sx = place.width / box.width;
  let sy = place.height / box.height;
  const [, across = 'Mid', down = 'Mid', how] = /x(Min|Mid|Max)Y(Min|Mid|Max)\s*(meet|slice)?/.exec(aspect) ?? [];
  const slice = how === 'slice';
  if (!/^\s*none/.test(aspect)) sx = sy = slice ? Math.max(sx, sy) : Math.min(sx, sy);
  const share: Record<string, number> = { Min: 0, Mid: 0.5, Max: 1 };
  const x = place.x + (place.width - box.width * sx) * (share[across] ?? 0.5);
  const y = place.y + (place.height - box.height * sy) * (share[down] ?? 0.5);
  return { matrix: [sx, 0, 0, sy, x - box.x * sx, y - box.y * sy], slice };
}

/** @returns undefined for what is no view box */
export function readViewBox(text: string | undefined): Box | undefined {
  const n = (text ?? '')
    .trim()
    .split(/[\s,]+/)
    .map(Number);
  const [x, y, width, height] = n;
  if (n.length !== 4 || !n.every(Number.isFinite) || !width || !height || width < 0 || height < 0) return undefined;
  return { x: x ?? 0, y: y ?? 0, width, height };
}
