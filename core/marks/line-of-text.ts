/** Lines of text for people, as wide as the sans that they are printed in: in a place they stay within it. */

/** Widths of Helvetica's characters from the space to the tilde, thousandths of its size (Adobe Font Metrics). */
// prettier-ignore
const WIDTHS = [
  278, 278, 355, 556, 556, 889, 667, 191, 333, 333, 389, 584, 278, 333, 278, 278, 556, 556, 556, 556, 556, 556, 556, 556,
  556, 556, 278, 278, 584, 584, 584, 556, 1015, 667, 667, 722, 722, 667, 611, 778, 722, 278, 500, 667, 556, 833, 722, 778,
  667, 778, 722, 667, 611, 722, 667, 944, 667, 667, 611, 278, 278, 278, 469, 556, 333, 556, 556, 500, 556, 556, 278, 556,
  556, 222, 222, 500, 222, 833, 556, 556, 556, 556, 333, 500, 278, 556, 500, 722, 500, 500, 500, 334, 260, 334, 584
];
/** What a character takes that is none of those: as much as the widest that are usual. */
const OTHER = 1000;
const DOT = 278;
/** Of the size, how high capitals are. */
const CAPITAL = 0.72;

/** Small print can still be read. */
const LEAST_MM = 1;
/** What is printed of a line at the most. */
export const MOST_CHARACTERS = 120;

const widthOf = (character: string): number => (character === '·' ? DOT : (WIDTHS[character.charCodeAt(0) - 32] ?? OTHER));

/** Of a line whose capitals are so high, mm; never less than it prints. */
export const textWidth = (text: string, heightMm: number): number =>
  ([...text.normalize('NFC')].reduce((sum, character) => sum + widthOf(character), 0) / 1000) * (heightMm / CAPITAL);

/**
 * A line as large as asked for, or smaller where it would be wider than `mostMm`; where it could not be read then its words are cut
 * short.
 *
 * @param tail what stays whole at its end, however small
 */
export function fittedLine(words: string, tail: string, heightMm: number, mostMm: number): { text: string; heightMm: number } {
  const fits = (text: string) => textWidth(text, LEAST_MM) <= mostMm && text.length <= MOST_CHARACTERS;
  // What joins it to the words goes with them.
  const alone = tail.replace(/^[ ·]+/, '');
  let text = words === '' ? alone : `${words}${tail}`;
  for (let kept = [...words]; !fits(text) && kept.length > 0;) {
    kept = kept.slice(0, -1);
    text = kept.length > 0 ? `${kept.join('').trimEnd()}…${tail}` : alone;
  }
  return { text, heightMm: Math.min(heightMm, Math.max(0, mostMm) / textWidth(text, 1)) };
}
