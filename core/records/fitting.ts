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

/** A text in a style: its lines at any width, each shaped once however often it is asked for. */
export class Fitting {
  readonly #text: string;
  readonly #face: TextFace;
  readonly #style: TextStyle;
  readonly #known = new Map<string, ShapedLine>();
  #breaks: { at: number; must: boolean }[] | undefined;

  constructor(text: string, face: TextFace, style: TextStyle) {
    this.#text = text;
    this.#face = face;
    this.#style = style;
  }

  /** The lines in a box so wide, em; as the text's own ends have them where lines are not broken. */
  block(width: number): TextBlock {
    return this.#blockOf(this.#broken(this.#style.wrap ? width : Infinity));
  }

  /**
   * The largest size at which the text is inside of a box; infinite for one that has nothing to be seen.
   *
   * Shaped widths grow with the size alone, so that lines only change where the box is just so wide: for each number of lines
   * there is a least width at which the text has no more of them, and with it the largest size.
   *
   * @param box mm
   * @returns mm, the size of the em
   */
  largest(box: { width: number; height: number }): number {
    const sizeOf = (block: TextBlock) => Math.min(box.width / block.width, box.height / block.height);
    const whole = this.#blockOf(this.#broken(Infinity));
    if (whole.lines.length === 0 || whole.width === 0) return Infinity;
    let best = sizeOf(whole);
    // Where its height alone limits it, more lines make it smaller.
    for (let block = whole; this.#style.wrap && block.lines.length <= MOST_LINES && box.height / block.height > best;) {
      // The next narrower way to break it: less wide than its widest line is now.
      const next = this.#blockOf(this.#broken(block.width * (1 - 1e-6)));
      if (next.width >= block.width * (1 - 1e-9)) break;
      block = next;
      best = Math.max(best, sizeOf(block));
    }
    return best;
  }

  /** The line from a place to another, without the spaces at its end. */
  #line(from: number, to: number): ShapedLine {
    const words = this.#text.slice(from, to).trimEnd();
    const known = this.#known.get(words) ?? this.#face.line(words, this.#style.letterSpacing);
    this.#known.set(words, known);
    return known;
  }

  /** Lines of at most so wide, as full as can be; a word that is wider has a line of its own. @param width em */
  #broken(width: number): ShapedLine[] {
    this.#breaks ??= breaksOf(this.#text);
    const lines: ShapedLine[] = [];
    let from = 0;
    let last: number | undefined;
    for (const { at, must } of this.#breaks) {
      if (last !== undefined && width !== Infinity && acrossOf(this.#line(from, at)) > width + HAIR) {
        lines.push(this.#line(from, last));
        from = last;
      }
      last = at;
      if (must) {
        lines.push(this.#line(from, at));
        from = at;
        last = undefined;
      }
      if (lines.length > MOST_LINES) break;
    }
    if (last !== undefined && last > from) lines.push(this.#line(from, last));
    return lines;
  }

  #blockOf(lines: readonly ShapedLine[]): TextBlock {
    const { ascender, descender, gap } = this.#face;
    const step = (ascender + descender + gap) * this.#style.lineSpacing;
    // The first and the last line have the room that their own ink takes, should it be more than the font says.
    const above = Math.max(ascender, lines[0]?.ink?.top ?? 0);
    const below = Math.max(descender, -(lines.at(-1)?.ink?.bottom ?? 0));
    return {
      lines: lines.map((line, i) => ({ line, baseline: above + i * step })),
      width: lines.reduce((most, line) => Math.max(most, acrossOf(line)), 0),
      height: lines.length === 0 ? 0 : above + below + (lines.length - 1) * step,
      missing: [...new Set(lines.flatMap(({ missing }) => missing))]
    };
  }
}

/** Whether a block of a size is inside of a box, mm. */
export const isInside = (block: TextBlock, size: number, box: { width: number; height: number }): boolean =>
  block.width * size <= box.width * (1 + HAIR) && block.height * size <= box.height * (1 + HAIR);
