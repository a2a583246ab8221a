import { labOfRgb } from '../colour/lab';
import * as mupdf from '../interpreter/interpreter';

/** How drawn inks look, as L*a*b*, quick enough for every pixel of a band. */

export interface ColourLook {
  /** Bytes of a pixel. */
  components: number;
  /** The colour of the pixel that begins at `at`, into `out`. */
  lab: (pixels: Uint8Array, at: number, out: Float64Array) => void;
}

/** Points of the table along each channel. */
const GRID = 17;

/**
 * The look of a condition's inks, through its profile and the screen's colours, which is how they are seen where colours are
 * picked on the artwork.
 *
 * @param inks a space of four channels
 */
export function inkLook(inks: mupdf.ColorSpace): ColourLook {
  const points = GRID ** 4;
  const source = new mupdf.Pixmap(inks, [0, 0, GRID ** 2, GRID ** 2], false);
  const samples = source.getPixels();
  for (let i = 0; i < points; i++)
    for (let k = 0; k < 4; k++) samples[i * 4 + k] = Math.round((Math.floor(i / GRID ** (3 - k)) % GRID) * (255 / (GRID - 1)));
  const shown = source.convertToColorSpace(mupdf.ColorSpace.DeviceRGB, false);
  const rgb = shown.getPixels();
  const table = new Float32Array(points * 3);
  for (let i = 0; i < points; i++) table.set(labOfRgb(rgb[i * 3]!, rgb[i * 3 + 1]!, rgb[i * 3 + 2]!), i * 3);
  source.destroy();
  shown.destroy();
  const strides = [GRID ** 3, GRID ** 2, GRID, 1];
  const low = [0, 0, 0, 0];
  const share = [0, 0, 0, 0];
  return {
    components: 4,
    lab: (pixels, at, out) => {
      let corner = 0;
      for (let k = 0; k < 4; k++) {
        const place = (pixels[at + k]! * (GRID - 1)) / 255;
        low[k] = Math.min(GRID - 2, Math.floor(place));
        share[k] = place - low[k]!;
        corner += low[k]! * strides[k]!;
      }
      out.fill(0);
      for (let bits = 0; bits < 16; bits++) {
        let weight = 1;
        let point = corner;
        for (let k = 0; k < 4; k++) {
          const high = (bits >> k) & 1;
          weight *= high ? share[k]! : 1 - share[k]!;
          point += high * strides[k]!;
        }
        if (weight === 0) continue;
        for (let i = 0; i < 3; i++) out[i] = out[i]! + weight * table[point * 3 + i]!;
      }
    }
  };
}

/** 0 for white … 1 for black, even to the eye. */
export const darknessOf = (lightness: number): number => Math.min(1, Math.max(0, 1 - lightness / 100));
