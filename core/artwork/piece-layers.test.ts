import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBytes } from '../../tests/made/opened';
import { madePdf } from '../../tests/made/pdf';
import { madePress } from '../../tests/made/press';
import { makeDrawing, type Drawing } from './drawing';
import { makeMarkedDrawing } from './marked';
import { drawingChoices, type Piece } from './piece';
import { wholePage } from './preparation';
import { labOfRgb } from '../colour/lab';
import { evenSides } from '../geometry/box';
import { turnedSize } from '../geometry/matrix';
import { fourInks, shiftOf, type InkSet } from '../inks/ink-set';
import { marginMm, newLayer, type ExtraInk, type Layer } from '../inks/stack';
import type { PDFDocument } from '../interpreter/interpreter';
import { channelsByInk } from '../media/press';
import { LayerDrawer, withMargin, type LayerDrawings, type PieceLayer } from './piece-layers';

/** Layers of a small made page, 30 × 20 mm, ten pixels a millimetre. */

const { inks } = madePress();
const W = 300;
const H = 200;
const extra = (name: string, role: ExtraInk, channel: string, i: number): InkSet[number] => ({
  name,
  role,
  channel,
  colour: '#c0c8d8',
  drops: [12, 24, 36],
  shift: shiftOf(i)
});
const SET: InkSet = [
  ...fourInks([6, 13, 21]),
  extra('White 1', 'white', 'White', 4),
  extra('White 2', 'white', 'White', 5),
  extra('Varnish', 'varnish', 'Varnish', 6)
];

/** Left a cyan square, in the middle one that is half seen through, right a white one (paint, and no ink); below a white spot. */
const PAGE = {
  width: 30,
  height: 20,
  content: `1 0 0 0 k 2 11 6 6 re f /Half gs 0 1 0 0 k 11 11 6 6 re f /Full gs 0 0 0 0 k 20 11 6 6 re f
    /S0 cs 0.6 scn 2 2 6 6 re f /OC /L0 BDC 0 0 1 0 k 20 2 6 6 re f EMC`,
  spots: { White: [0, 0, 0, 0.2] as const },
  layers: { Varnish: true },
  states: { Half: '/ca 0.5', Full: '/ca 1' }
};
const size = { widthMm: 30, heightMm: 20 };
const leftOut = { spots: ['White'], layers: ['Varnish'] };
const piece: Piece = { ...size, bleed: evenSides(0), prepare: wholePage(size, leftOut) };
const marks = { white: { spots: ['White'], layers: [] }, varnish: { spots: [], layers: ['Varnish'] } };

const opened: PDFDocument[] = [];
const document = () => {
  const made = openBytes(madePdf(PAGE));
  opened.push(made);
  return made;
};
let drawings: LayerDrawings & { page: Drawing };
beforeAll(() => {
  drawings = {
    page: makeDrawing(document(), 0, drawingChoices(piece), inks),
    marked: {
      white: makeMarkedDrawing(document(), 0, marks.white, leftOut),
      varnish: makeMarkedDrawing(document(), 0, marks.varnish, leftOut)
    }
  };
});
afterAll(() => opened.forEach((one) => one.destroy()));

/** Planes of a stack’s layers. @param rows of the piece that are asked for */
function drawn(layers: PieceLayer[], rows: readonly [number, number] = [0, H], turn = 0, from: LayerDrawings = drawings) {
  const grid = { x: 0, y: 0, width: turn === 90 ? H : W, height: turn === 90 ? W : H, turn };
  const drawer = new LayerDrawer({ dpi: { x: 254, y: 254 }, channels: channelsByInk(SET), kernels: inks.kernels });
  const made = drawer.draw(piece, layers, from, grid, ...rows);
  const planes = made.layers.map((pixels) => Uint8Array.from(pixels()));
  made.release();
  return planes;
}
/** What a plane has at a place, mm from the top left corner. */
const at = (plane: Uint8Array, x: number, y: number) => plane[Math.round(y * 10) * W + Math.round(x * 10)];
/** The middles of the squares: cyan, see-through, white paint; the white spot, what is on the layer; and bare. */
const PLACES = [
  [5, 6],
  [14, 6],
  [23, 6],
  [5, 15],
  [23, 15],
  [14, 15]
] as const;
const squares = (plane: Uint8Array) => PLACES.map(([x, y]) => at(plane, x, y)!);
/** The interpreter’s own opacities are off by up to two. */
const near = (values: readonly number[], wanted: readonly number[]) => {
  expect(values).toHaveLength(wanted.length);
  values.forEach((v, i) => expect(Math.abs(v - wanted[i]!), `${values.join()} for ${wanted.join()}`).toBeLessThanOrEqual(2));
};
const colour = newLayer(1, 'colour');
const white = (more: Partial<Layer> = {}) => newLayer(2, 'white', { amount: 2, ...more });

