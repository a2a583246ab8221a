import { createRequire } from 'node:module';
import { Resvg } from '@resvg/resvg-js';
import { describe, expect, it } from 'vitest';
import * as mupdf from '../../interpreter/interpreter';
import { readPageFacts } from '../read-facts';
import { drawSvgPage } from './draw';
import type { SvgRole } from './paint';
import { readPlain } from './plain-tree';
import { svgSize, toPage } from './size';
import { openBytes } from '../../../tests/made/opened';

/** Each drawing is compared with the picture that the normaliser's own renderer makes of it. */

const font = createRequire(import.meta.url).resolve('@expo-google-fonts/arimo/400Regular/Arimo_400Regular.ttf');
const WIDTH = 240;

const svg = (body: string, attributes = 'width="120" height="80" viewBox="0 0 120 80"') =>
  `<svg xmlns="http://www.w3.org/2000/svg" ${attributes}>${body}</svg>`;

function pdfOf(text: string, roles = new Map<string, SvgRole>()): Uint8Array {
  const options = { font: { loadSystemFonts: false, fontFiles: [font], defaultFontFamily: 'Arimo' } };
  const root = Object.fromEntries(
    [...(/<svg([^>]*)>/.exec(text)?.[1] ?? '').matchAll(/([\w-]+)="([^"]*)"/g)].map(([, name, value]) => [name, value])
  );
  const size = svgSize(root as Record<string, string>, () => undefined);
  return drawSvgPage({
    drawing: readPlain(new Resvg(text, options).toString()),
    width: size.width,
    height: size.height,
    toPage: toPage(size),
    roles,
    pictures: new Map(),
    rasters: new Map()
  });
}

const open = (pdf: Uint8Array) => openBytes(pdf);

function ours(text: string): { pixels: Uint8Array; width: number; height: number } {
  const document = open(pdfOf(text));
  const page = document.loadPage(0);
  const [x0, y0, x1, y1] = page.getBounds();
  const scale = WIDTH / (x1 - x0);
  const pixmap = new mupdf.Pixmap(mupdf.ColorSpace.DeviceRGB, [0, 0, WIDTH, Math.round((y1 - y0) * scale)], false);
  pixmap.clear(255);
  const device = new mupdf.DrawDevice(mupdf.Matrix.identity, pixmap);
  page.run(device, [scale, 0, 0, scale, 0, 0]);
  device.close();
  const pixels = Uint8Array.from(pixmap.getPixels());
  const height = pixmap.getHeight();
  document.destroy();
  return { pixels, width: WIDTH, height };
}

function difference(text: string): number {
  const { pixels, width, height } = ours(text);
  const options = { font: { loadSystemFonts: false, fontFiles: [font], defaultFontFamily: 'Arimo' } };
  const theirs = new Resvg(text, { ...options, background: 'white', fitTo: { mode: 'width', value: width } }).render();
  expect([theirs.width, theirs.height]).toEqual([width, height]);
  // Each look at it is a copy.
  const wanted = theirs.pixels;
  let sum = 0;
  for (let i = 0; i < width * height; i++) for (let k = 0; k < 3; k++) sum += Math.abs(pixels[i * 3 + k]! - wanted[i * 4 + k]!);
  return sum / (width * height * 3);
}

const stops =
  '<stop offset=".1" stop-color="#c00"/><stop offset=".6" stop-color="#06c" stop-opacity=".4"/><stop offset=".6" stop-color="#fc0"/><stop offset="1" stop-color="#080"/>';
/** The interpreter paints gradients in 256 steps: those of many turns differ by more. */
const COARSE: Record<string, number> = {
  'a gradient that repeats, and one that reflects': 8,
  'radial gradients: focus, spread, a bent one': 4.2,
  'hundreds of stops': 4.2,
  'a pattern, turned, of its own units': 2.5
};

