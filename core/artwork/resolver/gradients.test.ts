import { evenSides } from '../../geometry/box';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { madePress } from '../../../tests/made/press';
import { rawPdf, rawStream } from '../../../tests/made/pdf';
import { deltaE00 } from '../../colour/lab';
import { openEngine } from '../../colour/lcms';
import { makeDrawing } from '../drawing';
import { drawingChoices, drawPiece } from '../piece';
import { wholePage, type Preparation } from '../preparation';
import { openBytes } from '../../../tests/made/opened';

const { inks } = madePress();
const PT = 72 / 25.4;

/** Rows of a page in inks. @returns the inks of a pixel, 0…255 */
function drawn(
  page: { width: number; height: number; content: string; resources: string; more?: string[] },
  perMm: number,
  rows: [number, number],
  over: Partial<Preparation> = {}
) {
  const { width, height, content, resources, more = [] } = page;
  const bytes = rawPdf([
    '<</Type/Catalog/Pages 2 0 R>>',
    '<</Type/Pages/Kids[3 0 R]/Count 1>>',
    `<</Type/Page/Parent 2 0 R/MediaBox[0 0 ${width * PT} ${height * PT}]/Contents 4 0 R/Resources<<${resources}>>>>`,
    rawStream('', content),
    ...more
  ]);
  const document = openBytes(bytes);
  const size = { widthMm: width, heightMm: height };
  const piece = { ...size, bleed: evenSides(0), prepare: { ...wholePage(size), ...over } };
  const drawing = makeDrawing(document, 0, drawingChoices(piece), inks);
  const grid = { x: 0, y: 0, width: width * perMm, height: height * perMm, turn: 0 };
  const pixmap = drawPiece(piece, drawing, grid, ...rows);
  const pixels = Uint8Array.from(pixmap.getPixels());
  pixmap.destroy();
  document.destroy();
  return (x: number, y = rows[0]) => [...pixels.subarray(((y - rows[0]) * grid.width + x) * 4).subarray(0, 4)];
}

/** Of a row of pixels: how many differ from the one before, and the largest difference that the eye sees, ΔE00. */
async function stepsOf(at: (x: number) => number[], width: number): Promise<{ worst: number; steps: number }> {
  const engine = await openEngine();
  const lab = engine.deviceToLab(inks.profile!, 'CMYK', 'relative');
  const labOf = (values: number[]) => lab(values.map((v) => v / 255) as [number, number, number, number]);
  let before = at(1);
  let seen = labOf(before);
  let steps = 0;
  let worst = 0;
  for (let x = 2; x < width - 1; x++) {
    const now = at(x);
    if (now.every((v, i) => v === before[i])) continue;
    const colour = labOf(now);
    worst = Math.max(worst, deltaE00(seen, colour));
    [before, seen] = [now, colour];
    steps++;
  }
  return { worst, steps };
}

const between = (from: string, to: string) => `<</FunctionType 2/Domain[0 1]/C0[${from}]/C1[${to}]/N 1>>`;

describe('a gradient over two metres', () => {
  const rainbow = `<</FunctionType 3/Domain[0 1]/Bounds[0.25 0.5 0.75]/Encode[0 1 0 1 0 1 0 1]/Functions[${between('1 0 0', '1 1 0')}${between('1 1 0', '0 1 0.5')}${between('0 1 0.5', '0 0 1')}${between('0 0 1', '0 0 0')}]>>`;
  it.each([
    ['of one ink', '/DeviceCMYK', between('0 0 0 0', '0 0 0 1'), 250],
    ['of four inks', '/DeviceCMYK', between('0.1 0.6 0 0', '1 0 0.8 0.2'), 500],
    ['of grey', '/DeviceGray', between('0', '1'), 500],
    ['of many colours', '/DeviceRGB', rainbow, 1000]
  ])('%s has no step that is seen', async (_name, space, made, least) => {
    const width = 2000;
    const shading = `<</ShadingType 2/ColorSpace ${space}/Coords[0 0 ${width * PT} 0]/Function ${made}>>`;
    const at = drawn({ width, height: 20, content: '/A sh', resources: `/Shading<</A ${shading}>>` }, 14, [100, 101]);
    const { worst, steps } = await stepsOf(at, width * 14);
    expect(worst).toBeLessThan(0.5);
    expect(steps).toBeGreaterThan(least);
  });
});