describe('what a layer covers', () => {
  it.each<[string, Partial<Layer>, number[]]>([
    ['the whole piece', { cover: { is: 'whole' } }, [255, 255, 255, 255, 255, 255]],
    ['all that prints, as strongly as it is painted', { cover: { is: 'prints' } }, [255, 128, 255, 0, 0, 0]],
    ['what the file marks, tints counted', { cover: { is: 'marked' } }, [0, 0, 0, 153, 0, 0]],
    [
      'one colour, and colours near it',
      { cover: { is: 'colours', picked: [labOfRgb(0, 158, 224)], within: 20, except: false } },
      [255, 0, 0, 0, 0, 0]
    ],
    [
      'all that prints but one colour',
      { cover: { is: 'colours', picked: [labOfRgb(0, 158, 224)], within: 20, except: true } },
      [0, 128, 255, 0, 0, 0]
    ],
    ['where colour lies', { cover: { is: 'layer', id: 1, except: false } }, [255, 128, 255, 0, 0, 0]],
    ['where colour does not lie', { cover: { is: 'layer', id: 1, except: true } }, [0, 127, 0, 255, 255, 255]],
    ['no soft part at all', { cover: { is: 'prints' }, leastCover: 0.6 }, [255, 0, 255, 0, 0, 0]]
  ])('%s', (_, more, wanted) => {
    const [, plane] = drawn([colour, white(more)]);
    near(squares(plane!), wanted);
  });

  it('is for each ink what is marked for it', () => {
    const [, ofWhite, ofVarnish] = drawn([
      colour,
      white({ cover: { is: 'marked' } }),
      newLayer(3, 'varnish', { cover: { is: 'marked' } })
    ]);
    near(squares(ofWhite!), [0, 0, 0, 153, 0, 0]);
    near(squares(ofVarnish!), [0, 0, 0, 0, 255, 0]);
  });

  it('is drawn in by the choke at every edge, at each end of every band as in the whole', () => {
    const stack = [colour, white({ chokeMm: 0.35, cover: { is: 'prints' } })];
    const [, whole] = drawn(stack);
    // The square is 2…8 mm; the choke three and a half pixels.
    for (const [x, y, wanted] of [
      [2.2, 6, 0],
      [2.5, 6, 255],
      [7.7, 6, 0],
      [5, 3.2, 0],
      [5, 3.6, 255]
    ] as const)
      expect(at(whole!, x, y)! > 127).toBe(wanted > 127);
    for (const rows of [7, 64])
      for (let y = 0; y < H; y += rows) {
        const [, part] = drawn(stack, [y, Math.min(H, y + rows)]);
        expect(Buffer.compare(Buffer.from(part!), Buffer.from(whole!.subarray(y * W, Math.min(H, y + rows) * W)))).toBe(0);
      }
  });

  it('leaves out what is narrower than the least, and gives the rest its edges back', () => {
    const [, plane] = drawn([colour, white({ cover: { is: 'prints' }, leastMm: 3 })]);
    const [, coarse] = drawn([colour, white({ cover: { is: 'prints' }, leastMm: 2.9 * 2 + 0.6 })]);
    near(squares(plane!).slice(0, 3), [255, 128, 255]);
    expect(at(plane!, 2.1, 6)).toBe(255);
    expect(squares(coarse!).slice(0, 3)).toEqual([0, 0, 0]);
  });
});

