import { z } from 'zod';
import type { DropVolumes } from './drops';

/** The inks of a machine: what each is, and which channel of the composed page it prints. */

export const INK_ROLES = ['colour', 'light', 'white', 'varnish', 'primer'] as const;

/** The channels that a profile gives, in the order in which the interpreter composes them. */
export const PROCESS_CHANNELS = ['Cyan', 'Magenta', 'Yellow', 'Black'] as const;

export const Ink = z.object({
  name: z.string().min(1).max(40),
  role: z.enum(INK_ROLES),
  /** What it prints a part of: a light ink its colour, two inks of one kind the same, any other its own name. */
  channel: z.string().min(1).max(40),
  /** On the screen. */
  colour: z.string().regex(/^#[0-9a-f]{6}$/i),
  /** pl of the small, middle and large drop. */
  drops: z.tuple([z.number().positive(), z.number().positive(), z.number().positive()]),
  /** Where it begins in the halftone's mask, shares of its side, so that inks do not fall on each other. */
  shift: z.tuple([z.number(), z.number()])
});
export type Ink = z.infer<typeof Ink>;

export const MOST_INKS = 16;
/** In the order of the plates. */
export const InkSet = z.array(Ink).min(1).max(MOST_INKS);
export type InkSet = Ink[];

/** The first four places in the mask, far from each other in both directions. */
const FIRST_SHIFTS: readonly (readonly [number, number])[] = [
  [0, 0],
  [0.5, 0.25],
  [0.25, 0.625],
  [0.75, 0.875]
];
/** Further places are looked for on a grid of so many a side. */
const PLACES = 32;

/** How far places are from each other in a mask that repeats. */
function apart(p: readonly [number, number], q: readonly [number, number]): number {
  const across = (a: number, b: number) => Math.min(Math.abs(a - b), 1 - Math.abs(a - b));
  return Math.hypot(across(p[0], q[0]), across(p[1], q[1]));
}

/** Where an ink of a set begins in the mask, shares of its side: as far from those before it as can be. */
export function shiftOf(index: number): [number, number] {
  const places = [...FIRST_SHIFTS];
  while (places.length <= index) {
    const free = Array.from({ length: PLACES ** 2 }, (_, i) => [(i % PLACES) / PLACES, Math.floor(i / PLACES) / PLACES] as const);
    const room = (place: readonly [number, number]) => Math.min(...places.map((taken) => apart(place, taken)));
    places.push(free.reduce((best, place) => (room(place) > room(best) + 1e-9 ? place : best)));
  }
  return [...places[index]!];
}

const SCREEN_COLOURS: Record<string, string> = { Cyan: '#00aeef', Magenta: '#ec008c', Yellow: '#fff200', Black: '#000000' };

/** Cyan, magenta, yellow and black: what every machine had before it said which inks it has. */
export const fourInks = (drops: DropVolumes): InkSet =>
  PROCESS_CHANNELS.map((name, i) => ({
    name,
    role: 'colour',
    channel: name,
    colour: SCREEN_COLOURS[name]!,
    drops: [...drops],
    shift: shiftOf(i)
  }));

/** The channels of an ink set: those of the profile, then the others as they come. */
export function channelsOf(inks: readonly Pick<Ink, 'channel'>[]): string[] {
  return [...new Set<string>([...PROCESS_CHANNELS, ...inks.map(({ channel }) => channel)])];
}
