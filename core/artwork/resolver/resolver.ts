import * as mupdf from '../../interpreter/interpreter';
import type { RenderingIntent } from '../../colour/icc-write';
import type { Triple } from '../../colour/lab';
import type { InkedColour } from '../../colour/named-inks';
import { beforeTone } from '../../colour/tone';
import type { Inks } from '../../colour/separation';
import type { Kernels } from '../../kernels/kernels';
import { spotNames } from '../page';
import type { NamedPlaces } from '../preparation';
import { asked, paintOf, type Process } from './asked';
import { NamedOnTarget } from './named';

/**
 * The one place where a colour becomes ink: (colour space, colour, kind of object, graphics state) → inks of the condition, or
 * colours of the screen. Lettering, lines and areas come here as they are drawn, pictures by `pictures.ts`, gradients by
 * `document-colours.ts`.
 */

/** The colours that a page is drawn in. */
export interface ColourTarget {
  /** The printing condition's inks, or RGB. */
  target: mupdf.ColorSpace;
  /** The target's profile; none where it is the interpreter's own RGB. */
  profile?: Uint8Array | undefined;
  /** What RGB, CMYK and grey of the customer's are taken to be where the file does not say. */
  sources: { rgb: Uint8Array; cmyk: Uint8Array; grey: Uint8Array };
}

/** The inks of a printing condition. */
export interface InkSpace extends ColourTarget {
  /** 256 amounts of black ink (0…1) for a grey level of 0 (black) … 1 and for a black-only CMYK tint. */
  blackForGrey: Float64Array;
  blackForTint: Float64Array;
  kernels: Kernels;
  /** The inks of a named colour from the bare media to its solid, in even steps; nothing where it is only seen. */
  tintsOf?: ((colour: InkedColour) => Inks[]) | undefined;
  /** The same inks by rendering intent, where the docket lets the file say which. */
  intents?: Readonly<Record<RenderingIntent, mupdf.ColorSpace>> | undefined;
}

export const isInkSpace = (inks: InkSpace | ColourTarget): inks is InkSpace => 'blackForGrey' in inks;

export type ObjectKind = 'lettering' | 'line' | 'area';

/** What of the page's graphics state decides about inks. */
export interface ColourState {
  /** Overprint of fills and pictures, and of strokes. */
  fills: boolean;
  strokes: boolean;
  /** Whether a zero of a CMYK colour leaves what lies beneath (OPM 1). */
  zerosStay: boolean;
  /** As the file says; nothing where it does not. */
  intent: RenderingIntent | undefined;
  /** Which of a resolver's sources plain colours are read with. */
  sources: number;
}

export const PLAIN_STATE: ColourState = { fills: false, strokes: false, zerosStay: false, intent: undefined, sources: 0 };

/** What plain RGB, CMYK and grey are taken to be. */
export interface Sources {
  rgb: mupdf.ColorSpace;
  cmyk: mupdf.ColorSpace;
  grey: mupdf.ColorSpace;
}

/** How an object's inks meet those beneath: they replace them, mix with them, or leave some channels as they were. */
export type Lays = 'covers' | 'mixes' | { keeps: readonly boolean[] };

export interface Resolved {
  space: mupdf.ColorSpace;
  color: mupdf.Color;
  lays: Lays;
}

/** What of a docket's choices a resolver follows. */
export interface ColourChoices {
  /** Inks that do not print. */
  leftOut: ReadonlySet<string>;
  /** Dark lettering in black alone. */
  blackText: boolean;
  named?: NamedPlaces | undefined;
  /** What becomes of amounts of ink afterwards: named colours are drawn so that they come out right. */
  tone?: readonly (readonly number[])[] | undefined;
}

/** Colours that are remembered while flat ones are looked for. */
const MOST_LABS = 10_000;

/** Profiles that are open, by what holds them: one run has the same for thousands of pages. */
const opened = new WeakMap<ColourTarget['sources'], Sources>();

