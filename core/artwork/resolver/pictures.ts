import * as mupdf from '../../interpreter/interpreter';
import { spotNames } from '../page';
import type { Enlarged } from '../preparation';
import type { Kernels } from '../../kernels/kernels';
import { askedOfInks, type Asked } from './asked';
import { isInkSpace, type ColourState, type InkSpace, type Lays, type Resolver } from './resolver';

/** Pictures above this stay as they are and are decoded band by band: memory matters more then. */
const MOST_PREPARED_PIXELS = 60e6;
/** Pictures for the screen above this are not enlarged there. */
const MOST_ENLARGED_PIXELS = 4e6;

export interface PictureChoices {
  enlarged: Enlarged;
  /** Grey pictures in black alone. */
  blackAlone: boolean;
}

/** Which channel is black. */
const BLACK = 3;

/** A picture as it is drawn: as one, or, where it leaves channels as they were, the two halves of that. */
export type ResolvedPicture = { image: mupdf.Image; lays: 'covers' | 'mixes' } | { lightens: mupdf.Image; darkens: mupdf.Image };

/** Pictures in the condition's inks, or for the screen; each is decoded once. */
export class PictureResolver {
  readonly #resolver: Resolver;
  readonly #choices: PictureChoices;
  /** The picture is held too, so that no other takes the place that it is known by. */
  readonly #known = new Map<string, { image: mupdf.Image; ready: ResolvedPicture | undefined }>();

  constructor(resolver: Resolver, choices: PictureChoices) {
    this.#resolver = resolver;
    this.#choices = choices;
  }

  /** @returns nothing where all of its inks are left out */
  resolve(image: mupdf.Image, state: ColourState): ResolvedPicture | undefined {
    // Only pictures of named inks can leave other inks as they were.
    const fills = state.fills && spotNames(image.getColorSpace()).length > 0;
    const key = `${image.pointer as unknown as number}/${fills}/${state.intent}/${state.sources}`;
    const known = this.#known.get(key);
    if (known) return known.ready;
    const ready = this.#prepare(image, state);
    this.#known.set(key, { image, ready });
    return ready;
  }

