import { chain, IDENTITY, invert, scaling, translation, type Matrix } from '../../geometry/matrix';
import { rectanglePath, transformPath, type Path } from '../../geometry/path';
import { PdfObjects, pdfName, pdfNumber } from '../pdf-objects';
import { addPicture, type PdfPicture } from '../picture-pdf';
import { include, isNothing, join, mapped, nothing, objectBox, overlap, pathExtent, type Extent } from './extent';
import { fitted, readViewBox, type Place } from './fit';
import { readColour, shadingOf, stopsOf, type Stop } from './gradient';
import { matrixOf, number, readPathData, referred, type Plain, type PlainDrawing } from './plain-tree';

/** What an element is for: it is drawn in the spot colour of that name, a line for a tool as an outline. */
export interface SvgRole {
  name: string;
  tool: boolean;
}

export type Decoded = Omit<PdfPicture, 'page'>;

/** Pixels that take the place of what a filter makes, in the coordinates of the drawing. */
export interface Raster {
  picture: Decoded;
  place: Place;
}

export interface SvgPage {
  drawing: PlainDrawing;
  /** Points. */
  width: number;
  height: number;
  /** Units of the drawing → points of the page, y up. */
  toPage: Matrix;
  /** By id. */
  roles: ReadonlyMap<string, SvgRole>;
  /** By data address: pixels, or a drawing in the drawing. */
  pictures: ReadonlyMap<string, Decoded | PlainDrawing>;
  /** By the group that has a filter. */
  rasters: ReadonlyMap<Plain, Raster>;
}

/**
 * Writes a normalised drawing as a PDF page of vectors: fills, strokes, gradients, patterns, clips, masks, opacity and blend
 * modes are PDF's own. Colours are screen colours; what has a role is in a spot colour.
 */
export function drawSvgPage(page: SvgPage): Uint8Array {
  return new Drawer(page).draw();
}

type Mode =
  /** Screen colours. */
  | 'colour'
  /** Lightness as SVG's masks reckon it. */
  | 'luma'
  /** Coverage alone. */
  | 'white';

interface Context {
  definitions: ReadonlyMap<string, Plain>;
  mode: Mode;
  role: SvgRole | undefined;
  /** Leaves out what has no role: pixels show that already. */
  onlyRoles: boolean;
}

/** Operators being written, and the box of what they paint. */
class Stream {
  readonly operators: string[] = [];
  extent = nothing();
  bounds: Extent;

  constructor(bounds: Extent) {
    this.bounds = bounds;
  }

  paints(area: Extent): void {
    join(this.extent, overlap(area, this.bounds));
  }
}

const BLENDS: Record<string, string> = {
  multiply: 'Multiply',
  screen: 'Screen',
  overlay: 'Overlay',
  darken: 'Darken',
  lighten: 'Lighten',
  'color-dodge': 'ColorDodge',
  'color-burn': 'ColorBurn',
  'hard-light': 'HardLight',
  'soft-light': 'SoftLight',
  difference: 'Difference',
  exclusion: 'Exclusion',
  hue: 'Hue',
  saturation: 'Saturation',
  color: 'Color',
  luminosity: 'Luminosity'
};

/** Lines for a tool are seen at this width, points. */
const TOOL_WIDTH = 0.25;
/** Tiles of a pattern, more than which are a tint and no pattern. */
const MOST_TILES = 250_000;
/** Objects of all tiles together, up to which they are laid one by one: the interpreter puts tiles on whole pixels. */
const MOST_LAID = 20_000;

const n = pdfNumber;
const matrixText = (m: Matrix) => m.map((v) => n(v, 7)).join(' ');
const luma = ([r, g, b]: readonly [number, number, number]) => 0.2125 * r + 0.7154 * g + 0.0721 * b;

interface Tiling {
  /** In the coordinates of the pattern. */
  tile: Place;
  /** A tile's own coordinates → page. */
  matrix: Matrix;
  /** What is in a tile → the tile's own coordinates. */
  content: Matrix;
  columns: readonly [number, number];
  rows: readonly [number, number];
  count: number;
}

type Resource = 'ExtGState' | 'Pattern' | 'XObject' | 'ColorSpace';

