import { D50, srgbToXyz, xyzToSrgb, type Triple } from './lab';

/**
 * What layers of ink look like on a media, from the front or through it: colour is a filter that light passes twice, white
 * a layer that scatters (Kubelka & Munk 1931), and where ink covers in part the shares are Neugebauer’s (1937).
 */

/** A layer at one place; what is neither colour nor white is not seen. */
export type SeenLayer =
  /** What is left of light that passes it twice, as XYZ over white. */
  | { ink: 'colour'; filter: Readonly<Triple> }
  /** In full drops of one channel. */
  | { ink: 'white'; amount: number }
  | { ink: 'other' };

export interface Ground {
  body: 'opaque' | 'clear' | 'translucent' | 'dark';
  /** XYZ of the media on white. */
  colour: Readonly<Triple>;
}

export interface View {
  from: 'front' | 'behind';
  /** XYZ of what is behind the print, seen from where it is looked at. */
  backing: Readonly<Triple>;
}

/** XYZ of a screen colour, six figures after #. */
export const xyzOf = (hex: string): Triple => srgbToXyz([1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255) as Triple);

/** Behind media that are seen through, where nothing else is chosen: neither white nor dark hides there. */
const PLAIN_BACKING = '#8c8c8c';

/** A bare media as it looks on screens, red, green and blue in 0…1: one that is seen through over grey. */
export const screenOf = ({ body, colour }: { body: Ground['body']; colour: string }): Triple =>
  xyzToSrgb(stackXyz([], { body, colour: xyzOf(colour) }, { from: 'front', backing: xyzOf(PLAIN_BACKING) }));

/** Scattering of one channel of white at its fullest, and what it comes to when it is as thick as can be. */
const SCATTER = 2.1;
const THICKEST = 0.9;
/** How fast drops of white close up. */
const CLOSES = 2.6;
/** How much light a clear film lets through twice, and a translucent one, which throws back a part. */
const CLEAR = 0.93 ** 2;
const TRANSLUCENT = { through: 0.25, back: 0.42 };

/** The share of a place that drops of a mean amount cover. */
export const closed = (amount: number): number => 1 - Math.exp(-CLOSES * amount);

/** Reflectance of a scattering layer over what lies beneath it. */
export function scattering(beneath: number, thickness: number): number {
  if (thickness < 1e-6) return beneath;
  // a, b and coth as Kubelka and Munk have them; R∞ gives a.
  const a = (THICKEST + 1 / THICKEST) / 2;
  const b = Math.sqrt(a * a - 1);
  const coth = 1 / Math.tanh(b * SCATTER * thickness);
  return (1 - beneath * (a - b * coth)) / (a - beneath + b * coth);
}

/** White of a mean amount: covered in part, by what is then thicker. */
function whiteOver(beneath: Triple, amount: number): Triple {
  const covered = closed(amount);
  if (covered < 1e-4) return beneath;
  return beneath.map(
    (value, i) => (1 - covered) * value + covered * D50[i]! * scattering(value / D50[i]!, amount / covered)
  ) as Triple;
}

const filtered = (light: Readonly<Triple>, filter: Readonly<Triple>, share = 1): Triple =>
  light.map((value, i) => (value * share * filter[i]!) / D50[i]!) as Triple;

/** XYZ of a place. @param layers from the media upwards */
export function stackXyz(layers: readonly SeenLayer[], ground: Ground, view: View): Triple {
  const { body, colour } = ground;
  const opens = body === 'clear' || body === 'translucent';
  const through = (light: Readonly<Triple>): Triple =>
    body === 'clear'
      ? filtered(light, colour, CLEAR)
      : (light.map((value, i) => value * TRANSLUCENT.through + TRANSLUCENT.back * colour[i]!) as Triple);
  const fromBehind = view.from === 'behind' && opens;
  let seen: Triple = fromBehind ? [...view.backing] : opens ? through(view.backing) : [...colour];
  for (const layer of fromBehind ? layers.toReversed() : layers) {
    if (layer.ink === 'colour') seen = filtered(seen, layer.filter);
    else if (layer.ink === 'white') seen = whiteOver(seen, layer.amount);
  }
  return fromBehind ? through(seen) : seen;
}
