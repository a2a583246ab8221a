import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { madePdf } from '../../tests/made/pdf';
import { madePress } from '../../tests/made/press';
import { makeDrawing, type Drawing } from '../artwork/drawing';
import { makeMarkedDrawing } from '../artwork/marked';
import { drawingChoices } from '../artwork/piece';
import { wholePage } from '../artwork/preparation';
import { turnedSides } from '../geometry/box';
import { apply } from '../geometry/matrix';
import { fourInks } from '../inks/ink-set';
import { newLayer } from '../inks/stack';
import type { PDFDocument } from '../interpreter/interpreter';
import { PartDrawer, type Needed, type Part, type Sprite } from './parts';
import { pieceToRun, plateLayout, spritesOf, type RipPlan } from './plan';
import { openBytes } from '../../tests/made/opened';

/** Pieces that share their base and differ in what lies over them. A pixel is a tenth of a millimetre. */

const { inks } = madePress();
const opened: PDFDocument[] = [];
function documentOf(bytes: Buffer): PDFDocument {
  const document = openBytes(bytes);
  opened.push(document);
  return document;
}

const WIDE = 20;
const HIGH = 10;
/** All of it cyan, and beyond it, so that the bleed is cyan too. */
const base = { width: WIDE, height: HIGH, content: `1 0 0 0 k -9 -9 ${WIDE + 18} ${HIGH + 18} re f` };
/** Black in one corner, top left and top right: the page has no ground. */
const overlays = [
  { width: 2 * WIDE, height: 2 * HIGH, content: '0 0 0 1 k 0 16 8 4 re f' },
  { width: WIDE, height: HIGH, content: '0 0 0 1 k 16 8 4 2 re f' }
];
const bleed = { left: 0, top: 1, right: 2, bottom: 0 };

const plan: RipPlan = {
  widthMm: 51.2,
  lengthMm: 40,
  dpi: { x: 254, y: 254 },
  inks: fourInks([6, 13, 21]),
  totalInk: null,
  sources: [
    {
      file: 'base',
      page: 0,
      widthMm: WIDE,
      heightMm: HIGH,
      bleed,
      prepare: { ...wholePage({ widthMm: WIDE, heightMm: HIGH }), bleed: { from: 'mirror' } },
      intent: 'relative',
      sources: { rgb: '', cmyk: '', grey: '' }
    }
  ],
  pieces: [
    { source: 0, x: 1, y: 1, turn: 0, overlay: 0 },
    { source: 0, x: 25, y: 1, turn: 0, overlay: 1 },
    { source: 0, x: 1, y: 15, turn: 0 },
    { source: 0, x: 25, y: 15, turn: 180, overlay: 0 }
  ],
  marks: []
};

const drawings = new Map<string, Drawing>();
const drawingOf = ({ source, overlay }: Needed): Drawing => {
  const key = `${source}/${overlay}`;
  const known = drawings.get(key);
  if (known) return known;
  const document = documentOf(madePdf(overlay === undefined ? base : overlays[overlay]!));
  const made = makeDrawing(document, 0, drawingChoices(plan.sources[source]!), inks);
  drawings.set(key, made);
  return made;
};
const BAND = { index: 0, y: 0, rows: 400 };
const drawer = new PartDrawer(plan, inks.kernels);
let sprites: Sprite[];

beforeAll(() => {
  sprites = spritesOf(plan).map((key) => {
    const pixels = new Uint8Array(key.width * key.height * 4);
    drawer.drawSprite(key, drawingOf, pixels);
    return { key, pixels };
  });
});
afterAll(() => opened.forEach((document) => document.destroy()));

/** The colour of a part. */
const pixelsOf = (part: Part) => part.layers[0]!.pixels();

/** What a part has at a place, mm from its box's corner. */
const at = (part: Part, x: number, y: number) => {
  const i = (Math.round(y * 10) * part.rect.width + Math.round(x * 10)) * 4;
  return [...pixelsOf(part).subarray(i, i + 4)];
};
const CYAN = [255, 0, 0, 0];
const BLACK = [0, 0, 0, 255];

