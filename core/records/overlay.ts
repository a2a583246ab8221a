import { zlibSync } from 'fflate';
import { PdfObjects, pdfName, pdfNumber } from '../artwork/pdf-objects';
import { addPicture, type PdfPicture } from '../artwork/picture-pdf';
import type { Box } from '../geometry/box';
import { chain, type Point } from '../geometry/matrix';
import type { Path } from '../geometry/path';
import type { Triple } from '../colour/lab';
import { MM_PER_POINT } from '../units/length';
import { largestOnArc, layArc, type PlacedGlyph } from './arc';
import { layCodeField } from './code-field';
import type { CodeField, Field, FieldColour, FieldPlace, PictureField, TextField, TextShadow } from './field';
import { placeMatrix } from './field-placing';
import { placePicture, type PictureSize } from './pictures';
import { Fitting, isInside, type TextBlock, type TextStyle } from './fitting';
import type { TextFace } from './shaping';

/** Records as pages that are drawn over the artwork: lettering as glyphs of its own font, codes as rectangles, pictures as they are. */

/** A font as it is opened, and its file as the page needs it. */
export interface OpenedFont {
  face: TextFace;
  /** TrueType or OpenType. */
  file: Uint8Array;
}

/** A picture as it is drawn, and what it is told apart by: one that many records have is written once. */
export type OverlayPicture = { key: string } & (Omit<PdfPicture, 'page'> | OverlayPage);

/** One that is a page of a file: it is put into its place when all is written. @see embedPage */
export interface OverlayPage extends PictureSize {
  page: { path: string; leftOut: readonly string[] };
}

/** What a field says of a record. */
export interface FieldText {
  field: Field;
  text: string;
}

export interface FinishedBox {
  widthMm: number;
  heightMm: number;
}

/** On an arc there is one line. */
const styleOf = ({ wrap, lineSpacing, letterSpacing, bend }: TextField): TextStyle => ({
  wrap: wrap && bend === 0,
  lineSpacing,
  letterSpacing
});

/** Lettering at its size, and whether it is inside of its place. */
export interface LaidText {
  /** Of the em, mm. */
  size: number;
  block: TextBlock;
  inside: boolean;
}

/**
 * Lays out a text in its field.
 *
 * @param most for one size for all: the least of all records' largest, mm
 */
export function layText(field: TextField, text: string, face: TextFace, most = Infinity): LaidText {
  const fitting = new Fitting(text, face, styleOf(field));
  const largest = () => Math.min(LARGEST_MM, largestOf(field, fitting));
  const size =
    field.size.is === 'fixed'
      ? field.size.pt * MM_PER_POINT
      : field.size.is === 'largest'
        ? largest()
        : Math.min(most, largest());
  const block = fitting.block(field.place.width / size);
  const inside = field.bend === 0 ? isInside(block, size, field.place) : layArc(field, block, size).inside;
  return { size, block, inside };
}

/** The largest size at which a text is inside of its place, mm. One that would lie on too high an arc is as small as can be told. */
const largestOf = (field: TextField, fitting: Fitting): number =>
  field.bend === 0 ? fitting.largest(field.place) : Math.max(LEAST_MM, largestOnArc(field, fitting.block(Infinity)));

/** Where the glyphs of a text stand in its place. */
export function placedGlyphs(field: TextField, { size, block }: LaidText): PlacedGlyph[] {
  if (field.bend !== 0) return layArc(field, block, size).glyphs;
  const { width, height } = field.place;
  const tall = block.height * size;
  const top = field.down === 'top' ? 0 : field.down === 'middle' ? (height - tall) / 2 : height - tall;
  return block.lines.flatMap(({ line, baseline }) => {
    const from = Math.min(0, line.ink?.left ?? 0);
    const wide = (Math.max(line.width, line.ink?.right ?? 0) - from) * size;
    const left = (field.along === 'left' ? 0 : field.along === 'centre' ? (width - wide) / 2 : width - wide) - from * size;
    return line.glyphs.map(({ id, x, y }) => ({ id, x: left + x * size, y: top + (baseline - y) * size, turn: 0 }));
  });
}

/** What has hardly any width is no larger than this. */
const LARGEST_MM = 5000;
/** Smaller lettering is none. */
const LEAST_MM = 0.01;

/** The size at which all texts of a field fit, mm. */
export const oneSize = (field: TextField, texts: Iterable<string>, face: TextFace): number => {
  let least = LARGEST_MM;
  for (const text of new Set(texts)) least = Math.min(least, largestOf(field, new Fitting(text, face, styleOf(field))));
  return least;
};

