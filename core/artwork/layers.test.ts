import { evenSides } from '../geometry/box';
import { describe, expect, it } from 'vitest';
import { rawPdf, rawStream } from '../../tests/made/pdf';
import { finishedLines } from '../cutting/docket-lines';
import * as mupdf from '../interpreter/interpreter';
import { DEFAULT_CUT } from './cut-choices';
import { makeDrawing } from './drawing';
import { drawingChoices, drawPiece } from './piece';
import { wholePage } from './preparation';
import { readPageFacts } from './read-facts';
import { greyProfile, srgbProfile } from '../colour/icc-write';
import { toolOf } from './roles';
import { pressProfile } from '../../tests/made/press';
import { openBytes } from '../../tests/made/opened';

const sources = { rgb: srgbProfile(), cmyk: pressProfile(), grey: greyProfile() };
const SIDE = 20;

/** A page whose objects from the sixth on are what `/Properties` and the configuration speak of. */
function opened(content: string, properties: string, configuration: string, layers: string[], resources = '') {
  const points = (SIDE * 72) / 25.4;
  const bytes = rawPdf([
    `<</Type/Catalog/Pages 2 0 R/OCProperties<<${configuration}>>>>`,
    '<</Type/Pages/Kids[3 0 R]/Count 1>>',
    `<</Type/Page/Parent 2 0 R/MediaBox[0 0 ${points} ${points}]/Contents 4 0 R/Resources<</Properties<<${properties}>>${resources}>>>>`,
    rawStream('', `${72 / 25.4} 0 0 ${72 / 25.4} 0 0 cm 0 g\n${content}`),
    '<<>>',
    ...layers
  ]);
  return openBytes(bytes);
}

/** Which of the boxes of a row are seen: one each 4 mm. */
function seen(document: mupdf.PDFDocument, off: string[]): string {
  const size = { widthMm: SIDE, heightMm: SIDE };
  const piece = { ...size, bleed: evenSides(0), prepare: wholePage(size, { spots: [], layers: off }) };
  const drawing = makeDrawing(document, 0, drawingChoices(piece), { target: mupdf.ColorSpace.DeviceRGB, sources });
  const pixmap = drawPiece(piece, drawing, { x: 0, y: 0, width: SIDE, height: SIDE, turn: 0 }, 0, SIDE);
  const pixels = pixmap.getPixels();
  return [0, 1, 2, 3, 4].map((i) => (pixels[(10 * SIDE + i * 4 + 2) * 3]! < 128 ? '1' : '0')).join('');
}
const box = (i: number) => `${i * 4} 0 3 ${SIDE} re f`;
const layer = (name: string, more = '') => `<</Type/OCG/Name(${name})${more}>>`;

