import * as mupdf from '../interpreter/interpreter';
import { filled, intersect, strokeArea } from '../geometry/areas';
import { apply, chain, type Matrix, type Point } from '../geometry/matrix';
import { flatten, signedArea, transformPath, type Path } from '../geometry/path';
import { MM_PER_POINT } from '../units/length';
import { ArtworkError } from './facts';
import { showLayers } from './layers';
import { finishedBox, pageBoxes, runPage, readPath, without, type DrawingCalls, type LeftOut } from './page';
import { paintOf } from './resolver/asked';

const FLAT_MM = 0.01;
/** More shapes than this take too long to unite. */
export const MOST_SHAPES = 20_000;

/**
 * The area that everything drawn on a page covers, white left out: fills, strokes, lettering, pictures, cut to their clips.
 *
 * @returns rings in mm from the trim box's corner, outer ones clockwise, holes the other way
 * @throws ArtworkError when there are too many shapes
 */
export function pageOutlines(document: mupdf.PDFDocument, index: number, leftOut: LeftOut): Point[][] {
  showLayers(document, index, leftOut.layers);
  const page = document.loadPage(index);
  const finished = finishedBox(pageBoxes(page));
  const toMm: Matrix = [MM_PER_POINT, 0, 0, MM_PER_POINT, -finished[0] * MM_PER_POINT, -finished[1] * MM_PER_POINT];
  const parts: Point[][] = [];
  const clips: (Point[][] | undefined)[] = [];
  let shapes = 0;
  const ringsOf = (path: Path) => flatten(path, FLAT_MM).map((line) => line.points);
  const lines = (path: mupdf.Path, ctm: Matrix) => readPath(path, chain(ctm, toMm));
  const clipped = (rings: Point[][]) => {
    const clip = clips.at(-1);
    return clip ? intersect(rings, clip) : rings;
  };
  const add = (rings: Point[][]) => {
    if (++shapes > MOST_SHAPES)
      throw new ArtworkError(
        `The artwork has more than ${MOST_SHAPES.toLocaleString('en-GB')} shapes. Find the outline from its picture instead.`
      );
    for (const ring of clipped(rings)) parts.push(ring);
  };
  const square = (ctm: Matrix): Point[] => {
    const ring = [
      { x: 0, y: 0 },
      { x: 1, y: 0 },
      { x: 1, y: 1 },
      { x: 0, y: 1 }
    ].map((p) => apply(chain(ctm, toMm), p));
    // A mirrored picture covers what it lies on like any other, and takes nothing away from it.
    return signedArea(ring) < 0 ? ring.reverse() : ring;
  };
  const strokeRings = (path: mupdf.Path, stroke: mupdf.StrokeState, ctm: Matrix) => {
    const width = stroke.getLineWidth() * Math.sqrt(Math.abs(ctm[0] * ctm[3] - ctm[1] * ctm[2])) * MM_PER_POINT;
    return strokeArea(flatten(lines(path, ctm), FLAT_MM), Math.max(width, 0.05));
  };
  const textRings = (text: mupdf.Text, ctm: Matrix) =>
    filled(
      glyphOutlines(text, ctm).flatMap((glyph) => ringsOf(transformPath(glyph, toMm))),
      'nonzero'
    );
  const keepClip = () => clips.push(clips.at(-1));

  const calls: Partial<DrawingCalls> = {
    fillPath: (path, evenOdd, ctm, space, color) => {
      if (paintOf(space, color) !== 'white') add(filled(ringsOf(lines(path, ctm)), evenOdd ? 'evenodd' : 'nonzero'));
    },
    strokePath: (path, stroke, ctm, space, color) => {
      if (paintOf(space, color) !== 'white') add(strokeRings(path, stroke, ctm));
    },
    fillText: (text, ctm, space, color) => {
      if (paintOf(space, color) !== 'white') add(textRings(text, ctm));
    },
    fillShade: (shade, ctm) => {
      const [x0, y0, x1, y1] = mupdf.Rect.transform(shade.getBounds(), ctm);
      const clip = clips.at(-1);
      if (clip) for (const ring of clip) parts.push(ring);
      else if (Number.isFinite(x0 + y0 + x1 + y1)) add([square([x1 - x0, 0, 0, y1 - y0, x0, y0])]);
    },
    fillImage: (_image, ctm) => add([square(ctm)]),
    fillImageMask: (_image, ctm) => add([square(ctm)]),
    clipPath: (path, evenOdd, ctm) => {
      clips.push(clipped(filled(ringsOf(lines(path, ctm)), evenOdd ? 'evenodd' : 'nonzero')));
    },
    clipStrokePath: (path, stroke, ctm) => void clips.push(clipped(strokeRings(path, stroke, ctm))),
    clipText: (text, ctm) => void clips.push(clipped(textRings(text, ctm))),
    clipStrokeText: keepClip,
    clipImageMask: keepClip,
    beginMask: keepClip,
    popClip: () => void clips.pop(),
    beginLayer: () => undefined,
    endLayer: () => undefined
  };
  const device = new mupdf.Device(without(calls as DrawingCalls, leftOut));
  try {
    runPage(page, device, mupdf.Matrix.identity, leftOut);
    device.close();
  } finally {
    device.destroy();
    page.destroy();
  }
  return filled(parts, 'nonzero');
}