const n = (value: number) => pdfNumber(value, 5);

/** By the name of a spot colour, its L*a*b* under D50. */
export type SeenSpots = Readonly<Record<string, Readonly<Triple>>>;

/** How a page names a spot colour; one without a name is what its inks are. */
type SpotName = (colour: FieldColour & { is: 'spot' }) => string;

function colourOperator(colour: FieldColour, stroke: boolean, spotName: SpotName): string {
  if (colour.is === 'spot' && colour.name !== '')
    return `/${spotName(colour)} ${stroke ? 'CS' : 'cs'} 1 ${stroke ? 'SCN' : 'scn'}`;
  if (colour.is !== 'rgb') return `${colour.inks.map(n).join(' ')} ${stroke ? 'K' : 'k'}`;
  const rgb = [1, 3, 5].map((i) => n(Number.parseInt(colour.colour.slice(i, i + 2), 16) / 255));
  return `${rgb.join(' ')} ${stroke ? 'RG' : 'rg'}`;
}

/** A field's own place → the page, points, y up. */
function placeOperator(place: FieldPlace, pageHeight: number): string {
  const k = 1 / MM_PER_POINT;
  return `${chain(placeMatrix(place), [k, 0, 0, -k, 0, pageHeight * k])
    .map(n)
    .join(' ')} cm`;
}

/** How a page says that what follows is painted in part. */
type StrengthName = (strength: number) => string;

function textOperators(
  field: TextField,
  laid: LaidText,
  fontName: string,
  spotName: SpotName,
  strengthName: StrengthName
): string {
  const glyphs = placedGlyphs(field, laid);
  if (glyphs.length === 0) return '';
  const shown = glyphs
    .map(({ id, x, y, turn }) => {
      const [cos, sin] = [n(Math.cos(turn)), n(Math.sin(turn))];
      // Letters stand upright where y goes down.
      return `${cos} ${sin} ${sin} ${n(-Math.cos(turn))} ${n(x)} ${n(y)} Tm<${id.toString(16).padStart(4, '0')}>Tj`;
    })
    .join('\n');
  const { outline, shadow } = field;
  const line = outline ? `${colourOperator(outline.colour, true, spotName)} ${n(outline.mm)} w 1 j 2 Tr ` : '';
  const text = (before: string) => `BT ${before}/${fontName} ${n(laid.size)} Tf ${shown} ET`;
  const letters = text(`${colourOperator(field.colour, false, spotName)} ${line}`);
  if (!shadow) return letters;
  const { moves, strength } = shadowMoves(shadow);
  const dark = text(`${colourOperator(shadow.colour, false, spotName)} `);
  const shadows = moves.map(({ x, y }) => `q 1 0 0 1 ${n(x)} ${n(y)} cm ${dark} Q`);
  return `q /${strengthName(strength)} gs ${shadows.join('\n')} Q ${letters}`;
}

/** Copies that a soft shadow is made of. */
const SOFT_COPIES = 32;

/**
 * A shadow as copies that are moved, and how strong each is. Copies that are spread evenly over a disc make an edge that
 * fades over its width; where all lie, they are together as strong as the shadow.
 */
export function shadowMoves({ right, down, soft, strength }: TextShadow): { moves: Point[]; strength: number } {
  if (soft === 0) return { moves: [{ x: right, y: down }], strength };
  const moves = Array.from({ length: SOFT_COPIES }, (_, i) => {
    // A spiral of golden angles fills a disc evenly (Vogel 1979).
    const [far, angle] = [soft * Math.sqrt((i + 0.5) / SOFT_COPIES), i * Math.PI * (3 - Math.sqrt(5))];
    return { x: right + far * Math.cos(angle), y: down + far * Math.sin(angle) };
  });
  return { moves, strength: 1 - (1 - Math.min(strength, 0.99)) ** (1 / SOFT_COPIES) };
}

function barsOf(colour: FieldColour, dark: readonly Box[], spotName: SpotName): string {
  const boxes = dark.map(({ x, y, width, height }) => `${n(x)} ${n(y)} ${n(width)} ${n(height)} re`);
  return `${colourOperator(colour, false, spotName)} ${boxes.join(' ')} f`;
}

function pictureOperators(field: PictureField, picture: OverlayPicture, number: number): string {
  const { x, y, width, height } = placePicture(field, picture);
  const { place } = field;
  // Pictures stand upright where y goes down.
  return `0 0 ${n(place.width)} ${n(place.height)} re W n ${n(width)} 0 0 ${n(-height)} ${n(x)} ${n(y + height)} cm /P${number} Do`;
}