const DRAWINGS: [string, string][] = [
  [
    'fills by both rules',
    '<path d="M10 10h60v60h-60z M30 30h20v20h-20z" fill="#c50"/><path d="M60 10h50v60h-50z M70 20h30v40h-30z" fill-rule="evenodd" fill="#05c"/>'
  ],
  [
    'strokes: ends, corners, dashes, a map that bends them',
    '<path d="M10 10L60 40L10 70" fill="none" stroke="#333" stroke-width="8" stroke-linejoin="round" stroke-linecap="round"/><path d="M70 10L110 40L70 70" fill="none" stroke="#a00" stroke-width="6" stroke-dasharray="9 4" stroke-dashoffset="3"/><circle r="8" cx="20" cy="20" transform="matrix(3 .5 0 1 10 30)" fill="none" stroke="#080" stroke-width="3"/>'
  ],
  ['stroke before fill', '<circle r="25" cx="60" cy="40" fill="#fc0" stroke="#00f" stroke-width="16" paint-order="stroke"/>'],
  [
    'opacity of groups, fills and strokes',
    '<g opacity=".5"><circle r="25" cx="45" cy="40" fill="#c00"/><circle r="25" cx="75" cy="40" fill="#00c"/></g><rect x="5" y="5" width="60" height="20" fill="#080" fill-opacity=".4" stroke="#000" stroke-opacity=".5" stroke-width="6"/>'
  ],
  [
    'a linear gradient that fades',
    `<linearGradient id="a" x2="1" y2=".4">${stops}</linearGradient><rect x="10" y="10" width="100" height="60" fill="url(#a)"/>`
  ],
  [
    'a gradient that repeats, and one that reflects',
    `<linearGradient id="a" x2=".2" spreadMethod="repeat">${stops}</linearGradient><linearGradient id="b" x1=".4" x2=".6" spreadMethod="reflect" gradientTransform="rotate(20)">${stops}</linearGradient><rect width="120" height="38" fill="url(#a)"/><rect y="42" width="120" height="38" fill="url(#b)"/>`
  ],
  [
    'radial gradients: focus, spread, a bent one',
    `<radialGradient id="a" cx=".4" cy=".5" r=".5" fx=".2">${stops}</radialGradient><radialGradient id="b" r=".15" spreadMethod="repeat">${stops}</radialGradient><rect width="58" height="80" fill="url(#a)"/><circle r="30" cx="90" cy="40" fill="url(#b)" transform="rotate(10 90 40)"/>`
  ],
  [
    'a stroke in a gradient',
    `<linearGradient id="a">${stops}</linearGradient><path d="M20 20C60 90 60 -10 100 60" fill="none" stroke="url(#a)" stroke-width="12"/>`
  ],
  [
    'hundreds of stops',
    `<linearGradient id="a">${Array.from({ length: 300 }, (_, i) => `<stop offset="${i / 299}" stop-color="hsl(${i * 3},80%,50%)"/>`).join('')}</linearGradient><rect width="120" height="80" fill="url(#a)"/>`
  ],
  [
    'a pattern, turned, of its own units',
    '<pattern id="p" width="12" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(20)"><circle r="4" cx="6" cy="4.5" fill="#c00"/></pattern><rect x="10" y="5" width="100" height="70" fill="url(#p)" stroke="#000"/>'
  ],
  [
    'a pattern by shares, with a view box, seen through',
    '<pattern id="p" width=".25" height=".25" viewBox="0 0 10 10"><path d="M0 0h10l-10 10z" fill="#06c"/></pattern><circle r="36" cx="60" cy="40" fill="url(#p)" fill-opacity=".6"/>'
  ],
  [
    'a clip of one path',
    '<clipPath id="c"><path d="M60 5L110 75H10z" clip-rule="evenodd"/></clipPath><rect width="120" height="80" fill="#080" clip-path="url(#c)"/>'
  ],
  [
    'a clip of several that overlap, itself clipped',
    '<clipPath id="d"><rect width="120" height="50"/></clipPath><clipPath id="c" clip-path="url(#d)"><circle r="25" cx="45" cy="40"/><circle r="25" cx="75" cy="40"/></clipPath><rect width="120" height="80" fill="#a0c" clip-path="url(#c)"/>'
  ],
  [
    'a clip by shares',
    '<clipPath id="c" clipPathUnits="objectBoundingBox"><circle r=".4" cx=".5" cy=".5"/></clipPath><rect x="20" y="10" width="80" height="60" fill="#07a" clip-path="url(#c)"/>'
  ],
  [
    'a mask of colours, and one of cover',
    '<linearGradient id="g"><stop stop-color="#fff"/><stop offset="1" stop-color="#300"/></linearGradient><mask id="m"><rect width="120" height="80" fill="url(#g)"/><circle r="15" cx="30" cy="40" fill="#0a0"/></mask><mask id="n" mask-type="alpha"><circle r="30" cx="60" cy="60" fill-opacity=".5"/></mask><rect width="120" height="40" fill="#008" mask="url(#m)"/><rect y="40" width="120" height="40" fill="#800" mask="url(#n)"/>'
  ],
  [
    'blend modes',
    '<rect width="120" height="80" fill="#fd8"/><g style="isolation:isolate"><circle r="24" cx="45" cy="40" fill="#0cf"/><circle r="24" cx="70" cy="40" fill="#f5a" style="mix-blend-mode:multiply"/></g><circle r="16" cx="95" cy="25" fill="#390" style="mix-blend-mode:screen"/>'
  ],
  [
    'switch, use, symbol, nested drawings',
    '<switch><g systemLanguage="xx"><rect width="120" height="80"/></g><g><symbol id="s" viewBox="0 0 10 10"><circle r="4" cx="5" cy="5" fill="#c60"/></symbol><use href="#s" width="40" height="40"/><svg x="50" y="20" width="60" height="30" viewBox="0 0 10 10"><rect width="20" height="20" fill="#06a"/></svg></g></switch>'
  ],
  ['lettering', '<text x="10" y="50" font-size="30" font-family="Arimo">Łódź <tspan fill="#c00">Ω</tspan></text>'],
  [
    'markers',
    '<marker id="m" viewBox="0 0 10 10" refX="5" refY="5" orient="auto" markerWidth="5" markerHeight="5"><path d="M0 0L10 5L0 10z" fill="#00f"/></marker><path d="M10 40L60 20L100 60" fill="none" stroke="#000" stroke-width="3" marker-end="url(#m)" marker-mid="url(#m)"/>'
  ]
];

