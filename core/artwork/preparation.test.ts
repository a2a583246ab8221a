import { evenSides } from '../geometry/box';
import fc from 'fast-check';
import * as mupdf from '../interpreter/interpreter';
import { describe, expect, it } from 'vitest';
import { cmykBox, lettering, madePdf, spotStroke, type MadePage } from '../../tests/made/pdf';
import { greyProfile, srgbProfile } from '../colour/icc-write';
import { apply, turnedInPlace, turnedSize } from '../geometry/matrix';
import { ArtworkChoices, cropTo, keepScale, pageBleed, prepare } from './choices';
import { makeDrawing } from './drawing';
import { drawingChoices, drawPiece, type Piece } from './piece';
import { finishedToPage, pageToFinished, readToFinished, uprightSize, wholePage, type Preparation } from './preparation';
import { readPageFacts } from './read-facts';
import { DEFAULT_RULES, nearRule, plainName, roleOf, ruleFor } from './roles';
import { openBytes } from '../../tests/made/opened';

const open = (page: MadePage) => {
  const bytes = madePdf(page);
  return openBytes(bytes);
};

const preparations = fc.record({
  region: fc.record({
    x: fc.double({ min: -50, max: 50, noNaN: true }),
    y: fc.double({ min: -50, max: 50, noNaN: true }),
    width: fc.double({ min: 1, max: 500, noNaN: true }),
    height: fc.double({ min: 1, max: 500, noNaN: true })
  }),
  turn: fc.constantFrom(0 as const, 90 as const, 180 as const, 270 as const),
  mirror: fc.boolean()
});