  #prepare(image: mupdf.Image, state: ColourState): ResolvedPicture | undefined {
    const { inks, choices } = this.#resolver;
    const space = image.getColorSpace();
    const names = spotNames(space);
    const meant = names.length > 0 ? askedOfInks(names, [], choices.leftOut) : undefined;
    if (meant?.is === 'nothing') return undefined;
    const overprints = state.fills && meant !== undefined && inks.target.getNumberOfComponents() === 4;
    const lays = overprints ? laysOf(meant) : 'covers';
    const asItIs = { image, lays: lays === 'mixes' ? lays : 'covers' } as const;
    if (!space || image.getImageMask()) return asItIs;
    const pixels = image.getWidth() * image.getHeight();
    const isNamed = meant?.is === 'spot' && this.#resolver.named.has(names);
    const settles = meant !== undefined && (meant.is !== 'spot' || isNamed || names.some((name) => choices.leftOut.has(name)));
    if (!settles && pixels > (isInkSpace(inks) ? MOST_PREPARED_PIXELS : MOST_ENLARGED_PIXELS)) return asItIs;
    const decoded = image.toPixmap();
    try {
      const plain = decoded.getColorSpace();
      if (!plain || decoded.getAlpha()) return asItIs;
      const mask = image.getMask() ?? undefined;
      const { enlarged } = this.#choices;
      const crisp = enlarged === 'crisp' || (enlarged === 'as it suits' && isLineArt(decoded));
      const settled = isNamed
        ? this.#named(decoded, names, state)
        : settles
          ? this.#settled(decoded, names, state)
          : this.#managed(decoded, plain, state);
      try {
        const colours = settled ?? decoded;
        if (!isInkSpace(inks) && !settled && crisp) return asItIs;
        const made = (change?: (channel: number) => number | undefined) => {
          const pixmap = marked(decoded, inks.target, crisp);
          if (isNamed) pixmap.getPixels().set(colours.getPixels());
          else this.#fill(pixmap, colours, meant, state);
          if (change) setChannels(pixmap, change);
          const ready = new mupdf.Image(pixmap, mask);
          pixmap.destroy();
          return ready;
        };
        if (typeof lays === 'string') return { image: made(), lays };
        return {
          lightens: made((channel) => (lays.keeps[channel] ? 255 : undefined)),
          darkens: made((channel) => (lays.keeps[channel] ? 0 : undefined))
        };
      } finally {
        settled?.destroy();
      }
    } finally {
      decoded.destroy();
    }
  }

  /** Pixels of inks by name without those that do not print; as CMYK where the names are the press's own. @param which of the inks */
  #settled(
    decoded: mupdf.Pixmap,
    names: readonly string[],
    state: ColourState,
    which: readonly boolean[] = names.map(() => true)
  ): mupdf.Pixmap {
    const { choices } = this.#resolver;
    const sources = this.#resolver.sources(state);
    const n = names.length;
    const from = decoded.getPixels();
    const count = from.length / n;
    const meant = askedOfInks(names, [], choices.leftOut);
    const own = decoded.getColorSpace() as mupdf.ColorSpace;
    const space = meant.is === 'process' ? sources.cmyk : meant.is === 'all' ? sources.grey : own;
    const settled = new mupdf.Pixmap(space, decoded.getBounds() as mupdf.Rect, false);
    const to = settled.getPixels();
    const channels = settled.getNumberOfComponents();
    const color = new Array<number>(n);
    for (let i = 0; i < count; i++) {
      for (let k = 0; k < n; k++) color[k] = which[k] ? from[i * n + k]! / 255 : 0;
      const colour = askedOfInks(names, color, choices.leftOut);
      const parts =
        colour.is === 'process'
          ? colour.inks
          : colour.is === 'all'
            ? [1 - colour.tint]
            : colour.is === 'spot'
              ? colour.color
              : [];
      for (let k = 0; k < channels; k++) to[i * channels + k] = Math.round((parts[k] ?? 0) * 255);
    }
    return settled;
  }

  /** Pixels of inks some of which are named colours, in the target's channels: each through its table, over what the others come to. */
  #named(decoded: mupdf.Pixmap, names: readonly string[], state: ColourState): mupdf.Pixmap {
    const { inks, choices, named } = this.#resolver;
    const tables = names.map((name) => (choices.leftOut.has(name) ? undefined : named.table(name)));
    const made = new mupdf.Pixmap(inks.target, decoded.getBounds() as mupdf.Rect, false);
    const to = made.getPixels();
    const channels = made.getNumberOfComponents();
    const n = names.length;
    const others = names.map((name, i) => tables[i] === undefined && name !== 'None' && !choices.leftOut.has(name));
    if (others.includes(true)) {
      const rest = this.#settled(decoded, names, state, others);
      convertInto(made, rest, inks.target);
      rest.destroy();
    } else to.fill(named.bare()[0]! * 255);
    const from = decoded.getPixels();
    const subtracts = channels === 4;
    tables.forEach((table, ink) => {
      if (!table) return;
      for (let i = 0, at = 0; at < to.length; i += n, at += channels) {
        const row = from[i + ink]! * channels;
        for (let k = 0; k < channels; k++) {
          const [below, above] = [to[at + k]!, table[row + k]!];
          to[at + k] = subtracts ? 255 - ((255 - below) * (255 - above)) / 255 : (below * above) / 255;
        }
      }
    });
    return made;
  }

  /** A copy with its profile, of pixels in a plain space. */
  #managed(decoded: mupdf.Pixmap, plain: mupdf.ColorSpace, state: ColourState): mupdf.Pixmap | undefined {
    const space = this.#resolver.managed(plain, state);
    if (space === plain) return undefined;
    const copy = new mupdf.Pixmap(space, decoded.getBounds() as mupdf.Rect, false);
    copy.getPixels().set(decoded.getPixels());
    return copy;
  }

  /** Fills a pixmap of the target with a picture's pixels. */
  #fill(pixmap: mupdf.Pixmap, colours: mupdf.Pixmap, meant: Asked | undefined, { intent }: ColourState): void {
    const { inks } = this.#resolver;
    const space = colours.getColorSpace() as mupdf.ColorSpace;
    if (!isInkSpace(inks)) return convertInto(pixmap, colours, inks.target);
    // A picture in the black ink by its name is one.
    const named = meant?.is === 'process' ? meant.named : [];
    const alone = this.#choices.blackAlone || named.indexOf(true) === BLACK;
    if (alone && inBlack(pixmap, colours, space, inks)) return;
    const target = (intent && inks.intents?.[intent]) ?? inks.target;
    // The table is worth its making from about as many pixels as it has points.
    if (space.isRGB() && colours.getWidth() * colours.getHeight() > TABLE_GRID ** 3)
      rgbInto(pixmap, colours, space, target, inks.kernels);
    else convertInto(pixmap, colours, target);
  }
}

function laysOf(meant: Asked): Lays {
  if (meant.is === 'spot') return 'mixes';
  if (meant.is !== 'process' || !meant.named.includes(false)) return 'covers';
  return { keeps: meant.named.map((named) => !named) };
}

/**
 * Pixels yet to be filled, which stay crisp where they are enlarged, or become smooth: every picture comes marked as crisp, the
 * interpreter keeps that as it converts, and new pixels are smooth.
 */
function marked(decoded: mupdf.Pixmap, space: mupdf.ColorSpace, crisp: boolean): mupdf.Pixmap {
  return crisp ? decoded.convertToColorSpace(space, false) : new mupdf.Pixmap(space, decoded.getBounds() as mupdf.Rect, false);
}

function setChannels(pixmap: mupdf.Pixmap, change: (channel: number) => number | undefined): void {
  const pixels = pixmap.getPixels();
  const n = pixmap.getNumberOfComponents();
  for (let channel = 0; channel < n; channel++) {
    const value = change(channel);
    if (value !== undefined) for (let i = channel; i < pixels.length; i += n) pixels[i] = value;
  }
}

