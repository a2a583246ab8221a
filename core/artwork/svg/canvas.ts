import { type Matrix } from '../../geometry/matrix';
import { type Path } from '../../geometry/path';
import { PdfObjects, pdfName, pdfNumber } from '../pdf-objects';
import { addPicture, type PdfPicture } from '../picture-pdf';
import { include, isNothing, join, mapped, nothing, overlap, type Extent } from './extent';
import type { Box } from '../../geometry/box';
import { number, type Plain } from './plain-tree';

/** What the pages of drawings are written with: operators, forms, pictures and the resources that they name. */

export type Decoded = Omit<PdfPicture, 'page'>;

/** Operators being written, and the box of what they paint. */
export class Stream {
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

type Resource = 'ExtGState' | 'Pattern' | 'XObject' | 'ColorSpace';

export class Canvas {
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

  constructor() {
    this.#resources = this.#objects.reserve();
  }

  /**
   * Ends the page.
   *
   * @param blends whether colours blend, which they do as the drawing program blended them
   * @returns a PDF
   */
  finish(width: number, height: number, { operators }: Stream, blends: boolean): Uint8Array {
    const objects = this.#objects;
    const contents = objects.reserve();
    objects.putContent(contents, '', operators.join('\n'));
    const named = Object.entries(this.#named).map(
      ([kind, entries]) => `/${kind}<<${[...entries].map(([value, name]) => `/${name} ${value}`).join('')}>>`
    );
    objects.put(this.#resources, named.join(''));
    const pages = objects.reserve();
    const group = blends ? '/Group<</S/Transparency/CS/DeviceRGB/I true>>' : '';
    const leaf = objects.add(
      `/Type/Page/Parent ${pages} 0 R/MediaBox[0 0 ${n(width)} ${n(height)}]/Contents ${contents} 0 R/Resources ${this.#resources} 0 R${group}`
    );
    objects.put(pages, `/Type/Pages/Kids[${leaf} 0 R]/Count 1`);
    return objects.finish(objects.add(`/Type/Catalog/Pages ${pages} 0 R`));
  }

  /** A resource by what it is. @returns its name */
  name(kind: Resource, value: string): string {
    const entries = this.#named[kind];
    const known = entries.get(value);
    if (known) return known;
    const name = `${kind[0]}${entries.size}`;
    entries.set(value, name);
    return name;
  }

  /** Paints a group as one thing, through a graphics state. */
  place(form: Stream, out: Stream, state: readonly (string | false | undefined)[]): void {
    if (form.operators.length === 0 || isNothing(form.extent)) return;
    const name = this.name('XObject', `${this.form(form, '')} 0 R`);
    const words = state.filter((word): word is string => typeof word === 'string').join('');
    out.operators.push(words ? `q /${this.name('ExtGState', `<<${words}>>`)} gs /${name} Do Q` : `/${name} Do`);
    out.paints(form.extent);
  }

  /** @param wider a hair, so that rounding cuts nothing off */
  form(form: Stream, space: string, wider = 0.01): number {
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
  softMask(form: Stream): string {
    return `/SMask<</Type/Mask/S/Luminosity/G ${this.form(form, '/CS/DeviceGray')} 0 R>>`;
  }

  /** A tile of a pattern, laid again and again. @returns its name */
  tiled(form: Stream, tile: Box, matrix: Matrix): string {
    const number = this.#objects.reserve();
    const [w, h] = [n(tile.width, 7), n(tile.height, 7)];
    this.#objects.putContent(
      number,
      `/PatternType 1/PaintType 1/TilingType 1/BBox[0 0 ${w} ${h}]/XStep ${w}/YStep ${h}/Matrix[${matrixText(matrix)}]/Resources ${this.#resources} 0 R`,
      form.operators.join('\n')
    );
    return this.name('Pattern', `${number} 0 R`);
  }

  /** @param m the unit square, y up → page */
  picture(picture: Decoded, m: Matrix, out: Stream): void {
    const number = this.#pictures.get(picture) ?? addPicture(this.#objects, picture);
    this.#pictures.set(picture, number);
    out.operators.push(`q ${matrixText(m)} cm /${this.name('XObject', `${number} 0 R`)} Do Q`);
    out.paints(mapped({ x0: 0, y0: 0, x1: 1, y1: 1 }, m));
  }

  spot(name: string): string {
    const tint = '<</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[0 1 0 0]/N 1>>';
    return this.name('ColorSpace', `[/Separation ${pdfName(name)}/DeviceCMYK ${tint}]`);
  }
}

const n = pdfNumber;
export const matrixText = (m: Matrix) => m.map((v) => n(v, 7)).join(' ');
/** 0…1 of a box → the box. */
export const boxMatrix = (e: Extent): Matrix =>
  isNothing(e) ? [1, 0, 0, 1, 0, 0] : [e.x1 - e.x0 || 1e-9, 0, 0, e.y1 - e.y0 || 1e-9, e.x0, e.y0];

/** The unit square that PDF draws pictures in, y up → a place, y down. */
export const unitSquare = ({ x, y, width, height }: Box): Matrix => [width, 0, 0, -height, x, y + height];

export const placeOf = (node: Plain): Box => ({
  x: number(node, 'x'),
  y: number(node, 'y'),
  width: number(node, 'width'),
  height: number(node, 'height')
});
export const asPlace = (e: Extent): Box => ({ x: e.x0, y: e.y0, width: e.x1 - e.x0, height: e.y1 - e.y0 });
export const grown = (e: Extent, by: number): Extent => ({ x0: e.x0 - by, y0: e.y0 - by, x1: e.x1 + by, y1: e.y1 + by });

/** A box that a path lies in, control points and all: quick, and at most a little too large. */
export function controlExtent(path: Path): Extent {
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

export function pathText(path: Path, decimals = 4): string {
  const p = ({ x, y }: { x: number; y: number }) => `${n(x, decimals)} ${n(y, decimals)}`;
  const words: string[] = [];
  for (const s of path) {
    if (s.kind === 'close') words.push('h');
    else if (s.kind === 'curve') words.push(`${p(s.c1)} ${p(s.c2)} ${p(s.to)} c`);
    else words.push(`${p(s.to)} ${s.kind === 'move' ? 'm' : 'l'}`);
  }
  return words.join(' ');
}