describe('a page at its finished size', () => {
  it('as it reads lies as it is printed where it is mirrored before it is turned', () => {
    const size = { widthMm: 120, heightMm: 80 };
    for (const turn of [0, 90, 180, 270] as const) {
      const lying = turn % 180 !== 0;
      const region = { x: 3, y: 4, width: lying ? 40 : 60, height: lying ? 60 : 40 };
      for (const mirror of [false, true]) {
        const reads = pageToFinished({ region, turn, mirror: false }, size);
        const printed = pageToFinished({ region, turn, mirror }, size);
        const p = { x: 11, y: 17 };
        const at = apply(readToFinished(size, { turn, mirror }), apply(reads, p));
        expect(at.x).toBeCloseTo(apply(printed, p).x, 9);
        expect(at.y).toBeCloseTo(apply(printed, p).y, 9);
      }
    }
  });

  it('fills it exactly, however it is turned and mirrored, and comes back', () => {
    fc.assert(
      fc.property(
        preparations,
        fc.double({ min: 5, max: 2000, noNaN: true }),
        fc.double({ min: 5, max: 2000, noNaN: true }),
        (prepared, w, h) => {
          const size = { widthMm: w, heightMm: h };
          const { region } = prepared;
          const m = pageToFinished(prepared, size);
          const corners = [
            { x: region.x, y: region.y },
            { x: region.x + region.width, y: region.y + region.height }
          ].map((p) => apply(m, p));
          expect(Math.min(...corners.map((p) => p.x))).toBeCloseTo(0, 6);
          expect(Math.max(...corners.map((p) => p.x))).toBeCloseTo(w, 6);
          expect(Math.min(...corners.map((p) => p.y))).toBeCloseTo(0, 6);
          expect(Math.max(...corners.map((p) => p.y))).toBeCloseTo(h, 6);
          const p = { x: region.x + region.width / 3, y: region.y + region.height / 5 };
          const back = apply(finishedToPage(prepared, size), apply(m, p));
          expect(back.x).toBeCloseTo(p.x, 6);
          expect(back.y).toBeCloseTo(p.y, 6);
        }
      )
    );
  });

  it('turns a quarter clockwise: what was on top is on the right', () => {
    const m = pageToFinished(
      { region: { x: 0, y: 0, width: 40, height: 20 }, turn: 90, mirror: false },
      { widthMm: 20, heightMm: 40 }
    );
    expect(apply(m, { x: 20, y: 0 })).toEqual({ x: 20, y: 20 });
  });

  it('keeps its scale when the part of the page, the crop or the turn changes', () => {
    const { facts, lines } = readPageFacts(
      open({ width: 120, height: 80, trim: [10, 10, 100, 60], content: cmykBox('1 0 0 0', 20, 20, 30, 30) }),
      0
    );
    const choices = ArtworkChoices.parse({ widthMm: 200, heightMm: 120, bleedMm: 0, cut: false });
    const part = (change: Parameters<typeof keepScale>[1]) => keepScale(choices, change, facts, lines, DEFAULT_RULES);
    expect(part({ box: 'media' })).toMatchObject({ widthMm: expect.closeTo(240, 3), heightMm: expect.closeTo(160, 3) });
    expect(part({ box: 'content' })).toMatchObject({ widthMm: expect.closeTo(60, 3), heightMm: expect.closeTo(60, 3) });
    expect(part({ turn: 90 })).toMatchObject({ widthMm: expect.closeTo(120, 3), heightMm: expect.closeTo(200, 3) });
    expect(part({ crop: { left: 10, top: 0, right: 20, bottom: 5 } })).toMatchObject({
      widthMm: expect.closeTo(140, 3),
      heightMm: expect.closeTo(110, 3)
    });
    // A part that is dragged out of what is seen is that part at that scale, however the page lies, cropped before or not.
    const size = fc.integer({ min: 20, max: 300 });
    const share = fc.double({ min: 0, max: 0.45, noNaN: true });
    fc.assert(
      fc.property(
        fc.constantFrom(0 as const, 90 as const, 180 as const, 270 as const),
        fc.boolean(),
        size,
        size,
        fc.tuple(share, share, share, share),
        (quarter, mirror, widthMm, heightMm, [l, t, r, b]) => {
          const before = { ...choices, turn: quarter, mirror, widthMm, heightMm, crop: { left: 4, top: 3, right: 0, bottom: 9 } };
          const seen = prepare(before, facts, lines, DEFAULT_RULES);
          const box = { x: l * widthMm, y: t * heightMm, width: (1 - l - r) * widthMm, height: (1 - t - b) * heightMm };
          const after = { ...before, ...keepScale(before, { crop: cropTo(before, seen, box) }, facts, lines, DEFAULT_RULES) };
          expect(after).toMatchObject({ widthMm: expect.closeTo(box.width, 6), heightMm: expect.closeTo(box.height, 6) });
          const [from, to] = [finishedToPage(seen, before), finishedToPage(prepare(after, facts, lines, DEFAULT_RULES), after)];
          for (const [x, y] of [
            [0, 0],
            [box.width, 0],
            [box.width / 3, box.height]
          ] as const) {
            // prettier-ignore
            const [was, is] = [apply(from, { x: box.x + x, y: box.y + y }), apply(to, { x, y })];
            expect(is).toEqual({ x: expect.closeTo(was.x, 6), y: expect.closeTo(was.y, 6) });
          }
        }
      )
    );
    const prepared = prepare({ ...choices, box: 'media' }, facts, lines, DEFAULT_RULES);
    expect(uprightSize(prepared)).toEqual({ widthMm: expect.closeTo(120, 3), heightMm: expect.closeTo(80, 3) });
    expect(pageBleed(prepare(choices, facts, lines, DEFAULT_RULES), facts, 200)).toBeCloseTo(20, 3);
  });
});

