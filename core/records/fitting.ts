import LineBreaker from 'linebreak';
import type { ShapedLine, TextFace } from './shaping';

/** Lettering in a box: broken into lines (Unicode’s UAX 14), and the largest size at which all of it is inside. */

/** Lengths are mm unless they are in em. */
export interface TextStyle {
  /** Lines are broken where they are too long. */
  wrap: boolean;
  /** From line to line, shares of the font’s own. */
  lineSpacing: number;
  /** After each letter, em. */
  letterSpacing: number;
}

/** A line, and where its baseline begins below the top of its block, em. */
export interface BlockLine {
  line: ShapedLine;
  baseline: number;
}

/** Lines as one block, in em of their size. */
export interface TextBlock {
  lines: BlockLine[];
  /** From the leftmost ink or origin to the rightmost end. */
  width: number;
  height: number;
  missing: string[];
}

/** Lines are looked for up to so many; more is no lettering for a field. */
const MOST_LINES = 200;
/** Beyond what is drawn by so much, shares of the box, is still inside: figures are rounded. */
const HAIR = 1e-9;

/** What a line takes across: letters may hang over their own widths. */
const acrossOf = ({ width, ink }: ShapedLine): number => Math.max(width, ink?.right ?? 0) - Math.min(0, ink?.left ?? 0);

/** The places where a line may or must end. */
function breaksOf(text: string): { at: number; must: boolean }[] {
  const breaker = new LineBreaker(text);
  const found: { at: number; must: boolean }[] = [];
  for (let next = breaker.nextBreak(); next; next = breaker.nextBreak())
    found.push({ at: next.position, must: next.required && /[\n\r\u2028\u2029\u0085\v\f]/.test(text[next.position - 1] ?? '') });
  return found;
}

/** Shapes lines of one text, each once however often it is asked for. */
class Lines {
  readonly #text: string;
  readonly #face: TextFace;
  readonly #spacing: number;
  readonly #known = new Map<string, ShapedLine>();
  readonly breaks: { at: number; must: boolean }[];

  constructor(text: string, face: TextFace, spacing: number) {
    this.#text = text;
    this.#face = face;
    this.#spacing = spacing;
    this.breaks = breaksOf(text);
  }

  /** The line from a place to another, without the spaces at its end. */
  of(from: number, to: number): ShapedLine {
    const words = this.#text.slice(from, to).trimEnd();
    const known = this.#known.get(words) ?? this.#face.line(words, this.#spacing);
    this.#known.set(words, known);
    return known;
  }

  /** Lines of at most so wide, as full as can be; a word that is wider has a line of its own. @param width em */
  broken(width: number): ShapedLine[] {
    const lines: ShapedLine[] = [];
    let from = 0;
    let last: number | undefined;
    for (const { at, must } of this.breaks) {
      if (last !== undefined && acrossOf(this.of(from, at)) > width + HAIR) {
        lines.push(this.of(from, last));
        from = last;
      }
      last = at;
      if (must) {
        lines.push(this.of(from, at));
        from = at;
        last = undefined;
      }
      if (lines.length > MOST_LINES) break;
    }
    if (last !== undefined && last > from) lines.push(this.of(from, last));
    return lines;
  }
}

/** The lines of a text for a box so wide, em; as its own line ends have them where lines are not broken. */
export function blockOf(text: string, face: TextFace, style: TextStyle, width: number): TextBlock {
  return blockFrom(new Lines(text, face, style.letterSpacing).broken(style.wrap ? width : Infinity), face, style);
}

function blockFrom(lines: readonly ShapedLine[], face: TextFace, { lineSpacing }: TextStyle): TextBlock {
  const step = (face.ascender + face.descender + face.gap) * lineSpacing;
  // The first and the last line have the room that their own ink takes, should it be more than the font says.
  const above = Math.max(face.ascender, lines[0]?.ink?.top ?? 0);
  const below = Math.max(face.descender, -(lines.at(-1)?.ink?.bottom ?? 0));
  return {
    lines: lines.map((line, i) => ({ line, baseline: above + i * step })),
    width: lines.reduce((most, line) => Math.max(most, acrossOf(line)), 0),
    height: lines.length === 0 ? 0 : above + below + (lines.length - 1) * step,
    missing: [...new Set(lines.flatMap(({ missing }) => missing))]
  };
}

/** Whether a block of a size is inside of a box, mm. */
export const isInside = (block: TextBlock, size: number, box: { width: number; height: number }): boolean =>
  block.width * size <= box.width * (1 + HAIR) && block.height * size <= box.height * (1 + HAIR);

/**
 * The largest size at which a text is inside of a box; infinite for one that has nothing to be seen.
 *
 * Shaped widths grow with the size alone, so that lines only change where the box is just so wide: for each number of lines
 * there is a least width at which the text has no more of them, and with it the largest size.
 *
 * @param box mm
 * @returns mm, the size of the em
 */
export function largestSize(text: string, face: TextFace, style: TextStyle, box: { width: number; height: number }): number {
  const lines = new Lines(text, face, style.letterSpacing);
  const sizeOf = (block: TextBlock) => Math.min(box.width / block.width, box.height / block.height);
  const whole = blockFrom(lines.broken(Infinity), face, style);
  if (whole.lines.length === 0 || whole.width === 0) return Infinity;
  let best = sizeOf(whole);
  if (!style.wrap) return best;
  for (let block = whole; block.lines.length <= MOST_LINES;) {
    // The next narrower way to break it: less wide than its widest line is now.
    const next = blockFrom(lines.broken(block.width * (1 - 1e-6)), face, style);
    if (next.width >= block.width * (1 - 1e-9)) break;
    block = next;
    best = Math.max(best, sizeOf(block));
    // More lines alone make it smaller: the height is what limits it.
    if (box.height / block.height < best) break;
  }
  return best;
}