/** Lines for tools as they are seen over a record. */
function linesShown(lines: readonly Path[], pageHeight: number): string {
  if (lines.length === 0) return '';
  const k = 1 / MM_PER_POINT;
  const at = ({ x, y }: Point) => `${n(x)} ${n(y)}`;
  const drawn = lines.flatMap((path) =>
    path.map((segment) => {
      if (segment.kind === 'close') return 'h';
      if (segment.kind === 'curve') return `${at(segment.c1)} ${at(segment.c2)} ${at(segment.to)} c`;
      return `${at(segment.to)} ${segment.kind === 'move' ? 'm' : 'l'}`;
    })
  );
  return `q ${[k, 0, 0, -k, 0, pageHeight * k].map(n).join(' ')} cm ${LINE_LOOK} ${drawn.join(' ')} S Q`;
}
/** Magenta, a fifth of a millimetre. */
const LINE_LOOK = '0.8 0 0.5 RG 0.2 w';

/** Writes overlays page by page. */
export class OverlayWriter {
  readonly #objects = new PdfObjects();
  readonly #pages: number;
  readonly #size: FinishedBox;
  readonly #dpi: number | undefined;
  readonly #seen: SeenSpots;
  readonly #fonts: ReadonlyMap<string, OpenedFont>;
  readonly #written = new Map<string, { name: string; number: number }>();
  readonly #pictures = new Map<string, number>();
  /** Objects that are kept free for pages of other files. */
  readonly places: { object: number; page: OverlayPage['page'] }[] = [];
  /** By name and inks, each spot colour as the page has it. */
  readonly #spots = new Map<string, { name: string; space: string }>();
  readonly #strengths = new Map<number, string>();
  readonly #kids: number[] = [];

  /**
   * @param size of all pages
   * @param fonts by name, those of all fields
   * @param dpi modules of codes are whole drops of it
   * @param seen by name, what of spot colours is known: others look like their inks
   */
  constructor(size: FinishedBox, fonts: ReadonlyMap<string, OpenedFont>, dpi: number | undefined, seen: SeenSpots = {}) {
    this.#pages = this.#objects.reserve();
    this.#size = size;
    this.#fonts = fonts;
    this.#dpi = dpi;
    this.#seen = seen;
  }

  /**
   * One record.
   *
   * @param most by field of one size for all, that size, mm
   * @param pictures by field of pictures, its own; nothing is drawn of one without
   * @param lines that are shown and not printed, mm of the finished size
   * @throws CodeError for a value without a code; RangeError for a font that is not there
   */
  add(
    texts: readonly FieldText[],
    most: ReadonlyMap<number, number> = new Map(),
    pictures: ReadonlyMap<number, OverlayPicture> = new Map(),
    lines: readonly Path[] = []
  ): void {
    const { widthMm, heightMm } = this.#size;
    const shown = new Set<number>();
    const drawn = texts.map(({ field, text }) => {
      const inner = this.#inner(field, text, most, pictures, shown);
      return inner === '' ? '' : `q ${placeOperator(field.place, heightMm)} ${inner} Q\n`;
    });
    const fonts = [...this.#written.values()].map(({ name, number }) => `/${name} ${number} 0 R`).join('');
    const spots = [...this.#spots.values()].map(({ name, space }) => `/${name}${space}`).join('');
    const strengths = [...this.#strengths].map(([strength, name]) => `/${name}<</ca ${n(strength)}>>`).join('');
    const images = [...shown].map((number) => `/P${number} ${number} 0 R`).join('');
    const contents = this.#objects.reserve();
    this.#objects.putContent(contents, '', drawn.join('') + linesShown(lines, heightMm));
    const box = `[0 0 ${n(widthMm / MM_PER_POINT)} ${n(heightMm / MM_PER_POINT)}]`;
    this.#kids.push(
      this.#objects.add(
        `/Type/Page/Parent ${this.#pages} 0 R/MediaBox${box}/Contents ${contents} 0 R/Resources<</Font<<${fonts}>>/XObject<<${images}>>/ColorSpace<<${spots}>>/ExtGState<<${strengths}>>>>`
      )
    );
  }

  finish(): Uint8Array {
    this.#objects.put(
      this.#pages,
      `/Type/Pages/Kids[${this.#kids.map((kid) => `${kid} 0 R`).join(' ')}]/Count ${this.#kids.length}`
    );
    return this.#objects.finish(this.#objects.add(`/Type/Catalog/Pages ${this.#pages} 0 R`));
  }

