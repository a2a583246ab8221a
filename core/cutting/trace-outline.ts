import { ArtworkError } from '../artwork/facts';
import { apply, type Matrix } from '../geometry/matrix';
import type { Path } from '../geometry/path';
import { traceField } from './contour';
import { fitRing } from './fit';

/** How opaque a page is, or how far from its background, pixel by pixel. */
export interface Field {
  width: number;
  height: number;
  /** Opacity × 255, or ΔE00 × `STEPS_A_DELTA`, at most 255. */
  samples: Uint8Array;
  /** Pixels → mm from the trim box's corner. */
  toPage: Matrix;
  /** What it was compared with, sRGB 0…255. */
  background: [number, number, number] | null;
}

export const STEPS_A_DELTA = 2;
const MOST_RINGS = 20_000;
/** Rings around less than this are specks, square pixels. */
const SPECK = 4;

/**
 * The outline of a field at a threshold, as Béziers within a quarter of a pixel.
 *
 * @param threshold opacity 0…1, or ΔE00
 * @throws ArtworkError when there are too many pieces
 */
export function outlineOf({ samples, width, height, toPage }: Field, how: 'opaque' | 'background', threshold: number): Path {
  const level = Math.min(255, Math.max(1, Math.round(how === 'opaque' ? threshold * 255 + 0.5 : threshold * STEPS_A_DELTA)));
  const rings = traceField(samples, width, height, level, SPECK);
  if (rings.length > MOST_RINGS)
    throw new ArtworkError(
      `${rings.length.toLocaleString('en-GB')} pieces are found, more than ${MOST_RINGS.toLocaleString('en-GB')}. Choose another threshold.`
    );
  const grain = toPage[0];
  return rings.flatMap((ring) =>
    fitRing(
      ring.map((p) => apply(toPage, p)),
      grain / 4,
      grain
    )
  );
}