describe('how much of a layer', () => {
  it('is shared by the channels of its ink, and never more than each can give', () => {
    const much = (amount: number, ink: ExtraInk = 'white') => {
      const [, plane] = drawn([colour, newLayer(2, ink, { amount, cover: { is: 'whole' } })]);
      return plane![0];
    };
    // Two channels of white: at 100 % each gives half.
    expect([much(1), much(2), much(0.5)]).toEqual([128, 255, 64]);
    // One of varnish.
    expect([much(1, 'varnish'), much(0.5, 'varnish'), much(2, 'varnish')]).toEqual([255, 128, 255]);
  });

  it('follows how dark the colour above it is', () => {
    const [, plane] = drawn([colour, white({ cover: { is: 'prints' }, byDarkness: [0, 0, 1, 1, 1] })]);
    // White paint is light, cyan in the middle.
    expect(at(plane!, 23, 6)).toBe(0);
    expect(at(plane!, 5, 6)!).toBeGreaterThan(100);
  });
});

describe('a margin around the piece', () => {
  /** The piece with a bleed of its own and layers that reach farther, on a grid of any turn. */
  function laid(layers: Layer[], bleedMm: number, turn: number) {
    const bled = withMargin(
      { ...piece, bleed: evenSides(bleedMm), prepare: { ...piece.prepare, bleed: { from: 'mirror' } } },
      marginMm(layers)
    );
    const { left } = bled.bleed;
    const box = turnedSize(30 + 2 * left, 20 + 2 * left, turn);
    const grid = { x: 40, y: 70, width: Math.round(box.width * 10), height: Math.round(box.height * 10), turn };
    const drawer = new LayerDrawer({ dpi: { x: 254, y: 254 }, channels: channelsByInk(SET), kernels: inks.kernels });
    const made = drawer.draw(bled, layers, drawings, grid, 70, 70 + grid.height);
    const planes = made.layers.map((pixels) => Uint8Array.from(pixels()));
    made.release();
    /** How far a pixel’s middle lies inside of the finished size and so much around it, mm; below 0 outside. */
    const inside = (i: number, mm: number) => {
      const [x, y] = [(i % grid.width) + 0.5, Math.floor(i / grid.width) + 0.5];
      const angle = (-turn * Math.PI) / 180;
      const [dx, dy] = [(x - grid.width / 2) / 10, (y - grid.height / 2) / 10];
      const [u, v] = [dx * Math.cos(angle) - dy * Math.sin(angle), dx * Math.sin(angle) + dy * Math.cos(angle)];
      return Math.min(15 + mm - Math.abs(u), 10 + mm - Math.abs(v));
    };
    return { planes, inside, box };
  }

  it('is white as far as it says, and nothing else lies there, at any turn', () => {
    const turns = fc.constantFrom(0, 90, 180, 270, 30, 211);
    // Whole pixels: at right angles edges lie between two of them.
    const mm = fc.integer({ min: 0, max: 40 }).map((tenths) => tenths / 10);
    fc.assert(
      fc.property(turns, mm, mm, (turn, bleedMm, around) => {
        const layers = [
          white({ cover: { is: 'margin', mm: around } }),
          newLayer(3, 'varnish', { cover: { is: 'whole' } }),
          newLayer(4, 'white', { amount: 2, cover: { is: 'layer', id: 1, except: true } }),
          colour
        ];
        const { planes, inside } = laid(layers, bleedMm, turn);
        const [margin, whole, bare, pixels] = planes;
        // What an edge runs through is in part or not at all: not looked at.
        const slack = turn % 90 === 0 ? 0 : 0.15;
        let wrong = 0;
        const off = (value: number, at: number) => {
          if (at > slack) wrong += Number(value === 0);
          else if (at < -slack) wrong += Number(value !== 0);
        };
        for (let i = 0; i < margin!.length; i++) {
          off(margin![i]!, inside(i, around));
          off(whole![i]!, inside(i, bleedMm));
          const [out, ink] = [inside(i, bleedMm) < -slack, pixels!.subarray(i * 4, i * 4 + 4).some((v) => v > 0)];
          if (out && (ink || bare![i] !== 0)) wrong++;
        }
        expect(wrong).toBe(0);
        expect(pixels!.some((v) => v > 200)).toBe(true);
      }),
      { numRuns: 12 }
    );
  });

  it('changes nothing of a piece that bleeds farther', () => {
    const bled = { ...piece, bleed: evenSides(3) };
    expect(withMargin(bled, 3)).toBe(bled);
    expect(withMargin(bled, 3.1)).toEqual({
      ...bled,
      bleed: evenSides(3.1),
      colourBleed: evenSides(3)
    });
  });
});

