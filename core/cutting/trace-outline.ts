import { ArtworkError } from '../artwork/facts';
import { apply, type Matrix } from '../geometry/matrix';
import type { Path } from '../geometry/path';
import { traceField } from './contour';
import { fitRing } from './fit';

/** How opaque a page is, or how far from its background, pixel by pixel. */
export interface Field {
  width: number;
  height: number;
  /** Opacity × 255, or ΔE00 × `FIELD_STEPS_A_DELTA`, at most 255. */
  samples: Uint8Array;
  /** Pixels → mm from the trim box's corner. */
  toPage: Matrix;
  /** What it was compared with, sRGB 0…255. */
  background: [number, number, number] | null;
}

export const FIELD_STEPS_A_DELTA = 2;
const MOST_RINGS = 20_000;
/** Rings around less than this are specks, square pixels. */
const SPECK = 4;

/** Around a pixel this many are looked at for how far the artwork itself is from the background. */
const REACH = 2;

/**
 * How much of a pixel is artwork, 0…255, from how far its colour is from the background: half of the farthest nearby is half
 * covered, so that an edge lies where it is and not where the threshold cuts its slope. Of pale artwork the threshold decides.
 */
export function coverage(samples: Uint8Array, width: number, height: number, threshold: number): Uint8Array {
  const across = new Uint8Array(samples.length);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    for (let x = 0; x < width; x++) {
      let most = 0;
      const to = x + REACH < width ? x + REACH : width - 1;
      for (let k = x > REACH ? x - REACH : 0; k <= to; k++) {
        const v = samples[row + k]!;
        if (v > most) most = v;
      }
      across[row + x] = most;
    }
  }
  const out = new Uint8Array(samples.length);
  for (let y = 0; y < height; y++) {
    const from = y > REACH ? y - REACH : 0;
    const to = y + REACH < height ? y + REACH : height - 1;
    for (let x = 0; x < width; x++) {
      const own = samples[y * width + x]!;
      if (own === 0) continue;
      let most = 0;
      for (let k = from; k <= to; k++) {
        const v = across[k * width + x]!;
        if (v > most) most = v;
      }
      // As a share of what full artwork would have here; half of it is the edge.
      const whole = most > 2 * threshold ? most : 2 * threshold;
      out[y * width + x] = own >= whole ? 255 : Math.round((own * 255) / whole);
    }
  }
  return out;
}

/**
 * The outline of a field at a threshold, as Béziers within a third of a pixel.
 *
 * @param threshold opacity 0…1, or ΔE00
 * @throws ArtworkError when there are too many pieces
 */
export function outlineOf({ samples, width, height, toPage }: Field, how: 'opaque' | 'background', threshold: number): Path {
  const rings =
    how === 'opaque'
      ? traceField(samples, width, height, Math.min(255, Math.max(1, Math.round(threshold * 255 + 0.5))), SPECK)
      : traceField(coverage(samples, width, height, threshold * FIELD_STEPS_A_DELTA), width, height, 128, SPECK);
  if (rings.length > MOST_RINGS)
    throw new ArtworkError(
      `${rings.length.toLocaleString('en-GB')} pieces are found, more than ${MOST_RINGS.toLocaleString('en-GB')}. Choose another threshold.`
    );
  const grain = toPage[0];
  return rings.flatMap((ring) =>
    fitRing(
      ring.map((p) => apply(toPage, p)),
      grain * 0.3,
      grain
    )
  );
}