describe('pieces with something over them', () => {
  it('need their base once, and what lies over each', () => {
    expect(sprites.map(({ key }) => [key.source, key.turn])).toEqual([[0, 0]]);
    const needed = drawer.needed(BAND, sprites);
    expect(needed).toHaveLength(3);
    // The turned one is no sprite.
    expect(needed).toEqual(expect.arrayContaining([{ source: 0, overlay: 0 }, { source: 0, overlay: 1 }, { source: 0 }]));
    expect(drawer.needed({ index: 1, y: 0, rows: 1 }, sprites)).toEqual([]);
  });

  it('are drawn over the base at the finished size, whatever the overlay’s own, and leave others as they were', () => {
    const parts = drawer.draw(BAND, sprites, drawingOf);
    const [first, second, plain, turned] = parts as [Part, Part, Part, Part];
    expect([first.rect.width, first.rect.height]).toEqual([220, 110]);
    // The finished size begins 1 mm down; the corner is 4 × 2 mm.
    expect(at(first, 2, 2)).toEqual(BLACK);
    expect(at(first, 2, 0.5)).toEqual(CYAN);
    expect(at(first, 18, 2)).toEqual(CYAN);
    expect(at(second, 18, 2)).toEqual(BLACK);
    expect(at(second, 2, 2)).toEqual(CYAN);
    // Beyond the finished size on the right there is bleed alone.
    expect(at(second, 21, 2)).toEqual(CYAN);
    for (const [x, y] of [
      [2, 2],
      [18, 2]
    ] as const)
      expect(at(plain, x, y)).toEqual(CYAN);
    // Upside down: bleed lies left and below, the corner is the last.
    expect(at(turned, 20, 8)).toEqual(BLACK);
    expect(at(turned, 20, 10.5)).toEqual(CYAN);
    expect(at(turned, 4, 2)).toEqual(CYAN);
    for (const part of parts) part.release?.();
    // The base that they share is as it was.
    expect(sprites[0]!.pixels.some((v, i) => i % 4 === 3 && v > 0)).toBe(false);
  });

  it('are the same drawn whole and in bands', () => {
    const [whole] = drawer.draw(BAND, sprites, drawingOf) as [Part];
    const pixels = Uint8Array.from(pixelsOf(whole));
    for (const rows of [17, 64]) {
      for (let y = 0; y < 130; y += rows) {
        const parts = drawer.draw({ index: 0, y, rows }, sprites, drawingOf);
        const part = parts.find(({ rect }) => rect.x === whole.rect.x && rect.y === whole.rect.y);
        if (!part) continue;
        const from = (part.top - whole.rect.y) * whole.rect.width * 4;
        const own = pixelsOf(part);
        expect(Buffer.compare(Buffer.from(own), Buffer.from(pixels.subarray(from, from + own.length)))).toBe(0);
        for (const one of parts) one.release?.();
      }
    }
    expect(plateLayout(plan).widthPx).toBe(512);
  });

  it('have their finished size where their bleed of each side leaves it', () => {
    plan.pieces.forEach((piece) => {
      const places = [0, WIDE].flatMap((x) => [0, HIGH].map((y) => apply(pieceToRun(plan, piece), { x, y })));
      const beyond = turnedSides(bleed, piece.turn);
      expect(Math.min(...places.map((p) => p.x))).toBeCloseTo(piece.x + beyond.left, 6);
      expect(Math.min(...places.map((p) => p.y))).toBeCloseTo(piece.y + beyond.top, 6);
    });
  });
});

