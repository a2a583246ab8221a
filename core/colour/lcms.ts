import { instantiate, type LCMS } from 'lcms-wasm';
import type { RenderingIntent } from './icc-write';
import type { Triple } from './lab';

/** An independent colour engine (Little CMS), for checking profiles and for sampling them. */
export interface Engine {
  /** Device values 0…1 → L*a*b* (D50). */
  deviceToLab(profile: Uint8Array, space: DeviceSpace, intent: RenderingIntent): (device: readonly number[]) => Triple;
  labToDevice(profile: Uint8Array, intent: RenderingIntent): (lab: Readonly<Triple>) => [number, number, number, number];
  /** Many pixels at once, values 0…1, relative colorimetric. @returns L*, a*, b* of each */
  manyToLab(source: Uint8Array, space: DeviceSpace): (pixels: Float32Array) => Float32Array;
  /** Many pixels at once, values 0…1, with black point compensation. @returns CMYK, 0…1 */
  deviceToCmyk(source: Uint8Array, space: DeviceSpace, target: Uint8Array): (pixels: Float32Array) => Float32Array;
}

export type DeviceSpace = 'CMYK' | 'RGB' | 'GRAY';

export class ProfileError extends Error {
  override name = 'ProfileError';
}

const FLOAT = (1 << 22) | 4;
const FORMAT = {
  CMYK: FLOAT | (6 << 16) | (4 << 3),
  RGB: FLOAT | (4 << 16) | (3 << 3),
  GRAY: FLOAT | (3 << 16) | (1 << 3),
  Lab: FLOAT | (10 << 16) | (3 << 3)
} as const;
const CHANNELS = { CMYK: 4, RGB: 3, GRAY: 1 } as const;
const INTENT = { perceptual: 0, relative: 1, saturation: 2 } as const;
/** Without this flag lcms rounds its own shortcuts to 8 bits. */
const NO_OPTIMISATION = 0x100;
const BLACK_POINT_COMPENSATION = 0x2000;

export async function openEngine(): Promise<Engine> {
  const lcms: LCMS = await instantiate();

  function transform(from: number, fromFormat: number, to: number, toFormat: number, intent: number, flags: number) {
    const handle = lcms.cmsCreateTransform(from, fromFormat, to, toFormat, intent, NO_OPTIMISATION | flags);
    if (!handle) throw new ProfileError('This colour profile has no table for what is asked of it.');
    return (values: Float32Array, count: number) => lcms.cmsDoTransform(handle, values, count) as Float32Array;
  }
  function open(profile: Uint8Array): number {
    const handle = lcms.cmsOpenProfileFromMem(profile, profile.length);
    if (!handle) throw new ProfileError('This is not a colour profile that can be read.');
    return handle;
  }

  /** lcms counts inks in per cent. */
  const scale = (space: DeviceSpace) => (space === 'CMYK' ? 100 : 1);

  return {
    deviceToLab(profile, space, intent) {
      const run = transform(open(profile), FORMAT[space], lcms.cmsCreateLab4Profile(null), FORMAT.Lab, INTENT[intent], 0);
      return (device) => {
        const out = run(
          Float32Array.from(device, (v) => v * scale(space)),
          1
        );
        return [out[0] ?? 0, out[1] ?? 0, out[2] ?? 0];
      };
    },
    labToDevice(profile, intent) {
      const run = transform(lcms.cmsCreateLab4Profile(null), FORMAT.Lab, open(profile), FORMAT.CMYK, INTENT[intent], 0);
      return (lab) => {
        const out = run(Float32Array.from(lab), 1);
        return [0, 1, 2, 3].map((i) => (out[i] ?? 0) / 100) as [number, number, number, number];
      };
    },
    manyToLab(source, space) {
      const run = transform(open(source), FORMAT[space], lcms.cmsCreateLab4Profile(null), FORMAT.Lab, INTENT.relative, 0);
      return (pixels) =>
        run(
          pixels.map((v) => v * scale(space)),
          pixels.length / CHANNELS[space]
        );
    },
    deviceToCmyk(source, space, target) {
      const run = transform(open(source), FORMAT[space], open(target), FORMAT.CMYK, INTENT.relative, BLACK_POINT_COMPENSATION);
      return (pixels) =>
        run(
          pixels.map((v) => v * scale(space)),
          pixels.length / CHANNELS[space]
        ).map((v) => v / 100);
    }
  };
}