describe('layers', () => {
  it('within a layer for a tool go to that tool, and none of it prints', () => {
    const make = () =>
      opened(
        `/OC /A BDC ${box(0)} /OC /B BDC ${box(1)} EMC /OC /C BDC ${box(2)} EMC EMC ${box(4)}`,
        '/A 6 0 R/B 7 0 R/C 8 0 R',
        '/OCGs[6 0 R 7 0 R 8 0 R]/D<</Order[6 0 R[7 0 R 8 0 R]]>>',
        [layer('Contour'), layer('Left half'), layer('Note')]
      );
    const { lines, facts } = readPageFacts(make(), 0);
    expect(lines.map(({ layer, within }) => [layer, within])).toEqual([
      ['Contour', undefined],
      ['Left half', ['Contour']],
      ['Note', ['Contour']]
    ]);
    expect(facts.layers.map(({ name, outlines }) => [name, outlines])).toEqual([
      ['Contour', 3],
      ['Left half', 1],
      ['Note', 1]
    ]);
    const roles = { Contour: 'kiss cut', Note: 'guide' } as const;
    const role = (name: string) => roles[name as keyof typeof roles];
    // The note has a role of its own.
    expect(lines.map((line) => toolOf(line, role))).toEqual(['kiss cut', 'kiss cut', undefined]);
    const size = { widthMm: SIDE, heightMm: SIDE };
    const cut = (off: string[]) => finishedLines(lines, role, wholePage(size), size, DEFAULT_CUT, off).length;
    expect([cut([]), cut(['Left half']), cut(['Contour'])]).toEqual([2, 1, 0]);
    expect(seen(make(), ['Contour', 'Note'])).toBe('00001');
    expect(seen(make(), [])).toBe('11101');
  });

  it('of the same name are told apart', () => {
    const make = () =>
      opened(
        `/OC /A BDC ${box(0)} EMC /OC /B BDC ${box(1)} EMC /OC /C BDC ${box(2)} EMC`,
        '/A 6 0 R/B 7 0 R/C 8 0 R',
        '/OCGs[6 0 R 7 0 R 8 0 R]/D<</OFF[7 0 R]>>',
        [layer('Layer 1'), layer('Layer 1'), layer('Layer 1')]
      );
    expect(readPageFacts(make(), 0).facts.layers.map(({ name, visible }) => [name, visible])).toEqual([
      ['Layer 1', true],
      ['Layer 1 (2)', false],
      ['Layer 1 (3)', true]
    ]);
    expect(seen(make(), ['Layer 1 (2)'])).toBe('10100');
    expect(seen(make(), ['Layer 1'])).toBe('01100');
  });

  it('follow memberships of several, and what the file says must not print', () => {
    const make = () =>
      opened(
        `/OC /M BDC ${box(0)} EMC /OC /N BDC ${box(1)} EMC /OC /V BDC ${box(2)} EMC /OC /B BDC ${box(3)} EMC /F Do`,
        '/B 7 0 R/M <</Type/OCMD/OCGs[6 0 R 7 0 R]/P/AllOn>>/N <</Type/OCMD/OCGs[6 0 R]/P/AllOff>>/V <</Type/OCMD/VE[/Not[/Or 6 0 R 7 0 R]]>>',
        '/OCGs[6 0 R 7 0 R]/D<<>>',
        [
          layer('Day'),
          layer('Night', '/Usage<</Print<</PrintState/OFF>>>>'),
          rawStream(`/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE} ${SIDE}]/OC 6 0 R`, box(4))
        ],
        '/XObject<</F 8 0 R>>'
      );
    expect(readPageFacts(make(), 0).facts.layers).toMatchObject([
      { name: 'Day', visible: true },
      { name: 'Night', visible: false }
    ]);
    expect(seen(make(), [])).toBe('10011');
    expect(seen(make(), ['Night'])).toBe('00001');
    expect(seen(make(), ['Day'])).toBe('01010');
    expect(seen(make(), ['Day', 'Night'])).toBe('01100');
  });

  it('that stand in for each other are known as such', () => {
    const document = opened('', '', '/OCGs[6 0 R 7 0 R 8 0 R]/D<</OFF[7 0 R]/RBGroups[[6 0 R 7 0 R]]>>', [
      layer('English'),
      layer('French'),
      layer('Frame')
    ]);
    expect(readPageFacts(document, 0).facts.layers.map(({ group }) => group)).toEqual([0, 0, null]);
  });

  it('of broken files stop nothing', () => {
    for (const configuration of ['/OCGs 5', '/OCGs[null (a) 99 0 R 6 0 R]/D[1]', '/OCGs[6 0 R]/D<</RBGroups[5 [null]]>>'])
      expect(readPageFacts(opened(box(0), '', configuration, ['<</Type/OCG>>']), 0).facts.objects).toBe(1);
  });
});

it('a line in a colour of black and of an ink for a tool prints in black and is cut', () => {
  const bytes = rawPdf([
    '<</Type/Catalog/Pages 2 0 R>>',
    '<</Type/Pages/Kids[3 0 R]/Count 1>>',
    '<</Type/Page/Parent 2 0 R/MediaBox[0 0 90 90]/Contents 4 0 R/Resources<</ColorSpace<</S [/DeviceN [/Black /Cut] /DeviceCMYK 5 0 R]>>>>>>',
    rawStream('', '/S CS 1 1 SCN 10 10 50 50 re S 1 0 SCN 20 20 30 30 re S'),
    rawStream('/FunctionType 4/Domain[0 1 0 1]/Range[0 1 0 1 0 1 0 1]', '{exch 0 3 1 roll 0 exch}')
  ]);
  const document = openBytes(bytes);
  const { facts, lines } = readPageFacts(document, 0);
  // The second has none of that ink.
  expect(lines.map(({ spot }) => spot)).toEqual(['Cut']);
  expect(facts.spots).toMatchObject([{ name: 'Cut', objects: 2, outlines: 1 }]);
  const [r, g, b] = facts.spots[0]!.colour!;
  expect(g).toBeLessThan(Math.min(r, b) - 60);
  // What prints of it is looked at as what prints.
  expect(facts.strokes.map((stroke) => stroke.spot)).toEqual([undefined, undefined]);
});