function openedSources(files: ColourTarget['sources']): Sources {
  const known = opened.get(files) ?? {
    rgb: new mupdf.ColorSpace(files.rgb, 'source-rgb'),
    cmyk: new mupdf.ColorSpace(files.cmyk, 'source-cmyk'),
    grey: new mupdf.ColorSpace(files.grey, 'source-grey')
  };
  opened.set(files, known);
  return known;
}

export class Resolver {
  readonly inks: InkSpace | ColourTarget;
  readonly choices: ColourChoices;
  readonly named: NamedOnTarget;
  readonly #labs = new Map<string, Triple>();
  /** First the docket's; after it those that contents of the file bring. */
  readonly #sources: Sources[];

  constructor(inks: InkSpace | ColourTarget, choices: ColourChoices) {
    this.inks = inks;
    this.choices = choices;
    this.#sources = [openedSources(inks.sources)];
    this.named = new NamedOnTarget(
      choices.named,
      inks.target,
      isInkSpace(inks) ? beforeTones(inks.tintsOf, choices.tone) : undefined
    );
  }

  /** @returns the number by which a state asks for them */
  addSources(own: Partial<Sources>): number {
    return this.#sources.push({ ...this.sources({ sources: 0 }), ...own }) - 1;
  }

  sources({ sources }: Pick<ColourState, 'sources'>): Sources {
    return this.#sources[sources] ?? this.#sources[0]!;
  }

  /** A plain space with its profile: the interpreter does not tell a device what a page has instead of one. */
  managed(space: mupdf.ColorSpace, state: ColourState): mupdf.ColorSpace {
    const { rgb, cmyk, grey } = this.sources(state);
    return { DeviceRGB: rgb, DeviceCMYK: cmyk, DeviceGray: grey }[space.getName()] ?? space;
  }