class Drawer {
  readonly #page: SvgPage;
  readonly #objects = new PdfObjects();
  readonly #resources: number;
  /** What the page uses, by kind: what it is → its name. */
  readonly #named: Record<Resource, Map<string, string>> = {
    ExtGState: new Map(),
    Pattern: new Map(),
    XObject: new Map(),
    ColorSpace: new Map()
  };
  readonly #pictures = new Map<Decoded, number>();
  #blends = false;

  constructor(page: SvgPage) {
    this.#page = page;
    this.#resources = this.#objects.reserve();
  }

  draw(): Uint8Array {
    const { drawing, width, height, toPage } = this.#page;
    const objects = this.#objects;
    const out = new Stream({ x0: 0, y0: 0, x1: width, y1: height });
    const context: Context = { definitions: drawing.definitions, mode: 'colour', role: undefined, onlyRoles: false };
    for (const kid of drawing.root.kids) this.#node(kid, toPage, out, context);
    const contents = objects.reserve();
    objects.putContent(contents, '', out.operators.join('\n'));
    const named = Object.entries(this.#named).map(
      ([kind, entries]) => `/${kind}<<${[...entries].map(([value, name]) => `/${name} ${value}`).join('')}>>`
    );
    objects.put(this.#resources, named.join(''));
    const pages = objects.reserve();
    // Colours blend as the drawing program blended them.
    const group = this.#blends ? '/Group<</S/Transparency/CS/DeviceRGB/I true>>' : '';
    const leaf = objects.add(
      `/Type/Page/Parent ${pages} 0 R/MediaBox[0 0 ${n(width)} ${n(height)}]/Contents ${contents} 0 R/Resources ${this.#resources} 0 R${group}`
    );
    objects.put(pages, `/Type/Pages/Kids[${leaf} 0 R]/Count 1`);
    return objects.finish(objects.add(`/Type/Catalog/Pages ${pages} 0 R`));
  }

  /** A resource by what it is. @returns its name */
  #name(kind: Resource, value: string): string {
    const entries = this.#named[kind];
    const known = entries.get(value);
    if (known) return known;
    const name = `${kind[0]}${entries.size}`;
    entries.set(value, name);
    return name;
  }

  #node(node: Plain, m: Matrix, out: Stream, context: Context): void {
    const role = this.#page.roles.get(node.attributes['id'] ?? '') ?? context.role;
    const inner = { ...context, role };
    if (node.tag === 'g') this.#group(node, chain(matrixOf(node), m), out, inner);
    else if (node.tag === 'path') this.#path(node, chain(matrixOf(node), m), out, inner);
    else if (node.tag === 'image' && !inner.onlyRoles) this.#image(node, m, out, inner);
  }

  #group(node: Plain, m: Matrix, out: Stream, context: Context): void {
    const { attributes } = node;
    const mask = referred(node, 'mask', context.definitions);
    const opacity = number(node, 'opacity', 1);
    const style = attributes['style'] ?? '';
    const blend = BLENDS[/mix-blend-mode:\s*([\w-]+)/.exec(style)?.[1] ?? ''];
    const isolated = /isolation:\s*isolate/.test(style);
    if (opacity <= 0 && !context.role) return;
    this.#clipped(node, m, out, context, (clipped) => {
      if (!mask && opacity >= 1 && !blend && !isolated) return this.#content(node, m, clipped, context);
      if (blend) this.#blends = true;
      const form = new Stream(clipped.bounds);
      this.#content(node, m, form, context);
      const smask = mask && this.#mask(mask, node, m, form.extent, context);
      this.#place(form, clipped, [opacity < 1 && `/ca ${n(opacity)}/CA ${n(opacity)}`, blend && `/BM/${blend}`, smask]);
    });
  }

  #content(node: Plain, m: Matrix, out: Stream, context: Context): void {
    const raster = this.#page.rasters.get(node);
    if (raster && !context.onlyRoles) this.#picture(raster.picture, chain(unitSquare(raster.place), this.#page.toPage), out);
    const inner = raster ? { ...context, onlyRoles: true } : context;
    for (const kid of node.kids) this.#node(kid, m, out, inner);
  }

  /** Paints a group as one thing, through a graphics state. */
  #place(form: Stream, out: Stream, state: readonly (string | false | undefined)[]): void {
    if (form.operators.length === 0 || isNothing(form.extent)) return;
    const name = this.#name('XObject', `${this.#form(form, '')} 0 R`);
    const words = state.filter((word): word is string => typeof word === 'string').join('');
    out.operators.push(words ? `q /${this.#name('ExtGState', `<<${words}>>`)} gs /${name} Do Q` : `/${name} Do`);
    out.paints(form.extent);
  }

  /** @param wider a hair, so that rounding cuts nothing off */
  #form(form: Stream, space: string, wider = 0.01): number {
    const { x0, y0, x1, y1 } = form.extent;
    const number = this.#objects.reserve();
    const box = isNothing(form.extent)
      ? '0 0 0 0'
      : [x0 - wider, y0 - wider, x1 + wider, y1 + wider].map((v) => n(v, 7)).join(' ');
    this.#objects.putContent(
      number,
      `/Type/XObject/Subtype/Form/BBox[${box}]/Group<</S/Transparency/I true${space}>>/Resources ${this.#resources} 0 R`,
      form.operators.join('\n')
    );
    return number;
  }

  /** A form as a soft mask. */
  #softMask(form: Stream): string {
    return `/SMask<</Type/Mask/S/Luminosity/G ${this.#form(form, '/CS/DeviceGray')} 0 R>>`;
  }

  /** Paints through the clip of a node, as a clip where that is one path, and as a mask where it is not. */
  #clipped(node: Plain, m: Matrix, out: Stream, context: Context, paint: (to: Stream) => void): void {
    const clip = referred(node, 'clip-path', context.definitions);
    if (!clip) return paint(out);
    const box = () => objectBox(node);
    const simple = this.#simpleClip(clip, m, box);
    if (simple) {
      const area = overlap(pathExtent(simple.path), out.bounds);
      if (simple.path.length === 0 || isNothing(area)) return;
      const before = out.bounds;
      out.operators.push('q', pathText(simple.path), simple.evenOdd ? 'W* n' : 'W n');
      out.bounds = area;
      paint(out);
      out.bounds = before;
      out.operators.push('Q');
      return;
    }
    const form = new Stream(out.bounds);
    paint(form);
    if (isNothing(form.extent)) return;
    const shape = new Stream(form.extent);
    this.#clipShape(clip, m, box, shape, { ...context, mode: 'white', role: undefined, onlyRoles: false });
    this.#place(form, out, [this.#softMask(shape)]);
  }

  #clipMatrix(clip: Plain, m: Matrix, box: () => Extent): Matrix {
    const own = chain(matrixOf(clip), m);
    return clip.attributes['clipPathUnits'] === 'objectBoundingBox' ? chain(boxMatrix(box()), own) : own;
  }

  #simpleClip(clip: Plain, m: Matrix, box: () => Extent): { path: Path; evenOdd: boolean } | undefined {
    const [only, ...more] = clip.kids;
    if (!only) return { path: [], evenOdd: false };
    if (more.length > 0 || only.tag !== 'path' || clip.attributes['clip-path'] || only.attributes['clip-path']) return undefined;
    const path = readPathData(only.attributes['d'] ?? '');
    return {
      path: transformPath(path, chain(matrixOf(only), this.#clipMatrix(clip, m, box))),
      evenOdd: only.attributes['clip-rule'] === 'evenodd'
    };
  }

  #clipShape(clip: Plain, m: Matrix, box: () => Extent, out: Stream, context: Context): void {
    const inner = this.#clipMatrix(clip, m, box);
    this.#clipped({ ...clip, tag: 'g' }, m, out, context, (to) => {
      for (const kid of clip.kids) {
        const rule = kid.attributes['clip-rule'];
        const shape = { ...kid, attributes: { ...kid.attributes, ...(rule && { 'fill-rule': rule }) } };
        this.#clipped(shape, chain(matrixOf(kid), inner), to, context, (at) => this.#node(shape, inner, at, context));
      }
    });
  }

  /** @param area what is masked, on the page */
  #mask(mask: Plain, node: Plain, m: Matrix, area: Extent, context: Context): string {
    const form = new Stream(area);
    const box = objectBox(node);
    const relative = mask.attributes['maskUnits'] !== 'userSpaceOnUse';
    const place = placeOf(mask);
    const corners = transformPath(rectanglePath(place), relative ? chain(boxMatrix(box), m) : m);
    const inner = mask.attributes['maskContentUnits'] === 'objectBoundingBox' ? chain(boxMatrix(box), m) : m;
    form.operators.push('q', pathText(corners), 'W n');
    form.bounds = overlap(pathExtent(corners), area);
    const mode: Mode = mask.attributes['mask-type'] === 'alpha' ? 'white' : 'luma';
    const within = { ...context, mode, role: undefined, onlyRoles: false };
    // A mask may be masked itself.
    const content: Plain = { tag: 'g', attributes: {}, kids: mask.kids };
    const nested = referred(mask, 'mask', context.definitions);
    if (nested) {
      const masked = new Stream(form.bounds);
      this.#content(content, inner, masked, within);
      this.#place(masked, form, [this.#mask(nested, node, m, masked.extent, within)]);
    } else this.#content(content, inner, form, within);
    form.operators.push('Q');
    return this.#softMask(form);
  }

  #path(node: Plain, m: Matrix, out: Stream, context: Context): void {
    const { role } = context;
    if (context.onlyRoles && !role) return;
    const { attributes } = node;
    if (attributes['visibility'] === 'hidden' && !role) return;
    const local = readPathData(attributes['d'] ?? '');
    if (local.length < 2) return;
    const path = transformPath(local, m);
    if (role?.tool) {
      const spot = this.#spot(role.name);
      out.operators.push(`q /${spot} CS 1 SCN ${TOOL_WIDTH} w`, pathText(path), 'S Q');
      return out.paints(grown(controlExtent(path), TOOL_WIDTH));
    }
    const fill = () => this.#fill(node, path, m, out, context);
    const stroke = () => this.#stroke(node, local, path, m, out, context);
    if (attributes['paint-order']?.startsWith('stroke')) {
      stroke();
      fill();
    } else {
      fill();
      stroke();
    }
  }

  #fill(node: Plain, path: Path, m: Matrix, out: Stream, context: Context): void {
    const area = overlap(controlExtent(path), out.bounds);
    if (isNothing(area)) return;
    const server = referred(node, 'fill', context.definitions);
    if (server?.tag === 'pattern' && !context.role && this.#layTiles(server, node, path, m, area, out, context)) return;
    const paint = this.#paint(node, 'fill', m, area, context);
    if (!paint) return;
    const rule = node.attributes['fill-rule'] === 'evenodd' ? 'f*' : 'f';
    out.operators.push(...wrapped(paint.state, [paint.operator, pathText(path), rule]));
    out.paints(area);
  }

  #stroke(node: Plain, local: Path, path: Path, m: Matrix, out: Stream, context: Context): void {
    const width = number(node, 'stroke-width', 1);
    const [sx, sy] = [Math.hypot(m[0], m[1]), Math.hypot(m[2], m[3])];
    const join = node.attributes['stroke-linejoin'] ?? 'miter';
    const miter = number(node, 'stroke-miterlimit', 4);
    const reach = (width / 2) * Math.max(sx, sy) * (join.startsWith('miter') ? Math.max(1.5, miter) : 1.5);
    const area = overlap(grown(controlExtent(path), reach), out.bounds);
    if (isNothing(area)) return;
    const paint = this.#paint(node, 'stroke', m, area, context);
    if (!paint) return;
    // A map that keeps shapes needs no coordinates of its own.
    const keeps = Math.abs(sx - sy) < 1e-4 * sx && Math.abs(m[0] * m[2] + m[1] * m[3]) < 1e-4 * sx * sy;
    const scale = keeps ? sx : 1;
    const dashes = (node.attributes['stroke-dasharray'] ?? '').split(/[\s,]+/).map(Number);
    const dash = dashes.every((one) => one >= 0) && dashes.some((one) => one > 0);
    const line = [
      `${n(width * scale, 6)} w`,
      `${{ round: 1, square: 2 }[node.attributes['stroke-linecap'] ?? ''] ?? 0} J`,
      `${{ round: 1, bevel: 2 }[join] ?? 0} j`,
      `${n(Math.max(1, miter))} M`,
      dash && `[${dashes.map((one) => n(one * scale, 6)).join(' ')}] ${n(number(node, 'stroke-dashoffset') * scale, 6)} d`
    ].filter(Boolean);
    out.operators.push(
      'q',
      ...(paint.state ? [paint.state] : []),
      paint.operator,
      ...(keeps ? [] : [`${matrixText(m)} cm`]),
      line.join(' '),
      keeps ? pathText(path) : pathText(local, 7),
      'S Q'
    );
    out.paints(area);
  }

  /** How to set a paint, and the graphics state that it needs; nothing where there is no paint. */
  #paint(
    node: Plain,
    what: 'fill' | 'stroke',
    m: Matrix,
    area: Extent,
    context: Context
  ): { operator: string; state: string } | undefined {
    const text = node.attributes[what] ?? (what === 'fill' ? '#000000' : 'none');
    if (text === 'none') return undefined;
    const letter = what === 'fill' ? 'scn' : 'SCN';
    const space = what === 'fill' ? 'cs' : 'CS';
    const opacity = number(node, `${what}-opacity`, 1);
    const alpha = opacity < 1 ? `/${what === 'fill' ? 'ca' : 'CA'} ${n(opacity)}` : '';
    const state = (words: string) => (words ? `/${this.#name('ExtGState', `<<${words}>>`)} gs` : '');
    if (context.role) return { operator: `/${this.#spot(context.role.name)} ${space} ${n(opacity)} ${letter}`, state: '' };
    const server = referred(node, what, context.definitions);
    if (!server) {
      if (!text.startsWith('#')) return undefined;
      const grey = context.mode === 'white' ? '1' : context.mode === 'luma' ? n(luma(readColour(text))) : undefined;
      const operator =
        grey !== undefined
          ? `${grey} ${what === 'fill' ? 'g' : 'G'}`
          : `${readColour(text)
              .map((v) => n(v))
              .join(' ')} ${what === 'fill' ? 'rg' : 'RG'}`;
      return { operator, state: state(alpha) };
    }
    const units = server.attributes[server.tag === 'pattern' ? 'patternUnits' : 'gradientUnits'];
    const needsBox = units !== 'userSpaceOnUse' || server.attributes['patternContentUnits'] === 'objectBoundingBox';
    const box = needsBox ? objectBox({ ...node, attributes: { ...node.attributes, transform: '' } }) : nothing();
    if (needsBox && units !== 'userSpaceOnUse' && !(box.x1 > box.x0 && box.y1 > box.y0)) return undefined;
    if (server.tag === 'pattern') {
      const pattern = this.#pattern(server, box, m, area, context);
      if (!pattern) return undefined;
      return { operator: `/Pattern ${space} /${pattern} ${letter}`, state: state(alpha) };
    }
    const toPage = units === 'userSpaceOnUse' ? m : chain(boxMatrix(box), m);
    const grey =
      context.mode === 'colour' ? undefined : context.mode === 'white' ? () => [1] : (stop: Stop) => [luma(stop.colour)];
    const pattern = this.#gradient(server, toPage, area, grey);
    if (!pattern) return undefined;
    const seeThrough = stopsOf(server).some((stop) => stop.opacity < 1);
    return {
      operator: `/Pattern ${space} /${pattern} ${letter}`,
      state: state(alpha + (seeThrough ? this.#fade(server, toPage, area) : ''))
    };
  }

  #gradient(server: Plain, toPage: Matrix, area: Extent, grey: ((stop: Stop) => number[]) | undefined): string | undefined {
    const made = shadingOf(server, toPage, area, grey ? '/DeviceGray' : '/DeviceRGB', grey ?? ((stop) => [...stop.colour]));
    return made && this.#name('Pattern', `<</PatternType 2/Matrix[${matrixText(made.matrix)}]/Shading<<${made.shading}>>>>`);
  }

  /** The opacity of a gradient's stops as a mask over an area. */
  #fade(server: Plain, toPage: Matrix, area: Extent): string {
    const form = new Stream(area);
    const name = this.#gradient(server, toPage, area, (stop) => [stop.opacity]);
    form.operators.push(`/Pattern cs /${name} scn`, pathText(rectanglePath(asPlace(area))), 'f');
    form.paints(area);
    return this.#softMask(form);
  }

  /** How the tiles of a pattern lie over an area; nothing where they have no size or are too many to be seen. */
  #tiling(server: Plain, box: Extent, m: Matrix, area: Extent): Tiling | undefined {
    const [width, height] = [box.x1 - box.x0, box.y1 - box.y0];
    const given = placeOf(server);
    const tile: Place =
      server.attributes['patternUnits'] === 'userSpaceOnUse'
        ? given
        : {
            x: box.x0 + given.x * width,
            y: box.y0 + given.y * height,
            width: given.width * width,
            height: given.height * height
          };
    if (!(tile.width > 0 && tile.height > 0)) return undefined;
    const matrix = chain(translation(tile.x, tile.y), chain(matrixOf(server, 'patternTransform'), m));
    let across: Extent;
    try {
      across = mapped(area, invert(matrix));
    } catch {
      return undefined;
    }
    const columns = [Math.floor(across.x0 / tile.width), Math.ceil(across.x1 / tile.width)] as const;
    const rows = [Math.floor(across.y0 / tile.height), Math.ceil(across.y1 / tile.height)] as const;
    const count = (columns[1] - columns[0]) * (rows[1] - rows[0]);
    if (!(count <= MOST_TILES)) return undefined;
    const viewBox = readViewBox(server.attributes['viewBox']);
    const own: Place = { x: 0, y: 0, width: tile.width, height: tile.height };
    const content = viewBox
      ? fitted(viewBox, own, server.attributes['preserveAspectRatio']).matrix
      : server.attributes['patternContentUnits'] === 'objectBoundingBox'
        ? scaling(width, height)
        : IDENTITY;
    return { tile, matrix, content, columns, rows, count };
  }

  #tileStream({ tile, content }: Tiling, server: Plain, context: Context): Stream {
    const form = new Stream({ x0: 0, y0: 0, x1: tile.width, y1: tile.height });
    for (const kid of server.kids) this.#node(kid, content, form, { ...context, role: undefined, onlyRoles: false });
    return form;
  }

  #pattern(server: Plain, box: Extent, m: Matrix, area: Extent, context: Context): string | undefined {
    const tiling = this.#tiling(server, box, m, area);
    if (!tiling) return undefined;
    const form = this.#tileStream(tiling, server, context);
    const number = this.#objects.reserve();
    const [w, h] = [n(tiling.tile.width, 7), n(tiling.tile.height, 7)];
    this.#objects.putContent(
      number,
      `/PatternType 1/PaintType 1/TilingType 1/BBox[0 0 ${w} ${h}]/XStep ${w}/YStep ${h}/Matrix[${matrixText(tiling.matrix)}]/Resources ${this.#resources} 0 R`,
      form.operators.join('\n')
    );
    return this.#name('Pattern', `${number} 0 R`);
  }

  /** Fills a path with a pattern tile by tile, at their exact places. @returns whether there were few enough to do so */
  #layTiles(server: Plain, node: Plain, path: Path, m: Matrix, area: Extent, out: Stream, context: Context): boolean {
    const tiling = this.#tiling(server, objectBox(node), m, area);
    if (!tiling || tiling.count * (1 + sizeOf(server)) > MOST_LAID) return false;
    const { tile, matrix, columns, rows } = tiling;
    const tileStream = this.#tileStream(tiling, server, context);
    tileStream.extent = { x0: 0, y0: 0, x1: tile.width, y1: tile.height };
    const name = this.#name('XObject', `${this.#form(tileStream, '', 0)} 0 R`);
    const form = new Stream(area);
    form.operators.push('q', pathText(path), node.attributes['fill-rule'] === 'evenodd' ? 'W* n' : 'W n');
    for (let row = rows[0]; row < rows[1]; row++)
      for (let column = columns[0]; column < columns[1]; column++)
        form.operators.push(
          `q ${matrixText(chain(translation(column * tile.width, row * tile.height), matrix))} cm /${name} Do Q`
        );
    form.operators.push('Q');
    form.paints(area);
    const opacity = number(node, 'fill-opacity', 1);
    this.#place(form, out, [opacity < 1 && `/ca ${n(opacity)}/CA ${n(opacity)}`]);
    return true;
  }

  #image(node: Plain, m: Matrix, out: Stream, context: Context): void {
    if (node.attributes['visibility'] === 'hidden') return;
    const picture = this.#page.pictures.get(node.attributes['xlink:href'] ?? node.attributes['href'] ?? '');
    if (!picture) return;
    const place = placeOf(node);
    if (!(place.width > 0 && place.height > 0)) return;
    const isDrawing = 'root' in picture;
    const size: Place = isDrawing
      ? { x: 0, y: 0, width: number(picture.root, 'width', 1), height: number(picture.root, 'height', 1) }
      : { x: 0, y: 0, width: picture.width, height: picture.height };
    const { matrix, slice } = fitted(size, place, node.attributes['preserveAspectRatio']);
    const inner = chain(matrix, m);
    const frame = transformPath(rectanglePath(isDrawing && !slice ? size : place), isDrawing && !slice ? inner : m);
    const clips = slice || isDrawing;
    const before = out.bounds;
    if (clips) {
      out.operators.push('q', pathText(frame), 'W n');
      out.bounds = overlap(pathExtent(frame), before);
    }
    if (isDrawing) {
      const { root, definitions } = picture;
      const box = readViewBox(root.attributes['viewBox']);
      const view = box ? chain(fitted(box, size, root.attributes['preserveAspectRatio']).matrix, inner) : inner;
      const form = new Stream(out.bounds);
      for (const kid of root.kids) this.#node(kid, view, form, { ...context, definitions });
      this.#place(form, out, []);
    } else this.#picture(picture, chain(unitSquare(size), inner), out);
    if (clips) out.operators.push('Q');
    out.bounds = before;
  }

  /** @param m the unit square, y up → page */
  #picture(picture: Decoded, m: Matrix, out: Stream): void {
    const number = this.#pictures.get(picture) ?? addPicture(this.#objects, picture);
    this.#pictures.set(picture, number);
    out.operators.push(`q ${matrixText(m)} cm /${this.#name('XObject', `${number} 0 R`)} Do Q`);
    out.paints(mapped({ x0: 0, y0: 0, x1: 1, y1: 1 }, m));
  }

  #spot(name: string): string {
    const tint = '<</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[0 1 0 0]/N 1>>';
    return this.#name('ColorSpace', `[/Separation ${pdfName(name)}/DeviceCMYK ${tint}]`);
  }
}

