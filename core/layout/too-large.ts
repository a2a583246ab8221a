import { MM_PER, type ShopUnit } from '../units/length';
import type { TooLarge } from './placement';

/** What is said of a docket that fits nowhere: by the side that is too large, with what there is. */

/** How wide it lies at the least, and how long at the least where it is not too wide. */
function least({ width, height, mayTurn, across }: TooLarge): { wide: number; long: number } {
  const ways = mayTurn ? [width, height] : [width];
  const long = ways.filter((way) => way <= across).map((way) => (way === width ? height : width));
  return { wide: Math.min(...ways), long: Math.min(...long) };
}

/** As it is said of something: “is 310.0 mm wide; 290.0 mm of the roll can be used”. */
export function tooLargeInWords(one: TooLarge, unit: ShopUnit): string {
  const { width, height, kind, across, along } = one;
  const { wide, long } = least(one);
  const near = (mm: number) => (mm / MM_PER[unit]).toFixed(unit === 'mm' ? 1 : 2);
  const said = (mm: number) => `${near(mm)} ${unit}`;
  if (wide > across || along === null) return `is ${said(wide)} wide; ${said(across)} of the ${kind} can be used`;
  if (kind === 'roll') return `is ${said(long)} long; ${said(along)} of the longest run can be used`;
  return `is ${near(width)} × ${said(height)}; ${near(across)} × ${said(along)} of the sheet can be used`;
}

/** What helps. */
export function helpsTooLarge(one: TooLarge): string {
  if (one.kind === 'sheet') return 'Make it smaller or choose a larger media.';
  return least(one).wide > one.across ? 'Make it smaller or choose a wider media.' : 'Make it smaller or let the run be longer.';
}
