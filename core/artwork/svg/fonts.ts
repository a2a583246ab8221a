import { bytesOf } from './data-address';

/** The families that ship, by what they stand in for. */
export const SHIPPED = { sans: 'Arimo', serif: 'Tinos', mono: 'Cousine', symbols: 'DejaVu Sans' } as const;

const GENERIC = new Set(['sans-serif', 'serif', 'monospace', 'cursive', 'fantasy', 'system-ui', 'inherit', 'initial', '']);
/** Of the same widths as those that ship, letter for letter: taking one for the other changes nothing to speak of. */
const SAME_WIDTHS = new Map([
  ['arial', SHIPPED.sans],
  ['helvetica', SHIPPED.sans],
  ['liberation sans', SHIPPED.sans],
  ['nimbus sans', SHIPPED.sans],
  ['times', SHIPPED.serif],
  ['times new roman', SHIPPED.serif],
  ['liberation serif', SHIPPED.serif],
  ['courier', SHIPPED.mono],
  ['courier new', SHIPPED.mono],
  ['liberation mono', SHIPPED.mono]
]);
const SERIF = /times|serif|georgia|garamond|roman|minion|bodoni|palat|cambria|antiqua|book|baskerville|caslon|century|didot/i;
const SANS = /sans/i;
const MONO = /mono|courier|consol|menlo|typewriter|terminal/i;

/** The shipped family that stands in for one that is not there. */
export function substituteFor(family: string): string {
  const same = SAME_WIDTHS.get(family.toLowerCase());
  if (same) return same;
  if (MONO.test(family)) return SHIPPED.mono;
  return SERIF.test(family) && !SANS.test(family) ? SHIPPED.serif : SHIPPED.sans;
}

/** Whether a name needs no word to the operator: what ships has its widths, or it names a kind and no family. */
export const isShipped = (family: string): boolean => {
  const name = family.toLowerCase();
  return GENERIC.has(name) || SAME_WIDTHS.has(name) || Object.values(SHIPPED).some((one) => one.toLowerCase() === name);
};

/** Names in a list of families, without quotes. */
export const familiesOf = (list: string): string[] =>
  list
    .split(',')
    .map((one) =>
      one
        .trim()
        .replace(/^['"]+|['"]+$/g, '')
        .trim()
    )
    .filter((one) => one !== '');

const GENERIC_SHIPPED: Record<string, string> = { serif: SHIPPED.serif, monospace: SHIPPED.mono };

/** A list of families as the normaliser reads it: bare names, those of the same widths behind theirs, a substitute at the end. */
export function shippedList(list: string): string {
  const names = familiesOf(list);
  const real = names.flatMap((name) => {
    const small = name.toLowerCase();
    if (GENERIC.has(small)) return [GENERIC_SHIPPED[small] ?? SHIPPED.sans];
    const same = SAME_WIDTHS.get(small);
    return same ? [name, same] : [name];
  });
  return [...new Set([...real, substituteFor(names[0] ?? '')])].join(', ');
}

/** What is taken where the first family of a list is not there: the next that is, which at last is one that ships. */
export function standIn(list: string, isThere: (family: string) => boolean): string {
  const shipped: readonly string[] = Object.values(SHIPPED);
  const [, ...others] = familiesOf(shippedList(list));
  return others.find((name) => shipped.includes(name) || isThere(name)) ?? SHIPPED.sans;
}

const FAMILY = /(font-family\s*:\s*)([^;{}!]+)/gi;
const SHORTHAND = /((?:^|[;{\s"])font\s*:\s*[^;"{}]*?\d(?:px|pt|em|rem|mm|cm|in|pc|ex|%)?(?:\s*\/\s*[\w.%]+)?\s+)([^;{}!]+)/gi;

/** Every list of families in style declarations. */
export const listsOf = (declarations: string): string[] =>
  [FAMILY, SHORTHAND].flatMap((pattern) => [...declarations.matchAll(pattern)].map(([, , list = '']) => list));

/** Style declarations with every list of families so. */
export const withShippedLists = (declarations: string): string =>
  [FAMILY, SHORTHAND].reduce(
    (text, pattern) => text.replace(pattern, (_, before: string, list: string) => before + shippedList(list)),
    declarations
  );

/** A style sheet without what it would fetch, and the fonts that it holds. */
export function stylesOf(css: string): { css: string; fonts: { family: string; data: Uint8Array }[] } {
  const fonts: { family: string; data: Uint8Array }[] = [];
  const rest = css
    .replace(/<!--|-->/g, '')
    .replace(/\/\*[\s\S]*?\*\//g, '')
    .replace(/@import[^;]*;?/gi, '')
    .replace(/@font-face\s*\{([^}]*)\}/gi, (_, face: string) => {
      const family = /font-family\s*:\s*['"]?([^;'"]+)/i.exec(face)?.[1]?.trim();
      for (const [, base = ''] of face.matchAll(/url\(\s*['"]?data:[^,]*;base64,([^'")]*)/gi)) {
        if (!family || fonts.length >= 50) break;
        try {
          fonts.push({ family, data: bytesOf(base) });
        } catch {
          continue; // A font that cannot be read counts as missing.
        }
      }
      return '';
    });
  return { css: rest, fonts };
}
