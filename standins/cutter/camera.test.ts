import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { MARK_SHAPES, type MarkShape } from '$core/marks/print-list';
import { findMarks } from './camera';

const DPI = 150;
const PX = DPI / 25.4;
const PLACES = { disc: [20, 20], square: [50, 22], ring: [22, 50], cross: [52, 51] } as const;

/** One mark of each kind, 6 mm, on a sheet that lies a little askew. */
async function sheet() {
  const at = ([x, y]: readonly [number, number], body: string) => `<g transform="translate(${x} ${y})">${body}</g>`;
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${72 * PX}" height="${72 * PX}" viewBox="0 0 72 72"><rect width="72" height="72" fill="#fff"/>
    <g transform="rotate(2)">${at(PLACES.disc, '<circle r="3"/>')}${at(PLACES.square, '<rect x="-3" y="-3" width="6" height="6"/>')}
    ${at(PLACES.ring, '<circle r="2.25" fill="none" stroke="#000" stroke-width="1.5"/>')}
    ${at(PLACES.cross, '<path d="M-3-.75h6v1.5h-6zM-.75-3h1.5v6h-1.5z"/>')}</g></svg>`;
  const { data, info } = await sharp(Buffer.from(svg)).greyscale().raw().toBuffer({ resolveWithObject: true });
  return { pixels: new Uint8Array(data), width: info.width, height: info.height, dpi: DPI };
}

describe('the camera', () => {
  it('finds marks of the kind that it looks for, and only those, to a tenth of a millimetre', async () => {
    const image = await sheet();
    const turn = (2 * Math.PI) / 180;
    for (const shape of MARK_SHAPES satisfies readonly MarkShape[]) {
      const [x, y] = PLACES[shape];
      const truth = { x: x * Math.cos(turn) - y * Math.sin(turn), y: x * Math.sin(turn) + y * Math.cos(turn) };
      const found = findMarks(image, 6, shape);
      expect([shape, found.length]).toEqual([shape, 1]);
      expect(Math.hypot(found[0]!.x - truth.x, found[0]!.y - truth.y)).toBeLessThan(0.1);
    }
    expect(findMarks(image, 12, 'disc')).toEqual([]);
  });
});