/** Nodes below a node. */
const sizeOf = (node: Plain): number => node.kids.reduce((sum, kid) => sum + 1 + sizeOf(kid), 0);

const wrapped = (state: string, operators: string[]) => (state ? ['q', state, ...operators, 'Q'] : operators);

/** 0…1 of a box → the box. */
const boxMatrix = (e: Extent): Matrix =>
  isNothing(e) ? [1, 0, 0, 1, 0, 0] : [e.x1 - e.x0 || 1e-9, 0, 0, e.y1 - e.y0 || 1e-9, e.x0, e.y0];

/** The unit square that PDF draws pictures in, y up → a place, y down. */
const unitSquare = ({ x, y, width, height }: Place): Matrix => [width, 0, 0, -height, x, y + height];

const placeOf = (node: Plain): Place => ({
  x: number(node, 'x'),
  y: number(node, 'y'),
  width: number(node, 'width'),
  height: number(node, 'height')
});
const asPlace = (e: Extent): Place => ({ x: e.x0, y: e.y0, width: e.x1 - e.x0, height: e.y1 - e.y0 });
const grown = (e: Extent, by: number): Extent => ({ x0: e.x0 - by, y0: e.y0 - by, x1: e.x1 + by, y1: e.y1 + by });

/** A box that a path lies in, control points and all: quick, and at most a little too large. */
function controlExtent(path: Path): Extent {
  const e = nothing();
  for (const s of path) {
    if (s.kind === 'close') continue;
    if (s.kind === 'curve') {
      include(e, s.c1);
      include(e, s.c2);
    }
    include(e, s.to);
  }
  return e;
}

function pathText(path: Path, decimals = 4): string {
  const p = ({ x, y }: { x: number; y: number }) => `${n(x, decimals)} ${n(y, decimals)}`;
  const words: string[] = [];
  for (const s of path) {
    if (s.kind === 'close') words.push('h');
    else if (s.kind === 'curve') words.push(`${p(s.c1)} ${p(s.c2)} ${p(s.to)} c`);
    else words.push(`${p(s.to)} ${s.kind === 'move' ? 'm' : 'l'}`);
  }
  return words.join(' ');
}
