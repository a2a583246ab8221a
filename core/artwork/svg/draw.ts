import { chain, type Matrix } from '../../geometry/matrix';
import { rectanglePath, transformPath, type Path } from '../../geometry/path';
import { pdfNumber } from '../pdf-objects';
import {
  boxMatrix,
  Canvas,
  controlExtent,
  grown,
  matrixText,
  pathText,
  placeOf,
  Stream,
  unitSquare,
  type Decoded
} from './canvas';
import { isNothing, objectBox, overlap, pathExtent, type Extent } from './extent';
import { fitted, readViewBox } from './fit';
import type { Box } from '../../geometry/box';
import { Paints, type Context, type Mode, type SvgRole } from './paint';
import { matrixOf, number, readPathData, referred, type Plain, type PlainDrawing } from './plain-tree';

/** Pixels that take the place of what a filter makes, in the coordinates of the drawing. */
export interface Raster {
  picture: Decoded;
  place: Box;
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

const n = pdfNumber;
/** Lines for a tool are seen at this width, points. */
const TOOL_WIDTH = 0.25;

class Drawer {
  readonly #page: SvgPage;
  readonly #canvas = new Canvas();
  readonly #paints = new Paints(this.#canvas, (node, m, out, context) => this.#node(node, m, out, context));
  #blends = false;

  constructor(page: SvgPage) {
    this.#page = page;
  }

  draw(): Uint8Array {
    const { drawing, width, height, toPage } = this.#page;
    const out = new Stream({ x0: 0, y0: 0, x1: width, y1: height });
    const context: Context = { definitions: drawing.definitions, mode: 'colour', role: undefined, onlyRoles: false };
    for (const kid of drawing.root.kids) this.#node(kid, toPage, out, context);
    return this.#canvas.finish(width, height, out, this.#blends);
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
      this.#canvas.place(form, clipped, [opacity < 1 && `/ca ${n(opacity)}/CA ${n(opacity)}`, blend && `/BM/${blend}`, smask]);
    });
  }

  #content(node: Plain, m: Matrix, out: Stream, context: Context): void {
    const raster = this.#page.rasters.get(node);
    if (raster && !context.onlyRoles)
      this.#canvas.picture(raster.picture, chain(unitSquare(raster.place), this.#page.toPage), out);
    const inner = raster ? { ...context, onlyRoles: true } : context;
    for (const kid of node.kids) this.#node(kid, m, out, inner);
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
    this.#canvas.place(form, out, [this.#canvas.softMask(shape)]);
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
      this.#canvas.place(masked, form, [this.#mask(nested, node, m, masked.extent, within)]);
    } else this.#content(content, inner, form, within);
    form.operators.push('Q');
    return this.#canvas.softMask(form);
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
      const spot = this.#canvas.spot(role.name);
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
    if (server?.tag === 'pattern' && !context.role && this.#paints.layTiles(server, node, path, m, area, out, context)) return;
    const paint = this.#paints.paint(node, 'fill', m, area, context);
    if (!paint) return;
    const rule = node.attributes['fill-rule'] === 'evenodd' ? 'f*' : 'f';
    const fill = [paint.operator, pathText(path), rule];
    out.operators.push(...(paint.state ? ['q', paint.state, ...fill, 'Q'] : fill));
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
    const paint = this.#paints.paint(node, 'stroke', m, area, context);
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

  #image(node: Plain, m: Matrix, out: Stream, context: Context): void {
    if (node.attributes['visibility'] === 'hidden') return;
    const picture = this.#page.pictures.get(node.attributes['xlink:href'] ?? node.attributes['href'] ?? '');
    if (!picture) return;
    const place = placeOf(node);
    if (!(place.width > 0 && place.height > 0)) return;
    const isDrawing = 'root' in picture;
    const size: Box = isDrawing
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
      this.#canvas.place(form, out, []);
    } else this.#canvas.picture(picture, chain(unitSquare(size), inner), out);
    if (clips) out.operators.push('Q');
    out.bounds = before;
  }
}