describe('what lies over a piece that is mirrored', () => {
  /** A base whose top left corner as it reads is cyan, and an overlay with its own there in black. */
  const mirrored = (turn: 0 | 90 | 180 | 270, mirror: boolean): Part => {
    const lying = turn % 180 !== 0;
    const [w, h] = lying ? [HIGH, WIDE] : [WIDE, HIGH];
    // The page as it lies: its corner that is turned to the top left.
    const corner = { 0: [0, h - 2], 90: [0, 0], 180: [w - 2, 0], 270: [w - 2, h - 2] }[turn] as [number, number];
    const page = { width: w, height: h, content: `1 0 0 0 k ${corner.join(' ')} 2 2 re f` };
    const over = { width: WIDE, height: HIGH, content: `0 0 0 1 k 2 ${HIGH - 2} 2 2 re f` };
    const prepare = { ...wholePage({ widthMm: w, heightMm: h }), turn, mirror };
    const source = { ...plan.sources[0]!, bleed: { left: 0, top: 0, right: 0, bottom: 0 }, prepare };
    const own = { ...plan, sources: [source], pieces: [{ source: 0, x: 1, y: 1, turn: 0, overlay: 0 }] };
    const of = ({ overlay }: Needed) =>
      makeDrawing(documentOf(madePdf(overlay === undefined ? page : over)), 0, drawingChoices(source), inks);
    return new PartDrawer(own, inks.kernels).draw(BAND, [], of)[0]!;
  };

  it.each([0, 90, 180, 270] as const)('is mirrored with it, turned by %i°', (turn) => {
    const reads = mirrored(turn, false);
    expect(at(reads, 1, 1)).toEqual(CYAN);
    expect(at(reads, 3, 1)).toEqual(BLACK);
    // Pages are mirrored before they are turned: one that lies is mirrored from top to bottom.
    const seen = mirrored(turn, true);
    const [y, cyan, black] = turn % 180 === 0 ? [1, WIDE - 1, WIDE - 3] : [HIGH - 1, 1, 3];
    expect(at(seen, cyan, y)).toEqual(CYAN);
    expect(at(seen, black, y)).toEqual(BLACK);
    reads.release?.();
    seen.release?.();
  });
});

describe('a piece with something over it in an ink of its own', () => {
  it('has it in that ink alone, beside what the artwork marks', () => {
    const marks = { spots: ['Gloss'], layers: [] };
    const marked = { spots: { Gloss: [0, 0, 0, 1] as const }, width: WIDE, height: HIGH };
    const pages = {
      // Marked on the left, and cyan all over.
      base: { ...marked, content: `${base.content} /S0 cs 1 scn 0 0 4 ${HIGH} re f` },
      // Marked on the right, and black in the middle.
      over: { ...marked, content: `/S0 cs 1 scn 16 0 4 ${HIGH} re f 0 0 0 1 k 9 0 2 ${HIGH} re f` }
    };
    const layers = [newLayer(1, 'colour'), newLayer(2, 'varnish', { cover: { is: 'marked' } })];
    const prepare = { ...wholePage({ widthMm: WIDE, heightMm: HIGH }), leftOut: { spots: ['Gloss'], layers: [], fields: false } };
    const glossy: RipPlan = {
      ...plan,
      inks: [...plan.inks, { ...plan.inks[0]!, name: 'Varnish', role: 'varnish' }],
      layers: layers.map(({ ink }) => ({ ink })) as RipPlan['layers'],
      sources: [
        {
          ...plan.sources[0]!,
          bleed: { left: 0, top: 0, right: 0, bottom: 0 },
          prepare,
          stack: { layers: layers.map((layer, place) => ({ ...layer, place })), marks: { varnish: marks } }
        }
      ],
      pieces: [
        { source: 0, x: 1, y: 1, turn: 0, overlay: 0 },
        { source: 0, x: 25, y: 1, turn: 0 }
      ]
    };
    const layered = new PartDrawer(glossy, inks.kernels);
    expect(layered.needed(BAND, [])).toEqual(
      expect.arrayContaining([
        { source: 0 },
        { source: 0, marked: 'varnish' },
        { source: 0, overlay: 0 },
        { source: 0, overlay: 0, marked: 'varnish' }
      ])
    );
    const of = ({ overlay, marked: ink }: Needed) => {
      const document = documentOf(madePdf(overlay === undefined ? pages.base : pages.over));
      return ink
        ? makeMarkedDrawing(document, 0, marks, prepare.leftOut)
        : makeDrawing(document, 0, drawingChoices(glossy.sources[0]!), inks);
    };
    const [first, plain] = layered.draw(BAND, [], of) as [Part, Part];
    const varnish = (part: Part, x: number) => part.layers[1]!.pixels()[50 * part.rect.width + x * 10];
    expect([2, 6, 10, 18].map((x) => varnish(first, x))).toEqual([255, 0, 0, 255]);
    expect([2, 6, 10, 18].map((x) => varnish(plain, x))).toEqual([255, 0, 0, 0]);
    expect([2, 10, 18].map((x) => at(first, x, 5))).toEqual([CYAN, BLACK, CYAN]);
    for (const part of [first, plain]) part.release?.();
  });
});
