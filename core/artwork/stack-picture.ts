import { srgbToXyz, xyzToSrgb, type Triple } from '../colour/lab';
import { stackXyz, type Ground, type SeenLayer, type View } from '../colour/stack-look';
import type { LayerInk } from '../inks/stack';

/** The picture of a stack on its media: layers that were drawn, seen from a side over something. */

export interface DrawnLayer {
  ink: LayerInk;
  /** Of colour how it looks on white, three bytes a pixel; of any other ink how much of each channel, one. */
  pixels: Uint8Array;
  /** Channels that it is shared by. */
  channels: number;
}

/** Pixels that are remembered: most are like others. */
const MOST_KNOWN = 1 << 18;

/** @returns RGB, three bytes a pixel */
export function stackPicture(layers: readonly DrawnLayer[], count: number, ground: Ground, view: View): Uint8Array {
  const rgb = new Uint8Array(count * 3);
  const seen = layers.filter(({ ink }) => ink === 'colour' || ink === 'white');
  const known = new Map<string, Triple>();
  for (let i = 0; i < count; i++) {
    let key = '';
    for (const { ink, pixels } of seen)
      key +=
        ink === 'colour'
          ? String.fromCharCode(pixels[i * 3]! * 256 + pixels[i * 3 + 1]!, pixels[i * 3 + 2]!)
          : String.fromCharCode(pixels[i]!);
    let colour = known.get(key);
    if (!colour) {
      const here = seen.map(({ ink, pixels, channels }): SeenLayer => {
        if (ink === 'white') return { ink, amount: (pixels[i]! / 255) * channels };
        return { ink: 'colour', filter: srgbToXyz([pixels[i * 3]! / 255, pixels[i * 3 + 1]! / 255, pixels[i * 3 + 2]! / 255]) };
      });
      colour = xyzToSrgb(stackXyz(here, ground, view)).map((v) => Math.round(v * 255)) as Triple;
      if (known.size < MOST_KNOWN) known.set(key, colour);
    }
    rgb.set(colour, i * 3);
  }
  return rgb;
}

/** Screen colours of inks that are looked at alone: white is not seen on white. */
const ALONE: Record<Exclude<LayerInk, 'colour'>, Triple> = {
  white: [96, 120, 168],
  varnish: [176, 132, 40],
  primer: [140, 96, 168]
};

/** A layer by itself, on white. @returns RGB */
export function layerPicture({ ink, pixels }: DrawnLayer): Uint8Array {
  if (ink === 'colour') return pixels;
  const full = ALONE[ink];
  const rgb = new Uint8Array(pixels.length * 3);
  pixels.forEach((v, i) => full.forEach((colour, k) => (rgb[i * 3 + k] = Math.round(255 - ((255 - colour) * v) / 255))));
  return rgb;
}
