import type { Ground } from './ground';
import type { Item, Stock } from './placement';

/** A docket of which no copy fits on what it is laid out on. Lengths are mm. */
export interface TooLarge extends Pick<Item, 'id' | 'width' | 'height' | 'mayTurn'> {
  kind: Stock['kind'];
  /** What can be used: across, and along it; nothing where that is as long as it takes. */
  across: number;
  along: number | null;
}

/** @param left numbers of the items that fit nowhere */
export const tooLarge = ({ items, usable, field, rule, stock }: Ground, left: ReadonlySet<number>): TooLarge[] =>
  [...left].map((kind) => {
    const { id, width, height, mayTurn } = items[kind]!;
    const along = field.height === Infinity ? null : field.height - rule.gapY;
    return { id, width, height, mayTurn, kind: stock.kind, across: usable, along };
  });

const mm = (length: number): string => `${length.toFixed(1)} mm`;

/** What is too large of it, and what it could be, as it is said of something: “is 310.0 mm wide; …”. */
export function tooLargeInWords({ width, height, mayTurn, kind, across, along }: TooLarge): string {
  const ways = mayTurn ? [width, height] : [width];
  const narrowest = Math.min(...ways);
  if (narrowest > across || along === null) return `is ${mm(narrowest)} wide; ${mm(across)} of the ${kind} can be used`;
  if (kind === 'sheet')
    return `is ${width.toFixed(1)} × ${mm(height)}; ${across.toFixed(1)} × ${mm(along)} of the sheet can be used`;
  const shortest = Math.min(...ways.filter((way) => way <= across).map((way) => (way === width ? height : width)));
  return `is ${mm(shortest)} long; ${mm(along)} of the longest run can be used`;
}

/** What helps where something is too large. */
export const helpsTooLarge = ({ width, height, mayTurn, across, kind }: TooLarge): string =>
  kind === 'roll' && (mayTurn ? Math.min(width, height) : width) <= across
    ? 'Make it smaller or let the run be longer.'
    : `Make it smaller or choose a ${kind === 'roll' ? 'wider' : 'larger'} media.`;