describe('a drawing as a PDF', () => {
  it.each(DRAWINGS)('%s', (name, body) => {
    expect(difference(svg(body))).toBeLessThan(COARSE[name] ?? 1.2);
  });

  it('is as large as it says, its view box laid in as it says', () => {
    for (const aspect of ['', 'preserveAspectRatio="xMaxYMin slice"', 'preserveAspectRatio="none"'])
      expect(
        difference(
          svg('<rect x="5" y="5" width="30" height="30" fill="#c00"/>', `width="120" height="60" viewBox="0 0 40 40" ${aspect}`)
        )
      ).toBeLessThan(0.6);
  });

  it('clips the parts of a clip each by its own', () => {
    const { pixels, width } = ours(
      svg(
        '<clipPath id="d"><rect width="120" height="50"/></clipPath><clipPath id="c"><circle r="25" cx="45" cy="40"/><circle r="25" cx="75" cy="40" clip-path="url(#d)"/></clipPath><rect width="120" height="80" fill="#f00" clip-path="url(#c)"/>'
      )
    );
    const red = (x: number, y: number) => pixels[(y * 2 * width + x * 2) * 3 + 1] === 0;
    expect([red(45, 60), red(60, 40), red(75, 40), red(80, 60), red(110, 10)]).toEqual([true, true, true, false, false]);
  });

  it('draws what has a role in its spot colour: lines for a tool as lines', () => {
    const text = svg(
      '<g id="cut"><rect x="10" y="10" width="50" height="30" fill="#f00" opacity=".5"/></g><circle id="gloss" r="10" cx="90" cy="40" fill="#333"/><rect x="60" y="60" width="5" height="5" fill="#080"/>'
    );
    const roles = new Map([
      ['cut', { name: 'Cut, 1', tool: true }],
      ['gloss', { name: 'Varnish', tool: false }]
    ]);
    const document = open(pdfOf(text, roles));
    const { facts, lines } = readPageFacts(document, 0);
    expect(facts.spots.map(({ name, objects, outlines }) => [name, objects, outlines])).toEqual([
      ['Cut, 1', 1, 1],
      ['Varnish', 1, 1]
    ]);
    expect(lines[0]?.path[0]).toMatchObject({ kind: 'move' });
    const { x, y } = (lines[0]?.path[0] as { to: { x: number; y: number } }).to;
    expect(x).toBeCloseTo((10 / 96) * 25.4, 2);
    expect(y).toBeCloseTo((10 / 96) * 25.4, 2);
    expect(facts.colourSpaces).toContain('RGB');
  });

  it('does not lay out patterns of tiles that are too small to be seen', () => {
    const pdf = pdfOf(
      svg(
        '<pattern id="p" width="1e-4" height="1e-4" patternUnits="userSpaceOnUse"><rect width="1" height="1"/></pattern><rect width="120" height="80" fill="url(#p)"/><rect width="5" height="5"/>'
      )
    );
    expect(pdf.length).toBeLessThan(5000);
    expect(readPageFacts(open(pdf), 0).facts.objects).toBe(1);
  });
});