/** The outlines of lettering, which the interpreter gives only by way of writing SVG. */
function glyphOutlines(text: mupdf.Text, ctm: Matrix): Path[] {
  const buffer = new mupdf.Buffer();
  const writer = new mupdf.DocumentWriter(buffer, 'svg', 'text=path');
  const device = writer.beginPage([0, 0, 1000, 1000]);
  device.fillText(text, ctm as mupdf.Matrix, mupdf.ColorSpace.DeviceGray, [0], 1);
  writer.endPage();
  writer.close();
  const svg = buffer.asString();
  buffer.destroy();
  const shapes = new Map([...svg.matchAll(/<path id="([^"]+)" d="([^"]*)"/g)].map(([, id = '', d = '']) => [id, readSvgPath(d)]));
  return [...svg.matchAll(/<use [^>]*xlink:href="#([^"]+)" transform="matrix\(([^)]*)\)"/g)].flatMap(
    ([, id = '', matrix = '']) => {
      const shape = shapes.get(id);
      const m = matrix.split(',').map(Number);
      return shape && m.length === 6 ? [transformPath(shape, m as unknown as Matrix)] : [];
    }
  );
}

/** Path data as the interpreter writes it: absolute, with H and V, letters left out where they repeat. */
function readSvgPath(d: string): Path {
  const path: Path = [];
  let at: Point = { x: 0, y: 0 };
  const take = (to: Point) => (at = to);
  for (const [, letter = '', rest = ''] of d.matchAll(/([A-Za-z])([^A-Za-z]*)/g)) {
    const n = (rest.match(/-?\d*\.?\d+(?:e[-+]?\d+)?/g) ?? []).map(Number);
    if (letter === 'Z') path.push({ kind: 'close' });
    else if (letter === 'H') for (const x of n) path.push({ kind: 'line', to: take({ x, y: at.y }) });
    else if (letter === 'V') for (const y of n) path.push({ kind: 'line', to: take({ x: at.x, y }) });
    else if (letter === 'C') {
      for (let i = 0; i + 5 < n.length; i += 6) {
        const p = (k: number): Point => ({ x: n[i + k]!, y: n[i + k + 1]! });
        path.push({ kind: 'curve', c1: p(0), c2: p(2), to: take(p(4)) });
      }
    } else {
      for (let i = 0; i + 1 < n.length; i += 2) {
        path.push({ kind: letter === 'M' && i === 0 ? 'move' : 'line', to: take({ x: n[i]!, y: n[i + 1]! }) });
      }
    }
  }
  return path;
}
