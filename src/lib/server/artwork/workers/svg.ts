import { readFileSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { gunzipSync } from 'node:zlib';
import { Resvg, type ResvgRenderOptions } from '@resvg/resvg-js';
import { decompress } from 'wawoff2';
import { ArtworkError, type Finding } from '$core/artwork/facts';
import * as mupdf from '$core/interpreter/interpreter';
import type { RoleRule } from '$core/artwork/roles';
import { readDataAddress } from '$core/artwork/svg/data-address';
import type { Decoded } from '$core/artwork/svg/canvas';
import { drawSvgPage, type Raster } from '$core/artwork/svg/draw';
import { isNothing, mapped, objectBox, type Extent } from '$core/artwork/svg/extent';
import type { Box } from '$core/geometry/box';
import { FONT_NAMES, familyOf, fontKind, sfntOfWoff, nameOf } from '$core/artwork/svg/font-file';
import { shippedFonts } from '../shipped-fonts';
import { SHIPPED } from '$core/artwork/svg/fonts';
import {
  matrixOf,
  number,
  readPathData,
  readPlain,
  references,
  referred,
  writePlain,
  type Plain,
  type PlainDrawing
} from '$core/artwork/svg/plain-tree';
import { svgSize, toPage, type SvgSize } from '$core/artwork/svg/size';
import { MOST_CHARACTERS, readSvg, svgText, type SvgSource } from '$core/artwork/svg/source';
import { chain, type Matrix } from '$core/geometry/matrix';
import { flatten, transformPath, type Polyline } from '$core/geometry/path';
import { decodePicture, multipliedPicture } from './picture';

export interface ShopFont {
  family: string;
  path: string;
}

export interface MadeFromSvg {
  notes: string[];
  findings: Finding[];
}

/**
 * Turns an SVG into a PDF of vectors once. It is first normalised to groups, paths, pictures, gradients, clips and masks; what
 * filters make is drawn as pixels.
 *
 * @param out where the PDF goes, in a folder that is nobody else's: what is made on the way lies beside it
 * @throws ArtworkError when it is no SVG, is broken, or has nothing to draw
 */
export async function svgToPdf(
  path: string,
  rules: readonly RoleRule[],
  shopFonts: readonly ShopFont[],
  out: string
): Promise<MadeFromSvg> {
  const source = readSvg(svgTextOf(readFileSync(path)), rules, new Set(shopFonts.map(({ family }) => family.toLowerCase())));
  const held = await heldFonts(source, out);
  const fonts = source.hasText
    ? [...held.map((font) => font.path), ...shippedFonts().map((font) => font.path), ...shopFonts.map((font) => font.path)]
    : [];
  const options = normalising(fonts);
  const body = withRealFamilies(source.body, held);
  const size = svgSize(source.root, () => drawnBox(svgText({ ...source.root, width: '1', height: '1' }, body), options));
  const root = { ...source.root, ...sizeInPixels(size) };
  const drawing = readPlain(normalised(svgText(root, body), options));
  const pictures = await decodeAll(drawing);
  const matrix = toPage(size);
  const rasters = await rastersOf(drawing, source.roles, size, matrix, options);
  const { width, height } = size;
  await writeFile(out, drawSvgPage({ drawing, width, height, toPage: matrix, roles: source.roles, pictures, rasters }));
  return {
    notes: size.note ? [size.note] : [],
    findings: [
      ...findingsOf([...source.findings, ...missingGlyphs(source, fonts)], drawing, size, matrix, pictures),
      ...filterFindings(rasters)
    ]
  };
}

/** All paths of a drawing as lines, mm of its page, y down. @throws ArtworkError as `svgToPdf` */
export function svgOutlines(file: Uint8Array): Polyline[] {
  const source = readSvg(svgTextOf(file), [], new Set());
  const options = normalising([]);
  const size = svgSize(source.root, () => drawnBox(svgText({ ...source.root, width: '1', height: '1' }, source.body), options));
  const drawing = readPlain(normalised(svgText({ ...source.root, ...sizeInPixels(size) }, source.body), options));
  const [a, b, c, d, e, f] = toPage(size);
  // Points with y up, to mm with y down.
  const page: Matrix = chain([a, b, c, d, e, f], [MM_PER_POINT, 0, 0, -MM_PER_POINT, 0, size.height * MM_PER_POINT]);
  const lines: Polyline[] = [];
  const walk = (node: Plain, to: Matrix): void => {
    if (node.tag === 'defs') return;
    const matrix = chain(matrixOf(node), to);
    const data = node.tag === 'path' ? node.attributes['d'] : undefined;
    if (data !== undefined) lines.push(...flatten(transformPath(readPathData(data), matrix), OUTLINE_FLAT_MM));
    for (const kid of node.kids) walk(kid, matrix);
  };
  for (const node of drawing.root.kids) walk(node, page);
  return lines;
}

const OUTLINE_FLAT_MM = 0.05;

/** The text of an SVG file: packed or not, in whatever encoding it says. */
function svgTextOf(file: Uint8Array): string {
  let bytes = file;
  if (bytes[0] === 0x1f && bytes[1] === 0x8b) {
    try {
      bytes = gunzipSync(bytes, { maxOutputLength: MOST_CHARACTERS * 2 });
    } catch {
      throw new ArtworkError('The packed SVG is broken or unpacks to more than can be read. Ask for it unpacked.');
    }
  }
  const head = String.fromCharCode(...bytes.subarray(0, 200));
  const wide =
    bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : bytes[0] === 0xfe && bytes[1] === 0xff ? 'utf-16be' : undefined;
  const bare = /^<\0/.test(head) ? 'utf-16le' : /^\0</.test(head) ? 'utf-16be' : undefined;
  const said = /^[^<]*<\?xml[^>]*encoding=["']([\w.:-]+)["']/.exec(head)?.[1];
  let decoder: TextDecoder;
  try {
    decoder = new TextDecoder(wide ?? bare ?? said ?? 'utf-8');
  } catch {
    decoder = new TextDecoder('utf-8');
  }
  // What stands before the first mark is of no consequence to a drawing, and a fault to a strict reader.
  const text = decoder.decode(bytes).replace(/^[^<]+/, '');
  if (bytes !== file && !/<(?:[\w-]+:)?svg[\s>]/.test(text))
    throw new ArtworkError('This is a packed file, and what is in it is no SVG drawing. Unpack it and send what is in it.');
  return text;
}

function normalising(fontFiles: string[]): ResvgRenderOptions {
  return {
    font: {
      loadSystemFonts: false,
      fontFiles,
      defaultFontFamily: SHIPPED.serif,
      defaultFontSize: 16
    },
    logLevel: 'off'
  };
}

function opened(svg: string, options: ResvgRenderOptions): Resvg {
  try {
    return new Resvg(svg, options);
  } catch (error) {
    mupdf.throwTraps(error);
    throw new ArtworkError(
      /limit/i.test(String(error))
        ? 'The SVG repeats its parts more than a million times. Ask for the file to be saved anew, simpler.'
        : 'The SVG is broken: its drawing cannot be made out. Ask for a new copy.'
    );
  }
}

const normalised = (svg: string, options: ResvgRenderOptions) => opened(svg, options).toString();

function drawnBox(svg: string, options: ResvgRenderOptions) {
  const box = opened(svg, options).getBBox();
  return box && { x: box.x, y: box.y, width: box.width, height: box.height };
}

const sizeInPixels = ({ width, height, viewBox }: SvgSize): Record<string, string> => ({
  width: String(width / 0.75),
  height: String(height / 0.75),
  viewBox: `${viewBox.x} ${viewBox.y} ${viewBox.width} ${viewBox.height}`
});

/** What a font file says of itself. */
export interface TriedFont {
  family: string;
  /** Nothing for a collection: it has several. */
  style: string;
  licence: string;
}

/**
 * Tries out a font file that is to be used for every drawing. One that is packed is unpacked in its place.
 *
 * @throws ArtworkError when it cannot be used
 */
export async function tryFont({ path }: { path: string }): Promise<TriedFont> {
  const bytes = await plainFont(readFileSync(path));
  const family = bytes && familyOf(bytes);
  if (!bytes || family === undefined)
    throw new ArtworkError('This is no font that can be used. Fonts are TTF, OTF, TTC, WOFF or WOFF2 files.');
  await writeFile(path, bytes);
  const drawn = normalised(
    svgText({ width: '40', height: '20' }, `<text x="0" y="16" font-family="${family.replace(/[<>&",;]/g, '')}">Aa1</text>`),
    { font: { loadSystemFonts: false, fontFiles: [path], defaultFontFamily: family }, logLevel: 'off' }
  );
  new mupdf.Font('font', bytes).destroy();
  if (!drawn.includes('<path')) throw new ArtworkError(`The font ${family} has no letters that can be drawn.`);
  const isCollection = String.fromCharCode(...bytes.subarray(0, 4)) === 'ttcf';
  return {
    family: family.slice(0, 100),
    style: isCollection ? '' : (nameOf(bytes, FONT_NAMES.style) ?? 'Regular').slice(0, 100),
    licence: (nameOf(bytes, FONT_NAMES.licence) ?? nameOf(bytes, FONT_NAMES.address) ?? '').slice(0, 300)
  };
}

/** A font as it is used: unpacked. @returns undefined for what is no font, or one that is broken */
async function plainFont(data: Uint8Array): Promise<Uint8Array | undefined> {
  const kind = fontKind(data);
  try {
    return kind === 'woff' ? sfntOfWoff(data) : kind === 'woff2' ? await decompress(data) : kind && data;
  } catch (error) {
    mupdf.throwTraps(error);
    return undefined;
  }
}

interface HeldFont extends ShopFont {
  /** What the file calls it. */
  real: string;
}

/** Writes the fonts that are in the file where the normaliser can read them. */
async function heldFonts(source: SvgSource, out: string): Promise<HeldFont[]> {
  const held: HeldFont[] = [];
  for (const [i, { family, data }] of source.fonts.entries()) {
    try {
      const plain = await plainFont(data);
      const real = plain && familyOf(plain);
      if (!plain || real === undefined) continue;
      const path = `${out}-font-${i}`;
      await writeFile(path, plain);
      held.push({ family, real, path });
    } catch (error) {
      mupdf.throwTraps(error);
    }
  }
  return held;
}

/** The file's own names for fonts → the names that the fonts have. */
function withRealFamilies(body: string, held: readonly HeldFont[]): string {
  const names = new Map(
    held.filter(({ family, real }) => family !== real).map(({ family, real }) => [family.toLowerCase(), real])
  );
  if (names.size === 0) return body;
  return body.replace(/(font-family(?:="|\s*:\s*))([^;"}]*)/g, (_, before: string, list: string) => {
    const real = list.split(',').map((one) => {
      return names.get(one.trim().toLowerCase()) ?? one;
    });
    return before + real.join(',');
  });
}

const MOST_PICTURE_BYTES = 400e6;

/** Decodes what the drawing shows as pictures; a drawing in it is normalised already. */
async function decodeAll(drawing: PlainDrawing, into = new Map<string, Decoded | PlainDrawing>()) {
  let bytes = 0;
  const visit = async (node: Plain): Promise<void> => {
    if (node.tag === 'image') {
      const address = node.attributes['xlink:href'] ?? node.attributes['href'] ?? '';
      const file = into.has(address) ? undefined : readDataAddress(address);
      if (file?.type === 'image/svg+xml') {
        const inner = readPlain(new TextDecoder().decode(file.bytes));
        into.set(address, inner);
        await decodeAll(inner, into);
      } else if (file) {
        bytes += file.bytes.length;
        if (bytes > MOST_PICTURE_BYTES) throw new ArtworkError('The pictures in the SVG are too large together.');
        const decoded = await decodePicture(file.bytes).catch(() => undefined);
        if (decoded) into.set(address, decoded);
      }
    }
    for (const kid of node.kids) await visit(kid);
  };
  await visit(drawing.root);
  return into;
}

const FILTER_PPI = 300;
/** Effects take a second for some ten million pixels. */
const MOST_FILTER_PIXELS = 8e6;
const MOST_ALL_FILTER_PIXELS = 30e6;

/** Has what filters make drawn as pixels, each group by itself. */
async function rastersOf(
  drawing: PlainDrawing,
  roles: SvgSource['roles'],
  size: SvgSize,
  page: Matrix,
  options: ResvgRenderOptions
): Promise<Map<Plain, Raster>> {
  const groups: { node: Plain; matrix: Matrix }[] = [];
  const find = (node: Plain, matrix: Matrix): void => {
    const own = chain(matrixOf(node), matrix);
    if (node.attributes['filter']) groups.push({ node, matrix: own });
    else if (node.tag === 'g' || node.tag === 'svg') node.kids.forEach((kid) => find(kid, own));
  };
  find(drawing.root, [1, 0, 0, 1, 0, 0]);
  const placed = groups.flatMap(({ node, matrix }) => {
    const place = onPage(filterRegion(node, matrix, drawing), size.viewBox);
    return place ? [{ node, matrix, place, area: place.width * place.height }] : [];
  });
  const all = placed.reduce((sum, { area }) => sum + area, 0);
  const wanted = Math.min((FILTER_PPI / 72) * Math.abs(page[0]), Math.sqrt(MOST_ALL_FILTER_PIXELS / all));
  const rasters = new Map<Plain, Raster>();
  for (const { node, matrix, place, area } of placed) {
    const zoom = Math.min(wanted, Math.sqrt(MOST_FILTER_PIXELS / area));
    // Less than a pixel is nothing to see, and what cannot be drawn so is drawn without its effect.
    if (place.width * zoom < 1 || place.height * zoom < 1) continue;
    const svg = filteredSvg(withoutRoles(node, roles), matrix, place, drawing);
    const image = opened(svg, { ...options, fitTo: { mode: 'zoom', value: zoom } }).render();
    rasters.set(node, { picture: await multipliedPicture(image.pixels, image.width, image.height), place });
  }
  return rasters;
}

/** What of a region lies on the page or near it; nothing else is drawn. */
function onPage(region: Extent, viewBox: Box): Box | undefined {
  const x = Math.max(viewBox.x - viewBox.width, region.x0);
  const y = Math.max(viewBox.y - viewBox.height, region.y0);
  const width = Math.min(viewBox.x + 2 * viewBox.width, region.x1) - x;
  const height = Math.min(viewBox.y + 2 * viewBox.height, region.y1) - y;
  return width > 0 && height > 0 ? { x, y, width, height } : undefined;
}

/** What has a role stays a shape, and is no part of the pixels. */
function withoutRoles(node: Plain, roles: SvgSource['roles']): Plain {
  const kids = node.kids.filter((kid) => !roles.has(kid.attributes['id'] ?? ''));
  return { ...node, kids: kids.map((kid) => withoutRoles(kid, roles)) };
}

/** What a filter can paint on, in the drawing's own units. */
function filterRegion(node: Plain, matrix: Matrix, drawing: PlainDrawing): Extent {
  const filter = referred(node, 'filter', drawing.definitions);
  const box = objectBox(node);
  if (!filter || filter.attributes['filterUnits'] === 'userSpaceOnUse') {
    const [x, y] = [number(filter ?? node, 'x'), number(filter ?? node, 'y')];
    return mapped({ x0: x, y0: y, x1: x + number(filter ?? node, 'width'), y1: y + number(filter ?? node, 'height') }, matrix);
  }
  const [w, h] = [box.x1 - box.x0, box.y1 - box.y0];
  const x0 = box.x0 + number(filter, 'x', -0.1) * w;
  const y0 = box.y0 + number(filter, 'y', -0.1) * h;
  return mapped({ x0, y0, x1: x0 + number(filter, 'width', 1.2) * w, y1: y0 + number(filter, 'height', 1.2) * h }, matrix);
}

/** A drawing of one filtered group alone, without what is done to it afterwards. */
function filteredSvg(node: Plain, matrix: Matrix, place: Box, { definitions }: PlainDrawing): string {
  const { filter = '', id } = node.attributes;
  const alone: Plain = {
    tag: 'g',
    attributes: { filter, transform: `matrix(${matrix.join(' ')})`, ...(id && { id }) },
    kids: node.kids
  };
  const needed = references(alone);
  for (const id of needed) {
    const definition = definitions.get(id);
    if (definition) references(definition, needed);
  }
  const defs = [...needed].flatMap((id) => definitions.get(id) ?? []).map(writePlain);
  const { x, y, width, height } = place;
  return `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="${width}" height="${height}" viewBox="${x} ${y} ${width} ${height}"><defs>${defs.join('')}</defs>${writePlain(alone)}</svg>`;
}

const MM_PER_POINT = 25.4 / 72;

interface Found {
  kind: SvgSource['findings'][number]['kind'] | 'glyphs';
  what: string;
  id: string | undefined;
}

/** Findings with their places on the page, mm. */
function findingsOf(
  noted: readonly Found[],
  drawing: PlainDrawing,
  size: SvgSize,
  page: Matrix,
  pictures: ReadonlyMap<string, unknown>
): Finding[] {
  const places = new Map<string, Extent>();
  const wanted = new Set(noted.map(({ id }) => id));
  let broken: Extent | undefined;
  const visit = (node: Plain, matrix: Matrix): void => {
    const own = chain(matrixOf(node), matrix);
    const id = node.attributes['id'];
    if (id !== undefined && wanted.has(id) && !places.has(id)) places.set(id, objectBox(node, own));
    if (node.tag === 'image' && !pictures.has(node.attributes['xlink:href'] ?? node.attributes['href'] ?? ''))
      broken ??= objectBox(node, own);
    node.kids.forEach((kid) => visit(kid, own));
  };
  visit(drawing.root, page);
  const place = (extent: Extent | undefined): Finding['place'] =>
    !extent || isNothing(extent)
      ? null
      : {
          x: extent.x0 * MM_PER_POINT,
          y: (size.height - extent.y1) * MM_PER_POINT,
          width: (extent.x1 - extent.x0) * MM_PER_POINT,
          height: (extent.y1 - extent.y0) * MM_PER_POINT
        };
  const found: Finding[] = noted.map(({ kind, what, id }) => {
    const [name = '', instead = ''] = what.split('\n');
    return { kind: `svg-${kind}`, what: name, instead, place: place(id === undefined ? undefined : places.get(id)) };
  });
  if (broken) found.push({ kind: 'svg-picture', what: 'in the file', instead: '', place: place(broken) });
  return found;
}

/** Characters that no font has, and where the first of them stands. */
function missingGlyphs({ characters }: SvgSource, fonts: readonly string[]): Found[] {
  if (characters.size === 0) return [];
  const opened = fonts.map((path) => new mupdf.Font('font', readFileSync(path)));
  const missing = [...characters].filter(
    ([character]) =>
      !/\s|\p{C}|\p{M}/u.test(character) && opened.every((font) => font.encodeCharacter(character.codePointAt(0) ?? 0) === 0)
  );
  opened.forEach((font) => font.destroy());
  const [first] = missing;
  const what = missing.slice(0, 40).map(([character]) => character);
  return first ? [{ kind: 'glyphs', what: what.join(' '), id: first[1] }] : [];
}

const filterFindings = (rasters: ReadonlyMap<Plain, Raster>): Finding[] =>
  rasters.size > 0 ? [{ kind: 'svg-filter', what: String(rasters.size), instead: String(FILTER_PPI), place: null }] : [];
