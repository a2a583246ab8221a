import type * as mupdf from '../../interpreter/interpreter';
import type { Paint } from '../facts';
import { spotNames } from '../page';

/** What a page asks for where it names a colour, before any profile: the one reading of it for the RIP, the preview and the checks. */
export type Asked =
  /** No ink, and what lies beneath stays: “None”, or what is left out. */
  | { is: 'nothing' }
  /** 0 black … 1. */
  | { is: 'grey'; level: number }
  /**
   * Process inks, 0…1. Which of them the object names: others stay as they are where it overprints. `plain` is a colour
   * given as CMYK itself, whose zeros an overprint may leave alone.
   */
  | { is: 'process'; inks: Process; named: readonly boolean[]; plain: boolean }
  /** Every ink of the press alike, as crop marks are drawn, 0…1. */
  | { is: 'all'; tint: number }
  /** Inks of other names, as the file shows them; what is left out has no part in `color`. */
  | { is: 'spot'; color: number[] }
  | { is: 'colour' };

export type Process = [c: number, m: number, y: number, k: number];

/** The process inks in the order of a profile's channels, by the names that PDF gives them (ISO 32000-2, 8.6.6.4). */
const CHANNEL: Readonly<Record<string, number>> = { Cyan: 0, Magenta: 1, Yellow: 2, Black: 3 };

/**
 * @param names of the colour's inks, as `spotNames` reads them
 * @param color by name, 0…1
 * @param leftOut inks that do not print
 */
export function askedOfInks(names: readonly string[], color: readonly number[], leftOut: ReadonlySet<string>): Asked {
  const amount = (i: number) => color[i] ?? 0;
  const prints = names.map((name) => name !== 'None' && !leftOut.has(name));
  if (!prints.includes(true)) return { is: 'nothing' };
  if (names.every((name, i) => !prints[i] || name === 'All')) {
    return { is: 'all', tint: Math.max(...names.map((_, i) => (prints[i] ? amount(i) : 0))) };
  }
  if (names.every((name, i) => !prints[i] || name in CHANNEL || name === 'All')) {
    const inks: Process = [0, 0, 0, 0];
    const named = [false, false, false, false];
    names.forEach((name, i) => {
      if (!prints[i]) return;
      for (let channel = 0; channel < 4; channel++) {
        if (name !== 'All' && CHANNEL[name] !== channel) continue;
        inks[channel] = Math.min(1, inks[channel]! + amount(i));
        named[channel] = true;
      }
    });
    return { is: 'process', inks, named, plain: false };
  }
  return { is: 'spot', color: names.map((_, i) => (prints[i] ? amount(i) : 0)) };
}

/** @param color components 0…1 */
export function asked(space: mupdf.ColorSpace, color: readonly number[], leftOut: ReadonlySet<string> = NOTHING): Asked {
  if (space.isDeviceN()) return askedOfInks(spotNames(space), color, leftOut);
  if (space.isGray()) return { is: 'grey', level: color[0] ?? 0 };
  if (space.isCMYK()) {
    const [c = 0, m = 0, y = 0, k = 0] = color;
    return { is: 'process', inks: [c, m, y, k], named: ALL, plain: space.getName() === 'DeviceCMYK' };
  }
  return { is: 'colour' };
}

const NOTHING: ReadonlySet<string> = new Set();
const ALL = [true, true, true, true];

/** Dark below this in every one of red, green and blue, and no more colourful than the second, is black to the eye. */
const DARK = 0.2;
const NEUTRAL = 0.06;

/** What a colour is to someone who looks for weak lettering. @param color components 0…1 */
export function paintOf(space: mupdf.ColorSpace, color: readonly number[]): Paint {
  const colour = asked(space, color);
  switch (colour.is) {
    case 'nothing':
      return 'white';
    case 'grey':
      return colour.level >= 0.995 ? 'white' : colour.level <= DARK ? 'black' : 'colour';
    case 'process': {
      const [c, m, y, k] = colour.inks;
      if (c + m + y + k < 0.005) return 'white';
      if (c + m + y < 0.005) return k >= 0.8 ? 'black' : 'colour';
      return k >= 0.6 && c + m + y > 0.2 ? 'rich' : 'colour';
    }
    case 'all':
      return colour.tint < 0.005 ? 'white' : colour.tint >= 0.6 ? 'rich' : 'colour';
    case 'spot':
      return colour.color.every((part) => part === 0) ? 'white' : 'colour';
    case 'colour': {
      if (!space.isRGB()) return 'colour';
      const most = Math.max(...color);
      const least = Math.min(...color);
      if (least >= 0.995) return 'white';
      return most <= DARK && most - least <= NEUTRAL ? 'rich' : 'colour';
    }
  }
}