describe('a piece is drawn', () => {
  // Red above, blue below, a green stripe on the left edge; 40 × 20 mm, nothing beyond it.
  const page: MadePage = {
    width: 40,
    height: 20,
    content: `1 0 0 rg 0 10 40 10 re f 0 0 1 rg 0 0 40 10 re f 0 1 0 rg 0 0 2 20 re f`
  };
  const sources = { rgb: srgbProfile(), cmyk: srgbProfile(), grey: greyProfile() };
  function draw(
    prepare: Partial<Preparation>,
    size: { widthMm: number; heightMm: number; bleedMm: number },
    made = page,
    px = 10,
    turn = 0
  ) {
    const { widthMm, heightMm, bleedMm } = size;
    const piece: Piece = {
      widthMm,
      heightMm,
      bleed: evenSides(bleedMm),
      prepare: { ...wholePage({ widthMm: made.width, heightMm: made.height }), ...prepare }
    };
    const drawing = makeDrawing(open(made), 0, drawingChoices(piece), { target: mupdf.ColorSpace.DeviceRGB, sources });
    const box = turnedSize(size.widthMm + 2 * size.bleedMm, size.heightMm + 2 * size.bleedMm, turn);
    const width = Math.round(box.width * px);
    const height = Math.round(box.height * px);
    const pixmap = drawPiece(piece, drawing, { x: 0, y: 0, width, height, turn }, 0, height);
    const pixels = Uint8Array.from(pixmap.getPixels());
    pixmap.destroy();
    /** Colour at a place of the finished size, mm. */
    return (x: number, y: number) => {
      const at = (Math.floor((y + size.bleedMm) * px) * width + Math.floor((x + size.bleedMm) * px)) * 3;
      return [...pixels.subarray(at, at + 3)].map((v) => (v > 127 ? 1 : 0)).join('');
    };
  }
  const size = { widthMm: 40, heightMm: 20, bleedMm: 4 };

  it('with its bleed mirrored: the edge is seen again, without a seam', () => {
    const at = draw({ bleed: { from: 'mirror' } }, size);
    expect(at(20, -3)).toBe('100');
    expect(at(20, 23)).toBe('001');
    expect([at(-1, 5), at(-3, 5), at(-3, -3), at(-1, -3)]).toEqual(['010', '100', '100', '010']);
    for (const y of [-0.05, 0.05]) expect(at(20, y)).toBe('100');
    expect(at(43, 15)).toBe('001');
  });

  it('with the edge colour stretched, or a flat colour, or white where the page has nothing', () => {
    const stretched = draw({ bleed: { from: 'stretch' } }, size);
    expect([stretched(-3.9, 5), stretched(-0.1, 15), stretched(20, -3.9), stretched(43.9, 23.9)]).toEqual([
      '010',
      '010',
      '100',
      '001'
    ]);
    const flat = draw({ bleed: { from: 'colour', colour: [255, 0, 255] } }, size);
    expect([flat(-2, 5), flat(20, -2), flat(20, 5)]).toEqual(['101', '101', '100']);
    expect(draw({}, size)(-2, 5)).toBe('111');
  });

  it('at any angle on the box that the turned piece takes, made bleed and all', () => {
    for (const bleedFrom of ['mirror', 'stretch'] as const) {
      const upright = draw({ bleed: { from: bleedFrom } }, size);
      for (const turn of [30, 90, 180, 270, 313]) {
        const turned = draw({ bleed: { from: bleedFrom } }, size, page, 10, turn);
        // From the corner of the bleed, upright, to the turned box's own corner.
        const toBox = turnedInPlace(48, 28, turn);
        // Well inside of every colour and of the bleed: the same colour is where the turn takes it.
        for (const [x, y] of [
          [1, 5],
          [20, 5],
          [20, 15],
          [39, 2],
          [39, 18],
          [20, -2],
          [20, 22],
          [43, 5],
          [43, 15]
        ] as const) {
          const at = apply(toBox, { x: x + 4, y: y + 4 });
          expect([bleedFrom, turn, x, y, turned(at.x - 4, at.y - 4)]).toEqual([bleedFrom, turn, x, y, upright(x, y)]);
        }
      }
    }
  });

  it('turned, mirrored and cropped, made bleed and all', () => {
    const turned = draw({ turn: 90, bleed: { from: 'mirror' } }, { widthMm: 20, heightMm: 40, bleedMm: 4 });
    expect([turned(15, 20), turned(5, 20), turned(10, 1), turned(23, 20)]).toEqual(['100', '001', '010', '100']);
    const mirrored = draw({ mirror: true }, { ...size, bleedMm: 0 });
    expect([mirrored(39, 5), mirrored(1, 5)]).toEqual(['010', '100']);
    const cropped = draw(
      { region: { x: 10, y: 5, width: 10, height: 10 }, bleed: { from: 'mirror' } },
      { widthMm: 20, heightMm: 20, bleedMm: 4 }
    );
    expect([cropped(10, 5), cropped(10, 15), cropped(10, -2), cropped(10, 22)]).toEqual(['100', '001', '100', '001']);
  });

  it('without spot colours and layers that have another role, and with thin lines made thicker', () => {
    const made: MadePage = {
      width: 40,
      height: 20,
      spots: { 'Cut line': [0, 1, 0, 0] },
      layers: { Notes: true, Art: true },
      content: `/S0 cs 1 scn 0 0 10 20 re f /OC /L0 BDC 1 0 0 rg 10 0 10 20 re f EMC /OC /L1 BDC 0 0 1 rg 20 0 10 20 re f EMC 0 0 0 RG 0.02 w 35 0 m 35 20 l S`
    };
    const seen = (prepare: Partial<Preparation>) => {
      const at = draw(prepare, { ...size, bleedMm: 0 }, made);
      return [at(5, 10), at(15, 10), at(25, 10), at(34.8, 10)];
    };
    expect(seen({})).toEqual(['101', '100', '001', '111']);
    expect(seen({ leftOut: { spots: ['Cut line'], layers: ['Notes'] }, thinnestMm: 0.6 })).toEqual(['111', '111', '001', '000']);
  });
});

