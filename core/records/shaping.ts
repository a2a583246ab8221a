import type { Point } from '../geometry/matrix';
import type { Path, Segment } from '../geometry/path';
import bidiFactory from 'bidi-js';
import { Blob, Buffer, Direction, Face, Feature, Font, shape } from 'harfbuzzjs';

/**
 * Lettering of any script as glyphs: ordered (Unicode’s UAX 9), cut into stretches of one script and direction, and shaped by
 * HarfBuzz. Lengths are in em: 1 is the size of the lettering; y goes up.
 */

export interface Glyph {
  /** Its number in the font. */
  id: number;
  x: number;
  y: number;
  /** How far the next one is from here, spacing included. */
  advance: number;
  /** Where in the text it comes from, UTF-16. */
  cluster: number;
}

/** A line of lettering from its left end. */
export interface ShapedLine {
  glyphs: Glyph[];
  /** From the first glyph's origin to the end of the last one. */
  width: number;
  /** Where ink is: none for spaces alone. */
  ink: { left: number; right: number; bottom: number; top: number } | undefined;
  /** Characters that the font does not have, each once. */
  missing: string[];
}

const bidi = bidiFactory();

/** Scripts that are told from each other: what is in none of them goes with what stands before it. */
const SCRIPTS: readonly [tag: string, RegExp][] = (
  [
    ['Latn', 'Latin'],
    ['Grek', 'Greek'],
    ['Cyrl', 'Cyrillic'],
    ['Arab', 'Arabic'],
    ['Hebr', 'Hebrew'],
    ['Deva', 'Devanagari'],
    ['Beng', 'Bengali'],
    ['Guru', 'Gurmukhi'],
    ['Gujr', 'Gujarati'],
    ['Taml', 'Tamil'],
    ['Telu', 'Telugu'],
    ['Knda', 'Kannada'],
    ['Mlym', 'Malayalam'],
    ['Sinh', 'Sinhala'],
    ['Thai', 'Thai'],
    ['Laoo', 'Lao'],
    ['Khmr', 'Khmer'],
    ['Mymr', 'Myanmar'],
    ['Geor', 'Georgian'],
    ['Armn', 'Armenian'],
    ['Ethi', 'Ethiopic'],
    ['Hang', 'Hangul'],
    ['Hani', 'Han'],
    ['Hira', 'Hiragana'],
    ['Kana', 'Katakana']
  ] as const
).map(([tag, name]) => [tag, new RegExp(`\\p{Script=${name}}`, 'u')]);

/** The last of the Latin letters that lie together. */
const LAST_LATIN = 0x24f;
const LETTER = /\p{L}/u;

/** The script of a character; nothing for what all scripts share. */
function scriptOf(character: string): string | undefined {
  if (character.codePointAt(0)! <= LAST_LATIN) return LETTER.test(character) ? 'Latn' : undefined;
  return SCRIPTS.find(([, form]) => form.test(character))?.[0];
}

interface Stretch {
  from: number;
  to: number;
  level: number;
  script: string | undefined;
}

/** A text cut where its script or its direction changes, in its own order. */
function stretchesOf(text: string, levels: Uint8Array): Stretch[] {
  const found: Stretch[] = [];
  for (let i = 0; i < text.length;) {
    const character = String.fromCodePoint(text.codePointAt(i)!);
    const script = scriptOf(character);
    const level = levels[i]!;
    const last = found.at(-1);
    const end = i + character.length;
    if (last?.level === level && (script === undefined || last.script === undefined || last.script === script)) {
      last.to = end;
      last.script ??= script;
    } else found.push({ from: i, to: end, level, script });
    i = end;
  }
  return found;
}

/** Stretches from left to right (UAX 9, L2): from the highest level down, what is at least so high is turned round. */
function fromTheLeft(stretches: Stretch[]): Stretch[] {
  const all = [...stretches];
  const highest = Math.max(0, ...all.map(({ level }) => level));
  for (let level = highest; level > 0; level--)
    for (let i = 0; i < all.length; i++) {
      let end = i;
      while (end < all.length && all[end]!.level >= level) end++;
      if (end > i) all.splice(i, end - i, ...all.slice(i, end).reverse());
      i = Math.max(i, end - 1);
    }
  return all;
}

/** Letters that run from right to left, and marks that turn others round. */
const FROM_THE_RIGHT = /[\u0590-\u08ff\u200f\u202a-\u202e\u2066-\u2069\ufb1d-\ufdff\ufe70-\ufefc]|[\ud802\ud803\ud83a\ud83b]/;

const KEPT_EXTENTS = 5000;

/** A font, opened for shaping. */
export class TextFace {
  /** Units of an em. */
  readonly upem: number;
  /** Of the font’s own lines, in em: above the baseline, below it (above 0), and between lines. */
  readonly ascender: number;
  readonly descender: number;
  readonly gap: number;
  readonly #font: Font;
  readonly #face: Face;
  readonly #buffer = new Buffer();
  readonly #apart = [new Feature('liga', 0), new Feature('clig', 0)];
  readonly #extents = new Map<number, { left: number; right: number; bottom: number; top: number } | undefined>();

