import { describe, expect, it } from 'vitest';
import { rawPdf, rawStream } from '../../tests/made/pdf';
import { openBytes } from '../../tests/made/opened';
import { evenSides } from '../geometry/box';
import { makeMarkedDrawing, type Marks } from './marked';
import { drawPiece } from './piece';
import { wholePage } from './preparation';

/** What a page marks, in shares of all, seen on a row of its pixels: 40 × 10 mm, ten pixels a millimetre. */

const PT = 72 / 25.4;
const [W, H] = [40, 10];

function marked(content: string, resources: string, marks: Partial<Marks> = {}): (xMm: number) => number {
  const document = openBytes(
    rawPdf([
      '<</Type/Catalog/Pages 2 0 R/OCProperties<</OCGs[5 0 R]/D<</ON[5 0 R]>>>>>>',
      '<</Type/Pages/Kids[3 0 R]/Count 1>>',
      `<</Type/Page/Parent 2 0 R/MediaBox[0 0 ${W * PT} ${H * PT}]/Contents 4 0 R/Resources<<${resources}/Properties<</L 5 0 R>>>>>>`,
      rawStream('', `${PT} 0 0 ${PT} 0 0 cm ${content}`),
      '<</Type/OCG/Name(Gloss)>>',
      rawStream('/FunctionType 4/Domain[0 1 0 1]/Range[0 1 0 1 0 1 0 1]', '{0 0}')
    ])
  );
  const size = { widthMm: W, heightMm: H };
  const drawing = makeMarkedDrawing(document, 0, { spots: [], layers: [], ...marks }, { spots: [], layers: [] });
  const piece = { ...size, bleed: evenSides(0), prepare: wholePage(size) };
  const pixmap = drawPiece(piece, drawing, { x: 0, y: 0, width: W * 10, height: H * 10, turn: 0 }, 50, 51);
  const grey = Uint8Array.from(pixmap.getPixels());
  pixmap.destroy();
  drawing.list.destroy();
  document.destroy();
  return (xMm) => 1 - grey[Math.round(xMm * 10)]! / 255;
}

const ramp = (from: string, to: string) => `<</FunctionType 2/Domain[0 1]/C0[${from}]/C1[${to}]/N 1>>`;
const spot = (name: string) => `[/Separation/${name}/DeviceCMYK ${ramp('0 0 0 0', '0 0 0 0.2')}]`;
const along = (space: string, from: string, to: string) =>
  `<</ShadingType 2/ColorSpace ${space}/Coords[0 0 ${W} 0]/Function ${ramp(from, to)}/Extend[true true]>>`;
/** Tints of two names; how they look on screen does not matter here. */
const TWO = '[/DeviceN[/Gold/White]/DeviceCMYK 6 0 R]';

describe('gradients that a page marks', () => {
  it.each([
    ['in a pattern', `/Pattern cs /P scn 0 0 ${W} ${H} re f`],
    ['drawn by themselves', '/A sh']
  ])('count as much as there is of the spot colour in each place, %s', (_, content) => {
    const shading = along(spot('White'), '0', '1');
    const at = marked(
      content,
      `/Shading<</A ${shading}>>/Pattern<</P <</PatternType 2/Matrix[${PT} 0 0 ${PT} 0 0]/Shading ${shading}>>>>`,
      { spots: ['White'] }
    );
    for (const x of [2, 10, 20, 30, 38]) expect(at(x)).toBeCloseTo(x / W, 1.7);
  });

  it('are not those of other colours, which neither add to them nor hide them', () => {
    const at = marked(
      '/A sh /B sh /C sh',
      `/Shading<</A ${along(spot('White'), '0', '1')}/B ${along('/DeviceRGB', '0 0 0', '0 0 0')}/C ${along(spot('Gold'), '1', '1')}>>`,
      { spots: ['White'] }
    );
    for (const x of [4, 20, 36]) expect(at(x)).toBeCloseTo(x / W, 1.7);
  });

  it('of several inks count by the one that is marked, or the most of them', () => {
    const of = (spots: string[]) => {
      const at = marked('/A sh', `/Shading<</A ${along(TWO, '0.2 0', '0.2 1')}>>`, { spots });
      return [4, 20, 36].map(at);
    };
    const near = (values: number[], wanted: number[]) =>
      values.forEach((v, i) => expect(Math.abs(v - wanted[i]!), values.join()).toBeLessThan(0.02));
    near(of(['White']), [0.1, 0.5, 0.9]);
    near(of(['Gold']), [0.2, 0.2, 0.2]);
    near(of(['Gold', 'White']), [0.2, 0.5, 0.9]);
  });

  it('stand in full on a marked layer, whatever their colours', () => {
    const at = marked(
      `/OC /L BDC q 0 0 20 ${H} re W n /B sh Q EMC q 30 0 10 ${H} re W n /A sh Q`,
      `/Shading<</A ${along(spot('White'), '0', '1')}/B ${along('/DeviceRGB', '1 0 0', '0 0 1')}>>`,
      { spots: ['White'], layers: ['Gloss'] }
    );
    expect([at(5), at(15), at(25)]).toEqual([1, 1, 0]);
    expect(at(35)).toBeCloseTo(35 / W, 1.7);
  });
});