describe('facts of a page', () => {
  it('tell paints, layers that are off, overprint, blends and what is drawn', () => {
    const { facts, lines } = readPageFacts(
      open({
        width: 100,
        height: 60,
        layers: { Shown: true, Hidden: false },
        spots: { Fold: [0, 0.5, 1, 0] },
        states: { G: '/BM/Screen/ca 0.5/OP true' },
        content: `${cmykBox('0.2 0 0 0', 10, 10, 30, 20)}/OC /L1 BDC 0 0 0 rg 50 10 10 10 re f EMC ${lettering('0.5 0.5 0.5 1 k', 12, 30, 4)}${lettering('1 g', 12, 20, 3)}${spotStroke('10 5 m 90 5 l')}/G gs 1 0 0 rg 70 40 5 5 re f`
      }),
      0
    );
    expect(facts.layers).toEqual([
      { name: 'Shown', visible: true, group: null, outlines: 0 },
      { name: 'Hidden', visible: false, group: null, outlines: 1 }
    ]);
    expect(facts.text.map(({ paint }) => paint).sort()).toEqual(['rich', 'white']);
    expect(facts.text.find(({ paint }) => paint === 'rich')?.sizeMm).toBeCloseTo(4, 3);
    expect(facts.blends).toEqual(['Screen']);
    expect(facts.overprint).toBe(true);
    expect(facts.seeThrough).toBe(true);
    expect(facts.colourSpaces).toEqual(['CMYK', 'RGB', 'grey']);
    expect(facts.content?.x).toBeCloseTo(9.95, 1);
    expect(lines.filter((line) => line.spot === 'Fold')).toHaveLength(1);
    expect(lines.filter((line) => line.layer === 'Hidden')).toHaveLength(1);
  });

  it('keep the worst of very many pictures, wherever in the page they are', () => {
    const MANY = 700;
    // Smaller and smaller, so that each has more pixels an inch than the one before; one in the middle is the worst.
    const sizes = Array.from({ length: MANY }, (_, i) => (i === 400 ? 90 : 40 - i * 0.05));
    const content = sizes.map((side) => `q ${side} 0 0 ${side} 0 0 cm /P Do Q`).reverse();
    const document = open({ width: 100, height: 100, picture: { width: 40, height: 40 }, content: content.join(' ') });
    const { images } = readPageFacts(document, 0).facts;
    const ppi = (side: number) => (40 / side) * 25.4;
    const wanted = sizes.map(ppi).sort((a, b) => a - b);
    expect(images).toHaveLength(500);
    images.forEach((image, i) => expect(image.ppi).toBeCloseTo(wanted[i]!, 3));
    document.destroy();
  });
});

describe('roles by name', () => {
  it('forgive case, spaces, hyphens, dots and accents', () => {
    const rules = [
      { pattern: 'Découpe *', role: 'through cut' as const },
      { pattern: 'kiss cut', role: 'kiss cut' as const }
    ];
    for (const name of ['KissCut', 'kiss-cut', 'KISS_CUT', 'Kiss.Cut ']) expect(ruleFor(name, rules)?.role).toBe('kiss cut');
    expect(ruleFor('decoupe 3 mm', rules)?.role).toBe('through cut');
    expect(ruleFor('kiss cuts', rules)).toBeUndefined();
    expect(roleOf('kiss cut', rules, { 'kiss cut': 'guide' })).toBe('guide');
    fc.assert(fc.property(fc.string(), (name) => plainName(plainName(name)) === plainName(name)));
  });
  it('tell a name that misses by one letter, and no other', () => {
    expect(nearRule('Cut lime', DEFAULT_RULES)?.role).toBe('kiss cut');
    expect(nearRule('Varnisch', DEFAULT_RULES)?.role).toBe('varnish');
    expect(nearRule('Harbour blue', DEFAULT_RULES)).toBeUndefined();
    expect(nearRule('Cu', DEFAULT_RULES)).toBeUndefined();
  });
  it('take any text as a name or a pattern without breaking', () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), (name, pattern) =>
        ['object', 'undefined'].includes(typeof ruleFor(name, [{ pattern, role: 'guide' }]))
      )
    );
  });
});