  /** @param bytes TrueType or OpenType @throws Error where it is no font */
  constructor(bytes: Uint8Array) {
    this.#face = new Face(new Blob(bytes));
    this.upem = this.#face.upem;
    this.#font = new Font(this.#face);
    if (this.#face.collectUnicodes().length === 0) throw new Error('The font has no letters, or it is broken.');
    const { ascender, descender, lineGap } = this.#font.hExtents();
    this.ascender = ascender / this.upem;
    this.descender = -descender / this.upem;
    this.gap = lineGap / this.upem;
  }

  /** The outline of a glyph, in em, y up; empty for a space. */
  outlineOf(glyph: number): Path {
    const path: Path = [];
    let from: Point = { x: 0, y: 0 };
    for (const { type, values } of this.#font.glyphToJson(glyph)) {
      const at = (i: number): Point => ({ x: values[i]! / this.upem, y: values[i + 1]! / this.upem });
      if (type === 'M') path.push({ kind: 'move', to: at(0) });
      else if (type === 'L') path.push({ kind: 'line', to: at(0) });
      else if (type === 'C') path.push({ kind: 'curve', c1: at(0), c2: at(2), to: at(4) });
      else if (type === 'Q') path.push(quadratic(from, at(0), at(2)));
      else path.push({ kind: 'close' });
      if (values.length >= 2) from = at(values.length - 2);
    }
    return path;
  }

  /** How wide a glyph is by the font itself, in em. */
  advanceOf(glyph: number): number {
    return this.#font.glyphHAdvance(glyph) / this.upem;
  }

  /**
   * A line without breaks.
   *
   * @param spacing added after each letter, em; letters are then not joined into one glyph
   */
  line(text: string, spacing = 0): ShapedLine {
    // Ordering is looked into only where anything may run from right to left.
    const levels = FROM_THE_RIGHT.test(text) ? bidi.getEmbeddingLevels(text, 'auto').levels : new Uint8Array(text.length);
    const glyphs: Glyph[] = [];
    const missing = new Set<string>();
    let x = 0;
    for (const stretch of fromTheLeft(stretchesOf(text, levels))) {
      const from = glyphs.length;
      for (const glyph of this.#shaped(text, stretch, spacing)) {
        if (glyph.id === 0) missing.add(String.fromCodePoint(text.codePointAt(glyph.cluster)!));
        glyphs.push({ ...glyph, x: x + glyph.x });
        x += glyph.advance;
      }
      if (spacing !== 0) x += spaced(glyphs, from, spacing);
    }
    // Nothing stands after the last letter.
    const width = spacing !== 0 && glyphs.length > 0 ? x - spacing : x;
    return { glyphs, width, ink: this.#inkOf(glyphs), missing: [...missing] };
  }

  *#shaped(text: string, { from, to, level, script }: Stretch, spacing: number): Generator<Glyph> {
    const buffer = this.#buffer;
    buffer.reset();
    buffer.addText(text, from, to - from);
    buffer.setDirection(level % 2 === 1 ? Direction.RTL : Direction.LTR);
    if (script !== undefined) buffer.setScript(script);
    buffer.guessSegmentProperties();
    shape(this.#font, buffer, spacing === 0 ? [] : this.#apart);
    for (const { codepoint, cluster, xAdvance = 0, xOffset = 0, yOffset = 0 } of buffer.getGlyphInfosAndPositions())
      yield { id: codepoint, cluster, x: xOffset / this.upem, y: yOffset / this.upem, advance: xAdvance / this.upem };
  }

  #inkOf(glyphs: readonly Glyph[]): ShapedLine['ink'] {
    let ink: ShapedLine['ink'];
    for (const { id, x, y } of glyphs) {
      const own = this.#extentsOf(id);
      if (!own) continue;
      ink ??= { left: Infinity, right: -Infinity, bottom: Infinity, top: -Infinity };
      ink.left = Math.min(ink.left, x + own.left);
      ink.right = Math.max(ink.right, x + own.right);
      ink.bottom = Math.min(ink.bottom, y + own.bottom);
      ink.top = Math.max(ink.top, y + own.top);
    }
    return ink;
  }

  #extentsOf(id: number) {
    if (this.#extents.has(id)) return this.#extents.get(id);
    const found = this.#font.glyphExtents(id);
    const own =
      found && found.width !== 0
        ? {
            left: found.xBearing / this.upem,
            right: (found.xBearing + found.width) / this.upem,
            top: found.yBearing / this.upem,
            bottom: (found.yBearing + found.height) / this.upem
          }
        : undefined;
    if (this.#extents.size < KEPT_EXTENTS) this.#extents.set(id, own);
    return own;
  }
}

/** Adds spacing after each letter from a glyph on: marks stay with theirs. @returns how much the line grew */
function spaced(glyphs: Glyph[], from: number, spacing: number): number {
  let added = 0;
  for (let i = from; i < glyphs.length; i++) {
    const glyph = glyphs[i]!;
    glyph.x += added;
    if (glyphs[i + 1]?.cluster === glyph.cluster || glyph.advance === 0) continue;
    glyph.advance += spacing;
    added += spacing;
  }
  return added;
}

/** A curve of one handle as one of two, which is the same. */
function quadratic(from: Point, handle: Point, to: Point): Segment {
  const near = (p: Point): Point => ({ x: p.x + (2 / 3) * (handle.x - p.x), y: p.y + (2 / 3) * (handle.y - p.y) });
  return { kind: 'curve', c1: near(from), c2: near(to), to };
}
