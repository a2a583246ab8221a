import { readFileSync } from 'node:fs';
import type { ColourTarget, InkSpace } from '$core/artwork/resolver/resolver';
import { DEFAULT_SEPARATION } from '$core/colour/black';
import { offsetCoated } from '$core/colour/conditions';
import { greyProfile, srgbProfile } from '$core/colour/icc-write';
import { buildProfile, modelPress } from '$core/colour/profile-build';
import * as mupdf from '$core/interpreter/interpreter';
import { Kernels } from '$core/kernels/kernels';

/** A printing condition made in a moment, for drawing into, and the screen beside it. */

export const pressProfile = (total = DEFAULT_SEPARATION.limits.total): Uint8Array<ArrayBuffer> =>
  buildProfile(modelPress(offsetCoated()), {
    name: 'Press',
    version: 2,
    made: { year: 2026, month: 1, day: 1 },
    separation: { ...DEFAULT_SEPARATION, limits: { total } },
    forwardGrid: 9,
    backwardGrid: 13
  });

export function madePress(): { screen: ColourTarget; inks: InkSpace } {
  const cmyk = pressProfile();
  const sources = { rgb: srgbProfile(), cmyk, grey: greyProfile() };
  const straight = Float64Array.from({ length: 256 }, (_, i) => i / 255);
  return {
    screen: { target: mupdf.ColorSpace.DeviceRGB, sources },
    inks: {
      target: new mupdf.ColorSpace(cmyk, 'press'),
      profile: cmyk,
      sources,
      blackForGrey: straight.map((v) => 1 - v),
      blackForTint: straight,
      kernels: new Kernels(new WebAssembly.Module(readFileSync('dist-node/kernels.wasm')))
    }
  };
}