  /** @returns nothing where the object lays no ink and leaves what is beneath it */
  resolve(
    space: mupdf.ColorSpace,
    color: readonly number[],
    kind: ObjectKind,
    state: ColourState = PLAIN_STATE
  ): Resolved | undefined {
    const { inks, choices } = this;
    const colour = asked(space, color, choices.leftOut);
    if (colour.is === 'nothing') return undefined;
    const lays = this.#lays(colour, kind === 'line' ? state.strokes : state.fills, state.zerosStay);
    if (!lays) return undefined;
    const other = colour.is === 'spot' ? undefined : this.named.inPlaceOf(() => this.#labOf(space, color, state));
    if (other) return { space: inks.target, color: other as mupdf.Color, lays };
    if (kind === 'lettering' && choices.blackText && paintOf(space, color) === 'rich') {
      return isInkSpace(inks) ? this.#black(1, lays) : { space: this.sources(state).grey, color: [0], lays };
    }
    const to = (from: mupdf.ColorSpace, value: readonly number[]): Resolved => ({ ...this.#inks(from, value, state), lays });
    switch (colour.is) {
      case 'grey':
        return isInkSpace(inks) ? this.#black(at(inks.blackForGrey, colour.level), lays) : to(this.managed(space, state), color);
      case 'process': {
        const black = isInkSpace(inks) && blackAlone(colour.inks);
        return black
          ? this.#black(at(inks.blackForTint, colour.inks[3]), lays)
          : to(space.isDeviceN() ? this.sources(state).cmyk : this.managed(space, state), colour.inks);
      }
      // The condition's own neutral: as dark as it can be, and within its limit of ink.
      case 'all':
        return to(this.sources(state).grey, [1 - colour.tint]);
      case 'spot': {
        const made = this.named.of(spotNames(space), colour.color, (rest) => this.onTarget(to(space, rest)));
        return made ? { space: inks.target, color: made as mupdf.Color, lays } : to(space, colour.color);
      }
      case 'colour':
        return to(this.managed(space, state), color);
    }
  }

  /** The target's channels of a colour, 0…1. */
  onTarget({ space, color }: Pick<Resolved, 'space' | 'color'>): number[] {
    const { target } = this.inks;
    return space === target ? [...color] : converted(space, color, target);
  }

  /** As near as the interpreter's 8 bits tell it; a page has many objects of few colours. */
  #labOf(space: mupdf.ColorSpace, color: readonly number[], state: ColourState): Triple {
    const managed = this.managed(space, state);
    const key = `${managed.pointer as unknown as number}/${color.join()}`;
    const known = this.#labs.get(key);
    if (known) return known;
    const [l = 0, a = 0, b = 0] = converted(managed, color, mupdf.ColorSpace.Lab);
    const lab: Triple = [l * 100, a * 255 - 128, b * 255 - 128];
    if (this.#labs.size >= MOST_LABS) this.#labs.clear();
    this.#labs.set(key, lab);
    return lab;
  }

  /** How an object meets what is beneath it. Nothing where it would change none of it. */
  #lays(colour: ReturnType<typeof asked>, overprints: boolean, zerosStay: boolean): Lays | undefined {
    if (!overprints || this.inks.target.getNumberOfComponents() !== 4) return 'covers';
    if (colour.is === 'spot') return 'mixes';
    if (colour.is !== 'process') return 'covers';
    const keeps = colour.named.map((named, i) => !named || (colour.plain && zerosStay && colour.inks[i] === 0));
    if (keeps.every(Boolean)) return undefined;
    return keeps.includes(true) ? { keeps } : 'covers';
  }

  #black(amount: number, lays: Lays): Resolved {
    return { space: this.inks.target, color: [0, 0, 0, amount], lays };
  }

  /** The inks of a colour: left to the interpreter where it takes the colour and the intent is the docket's. */
  #inks(space: mupdf.ColorSpace, color: readonly number[], { intent }: ColourState): Pick<Resolved, 'space' | 'color'> {
    const { inks } = this;
    const asked = intent && isInkSpace(inks) ? inks.intents?.[intent] : undefined;
    const other = asked === inks.target ? undefined : asked;
    // Its interface knows colours of 1, 3 and 4 components alone.
    const takes = color.length === 1 || color.length === 3 || color.length === 4;
    if (takes && !other) return { space, color: color as mupdf.Color };
    return { space: inks.target, color: converted(space, color, other ?? inks.target) as mupdf.Color };
  }
}

/** The inks of named colours as they have to be drawn, so that a tone makes of them what they are to be. */
function beforeTones(tintsOf: InkSpace['tintsOf'], tone: ColourChoices['tone']): InkSpace['tintsOf'] {
  if (!tintsOf || !tone) return tintsOf;
  const tables = tone.map((table) => Float64Array.from(table, (v) => v / 255));
  return (colour) => tintsOf(colour).map((inks) => inks.map((ink, channel) => beforeTone(tables[channel]!, ink)) as Inks);
}

export const blackAlone = (inks: Process): boolean => !inks[0] && !inks[1] && !inks[2];

/** What a table of 256 has for a value of 0…1. */
export const at = (table: Float64Array, value: number): number => table[Math.round(Math.min(1, Math.max(0, value)) * 255)] ?? 0;

/** One colour through the interpreter's own engine, 0…1. */
export function converted(space: mupdf.ColorSpace, color: readonly number[], to: mupdf.ColorSpace): number[] {
  const pixmap = new mupdf.Pixmap(space, [0, 0, 1, 1], false);
  const shares = space.isLab() ? [(color[0] ?? 0) / 100, ((color[1] ?? 0) + 128) / 255, ((color[2] ?? 0) + 128) / 255] : color;
  pixmap.getPixels().set(shares.map((part) => Math.round(Math.min(1, Math.max(0, part)) * 255)));
  const turned = pixmap.convertToColorSpace(to, false);
  const parts = [...turned.getPixels()].map((part) => part / 255);
  pixmap.destroy();
  turned.destroy();
  return parts;
}