  /** @param shown is added to by pictures that the page shows, by their objects */
  #inner(
    field: Field,
    text: string,
    most: ReadonlyMap<number, number>,
    pictures: ReadonlyMap<number, OverlayPicture>,
    shown: Set<number>
  ): string {
    if (field.is === 'code') return this.#code(field, text);
    if (field.is === 'text') return this.#text(field, text, most.get(field.id));
    const picture = pictures.get(field.id);
    if (!picture) return '';
    const { key, ...data } = picture;
    const number = this.#pictures.get(key) ?? ('page' in data ? this.#placeFor(data) : addPicture(this.#objects, data));
    this.#pictures.set(key, number);
    shown.add(number);
    return pictureOperators(field, picture, number);
  }

  #placeFor({ page }: OverlayPage): number {
    const object = this.#objects.add('/Type/XObject/Subtype/Form/BBox[0 0 1 1]', new Uint8Array());
    this.places.push({ object, page });
    return object;
  }

  #text(field: TextField, text: string, most: number | undefined): string {
    if (text.trim() === '') return '';
    const font = this.#fonts.get(field.font);
    if (!font) throw new RangeError(`The shop has no font ${field.font}.`);
    return textOperators(
      field,
      layText(field, text, font.face, most),
      this.#fontName(field.font, font),
      this.#spotName,
      this.#strengthName
    );
  }

  #code(field: CodeField, text: string): string {
    if (text.trim() === '') return '';
    const { laid, label } = layCodeField(field, text, this.#dpi);
    const bars = barsOf(field.colour, laid.dark, this.#spotName);
    if (!label) return bars;
    return `${bars} 1 0 0 1 0 ${n(label.top)} cm ${this.#text(label.field, label.text, undefined)}`;
  }

  readonly #strengthName: StrengthName = (strength) => {
    const name = this.#strengths.get(strength) ?? `G${this.#strengths.size}`;
    this.#strengths.set(strength, name);
    return name;
  };

  readonly #spotName: SpotName = ({ name, inks }) => {
    const key = JSON.stringify([name, inks]);
    const known = this.#spots.get(key) ?? { name: `S${this.#spots.size}`, space: spotSpace(name, inks, this.#seen[name]) };
    this.#spots.set(key, known);
    return known.name;
  };

  #fontName(name: string, { file }: OpenedFont): string {
    const known = this.#written.get(name) ?? { name: `F${this.#written.size}`, number: addFont(this.#objects, file) };
    this.#written.set(name, known);
    return known.name;
  }
}

/** A spot colour, and what it is like: L*a*b* under D50, or process inks. */
function spotSpace(name: string, inks: readonly number[], lab: Readonly<Triple> | undefined): string {
  const [base, bare, solid] = lab ? [LAB, [100, 0, 0], lab] : ['/DeviceCMYK', [0, 0, 0, 0], inks];
  const tint = `<</FunctionType 2/Domain[0 1]/C0[${bare.join(' ')}]/C1[${solid.map(n).join(' ')}]/N 1>>`;
  return `[/Separation${pdfName(name)}${base}${tint}]`;
}
const LAB = '[/Lab<</WhitePoint[0.9642 1 0.8249]/Range[-128 127 -128 127]>>]';

/** A font whose characters are its glyphs by number, whole. @returns its number */
function addFont(objects: PdfObjects, file: Uint8Array): number {
  const isCff = String.fromCharCode(...file.subarray(0, 4)) === 'OTTO';
  const packed = zlibSync(file, { level: 6 });
  const embedded = objects.add(`/Filter/FlateDecode${isCff ? '/Subtype/OpenType' : `/Length1 ${file.length}`}`, packed);
  const descriptor = objects.add(
    `/Type/FontDescriptor/FontName/Field/Flags 4/FontBBox[0 0 1000 1000]/ItalicAngle 0/Ascent 900/Descent -200/CapHeight 700/StemV 80/FontFile${isCff ? '3' : '2'} ${embedded} 0 R`
  );
  const inner = objects.add(
    `/Type/Font/Subtype/CIDFontType${isCff ? '0' : '2'}/BaseFont/Field/CIDSystemInfo<</Registry(Adobe)/Ordering(Identity)/Supplement 0>>/FontDescriptor ${descriptor} 0 R/DW 1000${isCff ? '' : '/CIDToGIDMap/Identity'}`
  );
  return objects.add(`/Type/Font/Subtype/Type0/BaseFont/Field/Encoding/Identity-H/DescendantFonts[${inner} 0 R]`);
}
