import { afterEach, describe, expect, it } from 'vitest';
import { openBytes } from '../../tests/made/opened';
import { cmykBox, madePdf, rawPdf, rawStream } from '../../tests/made/pdf';
import * as mupdf from '../interpreter/interpreter';
import { embedPage } from './embedded-page';
import { forwarding, without } from './page';
import { PdfObjects } from './pdf-objects';

const opened: mupdf.PDFDocument[] = [];
const open = (bytes: Uint8Array) => {
  const document = openBytes(bytes);
  opened.push(document);
  return document;
};
afterEach(() => {
  for (const one of opened.splice(0)) one.destroy();
});

/** A page of 100 × 50 points of pale blue, with a place of 40 × 20 at its 10, 20 for a page, and how that looks: red, green, blue at places. */
function shown(from: Uint8Array, leftOut: string[], places: readonly [number, number][]): number[][] {
  const objects = new PdfObjects();
  const pages = objects.reserve();
  const place = objects.reserve();
  objects.put(place, '/Type/XObject/Subtype/Form/BBox[0 0 1 1]', new Uint8Array());
  const contents = objects.add('', new TextEncoder().encode('0.8 0.9 1 rg 0 0 100 50 re f q 40 0 0 20 10 20 cm /P Do Q'));
  const page = objects.add(
    `/Type/Page/Parent ${pages} 0 R/MediaBox[0 0 100 50]/Contents ${contents} 0 R/Resources<</XObject<</P ${place} 0 R>>>>`
  );
  objects.put(pages, `/Type/Pages/Kids[${page} 0 R]/Count 1`);
  const host = open(objects.finish(objects.add(`/Type/Catalog/Pages ${pages} 0 R`)));
  embedPage(host, place, open(from), leftOut);
  // As it is read again, and not only as it is held.
  const again = open(Uint8Array.from(host.saveToBuffer('').asUint8Array()));
  const pixmap = new mupdf.Pixmap(mupdf.ColorSpace.DeviceRGB, [0, 0, 100, 50], false);
  pixmap.clear(255);
  const device = new mupdf.DrawDevice(mupdf.Matrix.identity, pixmap);
  again.loadPage(0).run(new mupdf.Device(without(forwarding(device), { spots: [] })), mupdf.Matrix.identity);
  device.close();
  const pixels = Uint8Array.from(pixmap.getPixels());
  pixmap.destroy();
  return places.map(([x, y]) => [...pixels.subarray((y * 100 + x) * 3, (y * 100 + x) * 3 + 3)]);
}
const looks = ([r, g, b]: number[]) =>
  r! > 200 && g! < 90 && b! < 90
    ? 'red'
    : g! > r! + 60 && g! > b! + 40
      ? 'green'
      : b! > 240 && g! > 220 && r! < 215
        ? 'ground'
        : r! > 230 && g! > 200 && b! < 90
          ? 'yellow'
          : `${r} ${g} ${b}`;
/** Red on the left, green on the right, nothing below the middle. */
const HALVES = cmykBox('0 1 1 0', 0, 10, 20, 10) + cmykBox('1 0 1 0', 20, 10, 20, 10);
const PLACES: [number, number][] = [
  [15, 13],
  [45, 13],
  [15, 27],
  [45, 27]
];

describe('a page within another', () => {
  it('fills its place with what is within its trim box, and is clear where it draws nothing', () => {
    expect(shown(madePdf({ width: 40, height: 20, content: HALVES }), [], PLACES).map(looks)).toEqual([
      'red',
      'green',
      'ground',
      'ground'
    ]);
    // Its right half alone, as wide as the place; what lies beyond is cut off.
    const half = madePdf({ width: 40, height: 20, trim: [20, 0, 20, 20], content: HALVES });
    expect(shown(half, [], [...PLACES, [5, 13], [55, 13]]).map(looks)).toEqual([
      'green',
      'green',
      'ground',
      'ground',
      'ground',
      'ground'
    ]);
  });

  it('stands as it is seen: turned, of larger units, in several streams, with resources of its parent', () => {
    const made = (page: string) =>
      rawPdf([
        '<</Type/Catalog/Pages 2 0 R>>',
        '<</Type/Pages/Kids[3 0 R]/Count 1/Resources<</ExtGState<</G<</ca 1>>>>>>>>',
        `<</Type/Page/Parent 2 0 R/Contents[4 0 R 5 0 R]${page}>>`,
        rawStream('', '/G gs 0 1 1 0 k 0 10 20 10 re f'),
        rawStream('', '1 0 1 0 k 20 10 20 10 re f')
      ]);
    expect(shown(made('/MediaBox[0 0 40 20]'), [], PLACES).map(looks)).toEqual(['red', 'green', 'ground', 'ground']);
    expect(shown(made('/MediaBox[0 0 40 20]/UserUnit 3'), [], PLACES).map(looks)).toEqual(['red', 'green', 'ground', 'ground']);
    expect(shown(made('/MediaBox[0 0 40 20]/Rotate 180'), [], PLACES).map(looks)).toEqual(['ground', 'ground', 'green', 'red']);
    // A quarter turn clockwise: the top is on the right, the left on top.
    expect(shown(made('/MediaBox[0 0 40 20]/Rotate 90'), [], PLACES).map(looks)).toEqual(['ground', 'red', 'ground', 'green']);
  });

  it('leaves out the spot colours that do not print, within what it shows too', () => {
    const spots = { 'Cut line': [0, 1, 0, 0], Lantern: [0, 0, 1, 0] } as const;
    const content = '/S0 cs 1 scn 0 10 20 10 re f /S1 cs 1 scn 20 10 20 10 re f';
    const page = madePdf({ width: 40, height: 20, spots, content });
    expect(shown(page, ['Cut line', 'White'], PLACES).map(looks)).toEqual(['ground', 'yellow', 'ground', 'ground']);
    expect(shown(page, [], PLACES).map(looks)[0]).not.toBe('ground');
    const tint = '<</FunctionType 4/Domain[0 1 0 1]/Range[0 1 0 1 0 1 0 1]/Length 16>>\nstream\n{0 0 4 2 roll 0}\nendstream';
    const within = rawPdf([
      '<</Type/Catalog/Pages 2 0 R>>',
      '<</Type/Pages/Kids[3 0 R]/Count 1>>',
      '<</Type/Page/Parent 2 0 R/MediaBox[0 0 40 20]/Contents 4 0 R/Resources<</XObject<</F 5 0 R>>>>>>',
      rawStream('', '/F Do'),
      rawStream(
        '/Type/XObject/Subtype/Form/BBox[0 0 40 20]/Resources<</ColorSpace<</S[/Separation/Cut#20line/DeviceCMYK<</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[0 1 1 0]/N 1>>]/N[/DeviceN[/Cut#20line/White]/DeviceCMYK 6 0 R]>>>>',
        '/S cs 1 scn 0 10 20 10 re f /N cs 1 1 scn 20 10 20 10 re f'
      ),
      tint
    ]);
    expect(shown(within, ['Cut line', 'White'], PLACES).map(looks)).toEqual(['ground', 'ground', 'ground', 'ground']);
    expect(shown(within, ['White'], PLACES).map(looks)[0]).toBe('red');
  });
});