/** Pixels by the interpreter's own engine; `target` has the pixmap's channels. */
function convertInto(pixmap: mupdf.Pixmap, colours: mupdf.Pixmap, target: mupdf.ColorSpace): void {
  const turned = colours.convertToColorSpace(target, false);
  pixmap.getPixels().set(turned.getPixels());
  turned.destroy();
}

/** Red, green and blue that differ by no more than this are grey: pictures that were packed with loss are not exact. */
const GREY_APART = 3;

/** Fills a pixmap with black alone, lightness kept. @returns whether the picture is one of greys, and that was done */
function inBlack(pixmap: mupdf.Pixmap, colours: mupdf.Pixmap, space: mupdf.ColorSpace, inks: InkSpace): boolean {
  const table = space.isCMYK() ? inks.blackForTint : inks.blackForGrey;
  const black = Uint8Array.from(table, (amount) => Math.round(amount * 255));
  const from = colours.getPixels();
  const to = pixmap.getPixels();
  const n = colours.getNumberOfComponents();
  if (!space.isGray() && !space.isRGB() && !space.isCMYK()) return false;
  for (let i = 0; i < from.length; i += n) {
    const [p, q, r] = [from[i]!, from[i + 1]!, from[i + 2]!];
    if (n === 3 && Math.max(p, q, r) - Math.min(p, q, r) > GREY_APART) return false;
    if (n === 4 && p + q + r > 0) return false;
  }
  to.fill(0);
  for (let i = 0, at = 3; i < from.length; i += n, at += 4) to[at] = black[from[n === 4 ? i + 3 : n === 3 ? i + 1 : i]!]!;
  return true;
}

/** Pixels that are looked at to tell a picture's kind. */
const LOOKED_AT = 40_000;
/** So many colours, coarsely told, make a code or a drawing of lines; edges that were smoothed already make more. */
const LINE_ART_COLOURS = 4;
const LINE_ART_SHARE = 0.98;

/** Whether a picture is a code or a drawing in a few flat colours. */
export function isLineArt(pixmap: mupdf.Pixmap): boolean {
  const components = pixmap.getNumberOfComponents();
  const samples = pixmap.getPixels();
  const count = samples.length / components;
  // Every pixel of small pictures; of large ones some, a step that no pattern has.
  const step = count <= LOOKED_AT ? 1 : Math.floor(count / LOOKED_AT) | 1;
  const shares = new Map<number, number>();
  let looked = 0;
  for (let i = 0; i < count; i += step) {
    let key = 0;
    for (let k = 0; k < components; k++) key = key * 16 + (samples[i * components + k]! >> 4);
    shares.set(key, (shares.get(key) ?? 0) + 1);
    looked++;
  }
  const most = [...shares.values()].sort((a, b) => b - a).slice(0, LINE_ART_COLOURS);
  return most.reduce((sum, n) => sum + n, 0) >= looked * LINE_ART_SHARE;
}

const TABLE_GRID = 33;

/** RGB pictures go through a table that the interpreter's own colour engine fills: many times faster, and as true. */
function rgbInto(
  pixmap: mupdf.Pixmap,
  colours: mupdf.Pixmap,
  space: mupdf.ColorSpace,
  inks: mupdf.ColorSpace,
  kernels: Kernels
): void {
  const mark = kernels.mark;
  const points = new mupdf.Pixmap(space, [0, 0, TABLE_GRID * TABLE_GRID, TABLE_GRID], false);
  const samples = points.getPixels();
  for (let i = 0, put = 0; i < TABLE_GRID ** 3; i++) {
    for (const index of [Math.floor(i / TABLE_GRID ** 2), Math.floor(i / TABLE_GRID) % TABLE_GRID, i % TABLE_GRID]) {
      samples[put++] = Math.round((index * 255) / (TABLE_GRID - 1));
    }
  }
  const turned = points.convertToColorSpace(inks, false);
  const table = kernels.allocate(TABLE_GRID ** 3 * 8);
  new Uint16Array(kernels.run.memory.buffer, table, TABLE_GRID ** 3 * 4).set(
    Uint16Array.from(turned.getPixels(), (v) => v * 256)
  );
  points.destroy();
  turned.destroy();
  const count = colours.getWidth() * colours.getHeight();
  // A stretch at a time, so that no second copy of the whole picture is needed.
  const step = 1 << 16;
  const source = kernels.allocate(step * 3);
  const target = kernels.allocate(step * 4);
  for (let from = 0; from < count; from += step) {
    const n = Math.min(step, count - from);
    kernels.bytes(source, n * 3).set(colours.getPixels().subarray(from * 3, (from + n) * 3));
    kernels.run.lookup3(source, n, table, TABLE_GRID, target);
    pixmap.getPixels().set(kernels.bytes(target, n * 4), from * 4);
  }
  kernels.release(mark);
}
