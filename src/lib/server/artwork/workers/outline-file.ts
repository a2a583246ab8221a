import { readFileSync } from 'node:fs';
import { Helper } from 'dxf';
import { ArtworkError } from '$core/artwork/facts';
import type { Polyline } from '$core/geometry/path';
import { OutlineError, thingOf } from '$core/layout/outline-file';
import type { Thing } from '$core/layout/jig';
import { Problem } from '../../platform/problem';
import { svgOutlines } from './svg';

export interface OutlineRequest {
  path: string;
  /** As it is called, for its ending. */
  name: string;
}

/** mm of a unit of a DXF drawing, by what its header says; a drawing that says nothing is in mm. */
const DXF_UNITS: Record<number, number> = { 0: 1, 1: 25.4, 2: 304.8, 4: 1, 5: 10, 6: 1000 };
const MOST_DXF_BYTES = 20e6;

/** Reads the outline of a thing from an SVG or DXF drawing. @throws Problem for what is none, with why */
export function readOutline({ path, name }: OutlineRequest): Thing {
  const bytes = readFileSync(path);
  try {
    return thingOf(/\.dxf$/i.test(name) ? dxfLines(bytes) : svgOutlines(bytes));
  } catch (error) {
    if (error instanceof OutlineError || error instanceof ArtworkError) throw new Problem(422, `${name}: ${error.message}`);
    throw error;
  }
}

function dxfLines(bytes: Uint8Array): Polyline[] {
  if (bytes.length > MOST_DXF_BYTES) throw new OutlineError('It is larger than 20 MB, the most that is taken of an outline.');
  const text = new TextDecoder('latin1').decode(bytes);
  if (text.startsWith('AutoCAD Binary')) throw new OutlineError('It is a binary DXF. Save it as a DXF of text.');
  let helper: Helper;
  try {
    helper = new Helper(text);
    const scale = DXF_UNITS[helper.parsed.header.insUnits ?? 0];
    if (scale === undefined) throw new OutlineError('Its units are none that is known here. Save it in millimetres.');
    // Up is up in DXF, and down on the bed.
    return helper.toPolylines().polylines.map(({ vertices }) => ({
      points: vertices.map(([x, y]) => ({ x: x * scale, y: -y * scale })),
      closed: false
    }));
  } catch (error) {
    if (error instanceof OutlineError) throw error;
    throw new OutlineError('It is no DXF that can be read. Ask for it to be saved anew.');
  }
}