describe('a gradient along a line', () => {
  const SIDE = 40;
  const place = fc.double({ min: 0, max: SIDE, noNaN: true });

  it('lies where it should, whichever way it goes, alone or in a pattern that is turned and scaled', () => {
    const black = between('0 0 0 0', '0 0 0 1');
    fc.assert(
      fc.property(
        fc.tuple(place, place, place, place),
        fc.tuple(fc.boolean(), fc.boolean()),
        fc.constantFrom('sh', 'pattern'),
        fc.double({ min: 0.02, max: 3, noNaN: true }),
        ([x0, y0, x1, y1], [before, after], how, scale) => {
          const length = Math.hypot(x1 - x0, y1 - y0);
          fc.pre(length > 4);
          const unit = how === 'sh' ? PT : scale;
          const k = PT / unit;
          const coords = [x0, y0, x1, y1].map((v) => v * k).join(' ');
          const shading = `<</ShadingType 2/ColorSpace/DeviceCMYK/Coords[${coords}]/Extend[${before} ${after}]/Function ${black}>>`;
          const page =
            how === 'sh'
              ? {
                  content: `${unit} 0 0 ${unit} 0 0 cm /A sh`,
                  resources: `/Shading<</A ${shading.replace(coords, [x0, y0, x1, y1].join(' '))}>>`
                }
              : {
                  content: `/Pattern cs /P scn 0 0 ${SIDE * PT} ${SIDE * PT} re f`,
                  resources: `/Pattern<</P <</PatternType 2/Matrix[${unit} 0 0 ${unit} 0 0]/Shading ${shading}>>>>`
                };
          const at = drawn({ width: SIDE, height: SIDE, ...page }, 2, [0, SIDE * 2]);
          for (let i = 1; i < 8; i++)
            for (let j = 1; j < 8; j++) {
              const [px, py] = [i * 10, j * 10];
              const [x, y] = [(px + 0.5) / 2, SIDE - (py + 0.5) / 2];
              const t = ((x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)) / length ** 2;
              // Half a pixel is this much of the way.
              const slack = 0.6 / length;
              if (Math.min(Math.abs(t), Math.abs(t - 1)) < slack) continue;
              const wanted = t < 0 ? 0 : t > 1 ? (after ? 255 : 0) : t * 255;
              expect(Math.abs(at(px, py)[3]! - wanted), `${x}, ${y} at ${t}`).toBeLessThanOrEqual(3 + slack * 255);
            }
        }
      ),
      { numRuns: 40 }
    );
  });

  it('is opacity in a soft mask: none at its black end, all at its white, in a straight line between', () => {
    const mask = rawStream(
      `/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE * PT} ${SIDE * PT}]/Group<</S/Transparency/CS/DeviceGray>>/Resources<</Shading<</A <</ShadingType 2/ColorSpace/DeviceGray/Coords[0 0 ${SIDE * PT} 0]/Function ${between('0', '1')}>>>>>>`,
      '/A sh'
    );
    const at = drawn(
      {
        width: SIDE,
        height: SIDE,
        content: `/M gs 0 0 0 1 k 0 0 ${SIDE * PT} ${SIDE * PT} re f`,
        resources: '/ExtGState<</M <</SMask<</S/Luminosity/G 5 0 R>>>>>>',
        more: [mask]
      },
      2,
      [20, 21]
    );
    for (const x of [0, 20, 40, 60, 79]) expect(Math.abs(at(x)[3]! - ((x + 0.5) / 80) * 255)).toBeLessThanOrEqual(4);
  });

  it('is opacity there also where the page has the same resources', () => {
    const shared = `<</Shading<</A <</ShadingType 2/ColorSpace/DeviceGray/Coords[0 0 ${SIDE * PT} 0]/Function ${between('0', '1')}>>>>>>`;
    const mask = rawStream(
      `/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE * PT} ${SIDE * PT}]/Group<</S/Transparency/CS/DeviceGray>>/Resources 6 0 R`,
      '/A sh'
    );
    const form = rawStream(`/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE * PT} ${SIDE * PT}]/Resources 6 0 R`, '/A sh');
    const at = drawn(
      {
        width: SIDE,
        height: SIDE,
        content: `q /F Do Q 1 g 0 0 ${SIDE * PT} ${SIDE * PT} re f /M gs 0 0 0 1 k 0 0 ${SIDE * PT} ${SIDE * PT} re f`,
        resources: '/ExtGState<</M <</SMask<</S/Luminosity/G 5 0 R>>>>>>/XObject<</F 7 0 R>>',
        more: [mask, shared, form]
      },
      2,
      [20, 21]
    );
    for (const x of [0, 40, 79]) expect(Math.abs(at(x)[3]! - ((x + 0.5) / 80) * 255)).toBeLessThanOrEqual(4);
  });

  it('is settled once, whatever shares it', () => {
    const shading = `<</ShadingType 3/ColorSpace/DeviceGray/Coords[${20 * PT} ${20 * PT} 0 ${20 * PT} ${20 * PT} ${20 * PT}]/Function ${between('0', '1')}/Extend[true true]>>`;
    const form = rawStream(`/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE * PT} ${SIDE * PT}]`, '/A sh');
    const page = { width: SIDE, height: SIDE, resources: `/Shading<</A ${shading}>>/XObject<</F 5 0 R>>`, more: [form] };
    const [alone, shared] = ['/A sh', '/F Do'].map((content) =>
      drawn({ ...page, content }, 1, [0, SIDE], { blackPictures: true })
    );
    for (const x of [2, 9, 15, 20]) expect(shared!(x, 20)).toEqual(alone!(x, 20));
    expect(alone!(20, 20)[3]).toBeGreaterThan(240);
    expect(alone!(2, 20)[3]).toBeLessThan(40);
  });

  it('keeps its own limits, and what lies behind it', () => {
    const shading = `<</ShadingType 2/ColorSpace/DeviceCMYK/Coords[${10 * PT} 0 ${30 * PT} 0]/Function ${between('0 0 0 0.5', '0 0 0 0.5')}/Background[0 0 0 1]/BBox[0 0 ${SIDE * PT} ${20 * PT}]>>`;
    const at = drawn(
      {
        width: SIDE,
        height: SIDE,
        content: `/Pattern cs /P scn 0 0 ${SIDE * PT} ${SIDE * PT} re f`,
        resources: `/Pattern<</P <</PatternType 2/Shading ${shading}>>>>`
      },
      1,
      [0, SIDE]
    );
    expect(Math.abs(at(20, 30)[3]! - 128)).toBeLessThanOrEqual(1);
    expect(at(4, 30)).toEqual([0, 0, 0, 255]);
    expect(at(20, 10)).toEqual([0, 0, 0, 0]);
  });
});

