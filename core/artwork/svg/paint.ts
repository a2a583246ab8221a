import { chain, IDENTITY, invert, scaling, translation, type Matrix } from '../../geometry/matrix';
import { rectanglePath, type Path } from '../../geometry/path';
import { pdfNumber } from '../pdf-objects';
import { asPlace, boxMatrix, type Canvas, matrixText, pathText, placeOf, Stream } from './canvas';
import { mapped, nothing, objectBox, type Extent } from './extent';
import { fitted, readViewBox } from './fit';
import type { Box } from '../../geometry/box';
import { readColour, shadingOf, stopsOf, type Stop } from './gradient';
import { matrixOf, number, referred, type Plain } from './plain-tree';

/** What shapes are filled and stroked with: colours, gradients, patterns, and the spot colour of a role. */

/** What an element is for: it is drawn in the spot colour of that name, a line for a tool as an outline. */
export interface SvgRole {
  name: string;
  tool: boolean;
}

export type Mode =
  /** Screen colours. */
  | 'colour'
  /** Lightness as SVG's masks reckon it. */
  | 'luma'
  /** Coverage alone. */
  | 'white';

export interface Context {
  definitions: ReadonlyMap<string, Plain>;
  mode: Mode;
  role: SvgRole | undefined;
  /** Leaves out what has no role: pixels show that already. */
  onlyRoles: boolean;
}

/** Tiles of a pattern, more than which are a tint and no pattern. */
const MOST_TILES = 250_000;
/** Objects of all tiles together, up to which they are laid one by one: the interpreter puts tiles on whole pixels. */
const MOST_LAID = 20_000;

const n = pdfNumber;
const luma = ([r, g, b]: readonly [number, number, number]) => 0.2125 * r + 0.7154 * g + 0.0721 * b;

interface Tiling {
  /** In the coordinates of the pattern. */
  tile: Box;
  /** A tile's own coordinates → page. */
  matrix: Matrix;
  /** What is in a tile → the tile's own coordinates. */
  content: Matrix;
  columns: readonly [number, number];
  rows: readonly [number, number];
  count: number;
}

export class Paints {
  readonly #canvas: Canvas;
  readonly #node: (node: Plain, m: Matrix, out: Stream, context: Context) => void;

  /** @param node draws what is in a tile */
  constructor(canvas: Canvas, node: (node: Plain, m: Matrix, out: Stream, context: Context) => void) {
    this.#canvas = canvas;
    this.#node = node;
  }

  /** How to set a paint, and the graphics state that it needs; nothing where there is no paint. */
  paint(
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
    const state = (words: string) => (words ? `/${this.#canvas.name('ExtGState', `<<${words}>>`)} gs` : '');
    if (context.role) return { operator: `/${this.#canvas.spot(context.role.name)} ${space} ${n(opacity)} ${letter}`, state: '' };
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
    return (
      made && this.#canvas.name('Pattern', `<</PatternType 2/Matrix[${matrixText(made.matrix)}]/Shading<<${made.shading}>>>>`)
    );
  }

  /** The opacity of a gradient's stops as a mask over an area. */
  #fade(server: Plain, toPage: Matrix, area: Extent): string {
    const form = new Stream(area);
    const name = this.#gradient(server, toPage, area, (stop) => [stop.opacity]);
    form.operators.push(`/Pattern cs /${name} scn`, pathText(rectanglePath(asPlace(area))), 'f');
    form.paints(area);
    return this.#canvas.softMask(form);
  }

  /** How the tiles of a pattern lie over an area; nothing where they have no size or are too many to be seen. */
  #tiling(server: Plain, box: Extent, m: Matrix, area: Extent): Tiling | undefined {
    const [width, height] = [box.x1 - box.x0, box.y1 - box.y0];
    const given = placeOf(server);
    const tile: Box =
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
    const own: Box = { x: 0, y: 0, width: tile.width, height: tile.height };
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
    return this.#canvas.tiled(form, tiling.tile, tiling.matrix);
  }

  /** Fills a path with a pattern tile by tile, at their exact places. @returns whether there were few enough to do so */
  layTiles(server: Plain, node: Plain, path: Path, m: Matrix, area: Extent, out: Stream, context: Context): boolean {
    const tiling = this.#tiling(server, objectBox(node), m, area);
    if (!tiling || tiling.count * (1 + sizeOf(server)) > MOST_LAID) return false;
    const { tile, matrix, columns, rows } = tiling;
    const tileStream = this.#tileStream(tiling, server, context);
    tileStream.extent = { x0: 0, y0: 0, x1: tile.width, y1: tile.height };
    const name = this.#canvas.name('XObject', `${this.#canvas.form(tileStream, '', 0)} 0 R`);
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
    this.#canvas.place(form, out, [opacity < 1 && `/ca ${n(opacity)}/CA ${n(opacity)}`]);
    return true;
  }
}

/** Nodes below a node. */
const sizeOf = (node: Plain): number => node.kids.reduce((sum, kid) => sum + 1 + sizeOf(kid), 0);