describe('layers of colour', () => {
  it('of another page show that page, the right way round for them, and white covers what either prints', () => {
    const other = { ...PAGE, width: 60, height: 40, content: '0 0 0 1 k 40 10 16 16 re f' };
    const file = openBytes(madePdf(other));
    opened.push(file);
    const prepare = { ...piece.prepare, region: { x: 0, y: 0, width: 60, height: 40 } };
    const own = { page: 0, prepare };
    const layers: PieceLayer[] = [
      { ...newLayer(3, 'colour', { mirrored: true, ownPage: 1 }), own },
      white({ cover: { is: 'prints' } }),
      colour
    ];
    const page = makeDrawing(file, 0, drawingChoices({ ...piece, prepare }), inks);
    const [back, between, front] = drawn(layers, [0, H], 0, { ...drawings, own: { 3: page } });
    const ink = (pixels: Uint8Array, x: number, y: number) => [...pixels.subarray((y * 10 * W + x * 10) * 4).subarray(0, 4)];
    // At half its size the square lies 20…28 mm from the left, 7…15 from the top; mirrored 2…10.
    expect(ink(back!, 6, 11)).toEqual([0, 0, 0, 255]);
    expect(ink(back!, 24, 11)).toEqual([0, 0, 0, 0]);
    expect(ink(front!, 5, 6)[0]).toBe(255);
    expect([at(between!, 6, 11), at(between!, 5, 6), at(between!, 28, 11)]).toEqual([255, 255, 0]);
    page.list.destroy();
  });

  it('are the page as it is, without what lies on layers of other inks', () => {
    const [pixels] = drawn([colour]);
    const ink = (x: number, y: number) => [...pixels!.subarray((y * 10 * W + x * 10) * 4, (y * 10 * W + x * 10) * 4 + 4)];
    expect(ink(5, 6)[0]).toBe(255);
    near([ink(14, 6)[1]!], [128]);
    expect([ink(23, 6), ink(5, 15), ink(23, 15)]).toEqual([
      [0, 0, 0, 0],
      [0, 0, 0, 0],
      [0, 0, 0, 0]
    ]);
  });

  it('that are mirrored have left and right changed places, and white covers what either prints', () => {
    const [front, between, back] = drawn([colour, white({ cover: { is: 'prints' } }), newLayer(3, 'colour', { mirrored: true })]);
    const cyan = (pixels: Uint8Array, x: number) => pixels[(60 * W + x * 10) * 4];
    expect([cyan(front!, 5), cyan(front!, 24)]).toEqual([255, 0]);
    expect([cyan(back!, 5), cyan(back!, 24)]).toEqual([0, 255]);
    expect(at(between!, 5, 6)).toBe(255);
    expect(at(between!, 24, 6)).toBe(255);
  });

  it('turn with everything that lies on them', () => {
    const [pixels, plane] = drawn([colour, white({ cover: { is: 'marked' } })], [0, W], 90);
    // Clockwise: what was below is left.
    const place = (x: number, y: number) => y * 10 * H + x * 10;
    near([plane![place(5, 5)]!], [153]);
    expect(pixels![place(14, 5) * 4]).toBe(255);
  });
});