describe('a gradient between circles', () => {
  const SIDE = 40;
  const black = between('0 0 0 0', '0 0 0 1');

  /** Of the circles through a place the last. */
  function shareAt(x: number, y: number, [x0, y0, r0, x1, y1, r1]: [number, number, number, number, number, number]): number {
    const [dx, dy, dr] = [x1 - x0, y1 - y0, r1 - r0];
    const a = dx * dx + dy * dy - dr * dr;
    const b = (x - x0) * dx + (y - y0) * dy + r0 * dr;
    const c = (x - x0) ** 2 + (y - y0) ** 2 - r0 * r0;
    const root = Math.sqrt(Math.max(0, b * b - a * c));
    const both = [(b + root) / a, (b - root) / a].filter((share) => r0 + share * dr >= -1e-9);
    return both.length > 0 ? Math.max(...both) : NaN;
  }

  it('lies where it should, inside out and outside in, round one middle or two', () => {
    fc.assert(
      fc.property(
        fc.tuple(fc.integer({ min: 10, max: 30 }), fc.integer({ min: 10, max: 30 })),
        fc.tuple(fc.integer({ min: 0, max: 4 }), fc.integer({ min: 10, max: 18 })),
        fc.double({ min: 0, max: 0.8, noNaN: true }),
        fc.tuple(fc.boolean(), fc.boolean(), fc.boolean()),
        fc.constantFrom('sh', 'pattern'),
        ([x, y], [small, large], apart, [before, after, inwards], how) => {
          const off = apart * (large - small);
          const inner = [x + off, y, small] as const;
          const outer = [x, y, large] as const;
          const circles = (inwards ? [...outer, ...inner] : [...inner, ...outer]) as [
            number,
            number,
            number,
            number,
            number,
            number
          ];
          const unit = how === 'sh' ? 1 : PT / 3;
          const shading = `<</ShadingType 3/ColorSpace/DeviceCMYK/Coords[${circles.map((v) => (v * (how === 'sh' ? 1 : PT)) / unit).join(' ')}]/Extend[${before} ${after}]/Function ${black}>>`;
          const page =
            how === 'sh'
              ? { content: `${PT} 0 0 ${PT} 0 0 cm /A sh`, resources: `/Shading<</A ${shading}>>` }
              : {
                  content: `/Pattern cs /P scn 0 0 ${SIDE * PT} ${SIDE * PT} re f`,
                  resources: `/Pattern<</P <</PatternType 2/Matrix[${unit} 0 0 ${unit} 0 0]/Shading ${shading}>>>>`
                };
          const at = drawn({ width: SIDE, height: SIDE, ...page }, 3, [0, SIDE * 3]);
          for (let i = 1; i < 12; i++)
            for (let j = 1; j < 12; j++) {
              const [px, py] = [i * 10, j * 10];
              const [mx, my] = [(px + 0.5) / 3, SIDE - (py + 0.5) / 3];
              const share = shareAt(mx, my, circles);
              // How far a pixel is of the way, where circles lie closest to each other.
              const slack = 0.4 / ((large - small) * (1 - apart));
              if (!Number.isFinite(share) || Math.min(Math.abs(share), Math.abs(share - 1)) < slack) continue;
              const wanted = share < 0 ? 0 : share > 1 ? (after ? 255 : 0) : share * 255;
              expect(Math.abs(at(px, py)[3]! - wanted), `${mx}, ${my} at ${share} of ${circles.join()}`).toBeLessThanOrEqual(
                4 + slack * 255
              );
            }
        }
      ),
      { numRuns: 40 }
    );
  });

  it('over two metres has no step that is seen', async () => {
    const width = 2000;
    const shading = `<</ShadingType 3/ColorSpace/DeviceCMYK/Coords[0 ${10 * PT} 0 0 ${10 * PT} ${width * PT}]/Function ${between('0.1 0.6 0 0', '1 0 0.8 0.2')}>>`;
    const at = drawn({ width, height: 20, content: '/A sh', resources: `/Shading<</A ${shading}>>` }, 14, [140, 141]);
    const { worst, steps } = await stepsOf(at, width * 14);
    expect(worst).toBeLessThan(0.5);
    expect(steps).toBeGreaterThan(500);
  });

  it('leaves cones, which neither circle holds, as the interpreter draws them', () => {
    const shading = `<</ShadingType 3/ColorSpace/DeviceCMYK/Coords[${8 * PT} ${20 * PT} ${3 * PT} ${30 * PT} ${20 * PT} ${6 * PT}]/Function ${black}>>`;
    const at = drawn({ width: SIDE, height: SIDE, content: '/A sh', resources: `/Shading<</A ${shading}>>` }, 2, [0, 80]);
    expect(at(30, 40)[3]).toBeGreaterThan(60);
    expect(at(10, 70)).toEqual([0, 0, 0, 0]);
  });
});
