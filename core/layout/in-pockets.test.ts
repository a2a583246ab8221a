import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { wholePage } from '../artwork/preparation';
import { evenSides } from '../geometry/box';
import { apply, turnedSize } from '../geometry/matrix';
import { areaWithin } from '../geometry/path';
import { NO_FINISHING } from '../marks/finishing';
import { DEFAULT_MARKS } from '../marks/registration';
import { dealt } from './dealing';
import { DEFAULT_POCKETS, emptyIn, placeInPockets } from './in-pockets';
import { Jig, NEW_JIG, stockJigOf } from './jig';
import { ANCHORS, SHARINGS, type Item, type JigStock, type PocketRule } from './placement';
import { dressPart, layOutRun, ripPieces, type RunLayoutRule } from './run-layout';
import { finishedToCopy, inPocket, itemOf, type RunPiece } from './run-piece';

const stockOf = (over: Partial<Jig> = {}): JigStock => ({
  kind: 'sheet',
  width: 2000,
  height: 1500,
  corner: 'front left',
  jig: stockJigOf(3, Jig.parse({ ...NEW_JIG, ...over }))
});
const item = (id: string, copies: number, width = 60, height = 40): Item => ({ id, width, height, copies, mayTurn: true });
const rule = (over: Partial<PocketRule> = {}): PocketRule => ({ ...DEFAULT_POCKETS, edge: 'inside', ...over });

describe('copies in pockets', () => {
  it('lie each in one pocket, inside of it, and none is left out', () => {
    const items = fc.array(fc.tuple(fc.integer({ min: 0, max: 40 }), fc.integer({ min: 5, max: 49 })), {
      minLength: 1,
      maxLength: 4
    });
    fc.assert(
      fc.property(
        items,
        fc.constantFrom(...SHARINGS),
        fc.constantFrom(...ANCHORS),
        fc.constantFrom(0, 90, 180, 270),
        fc.integer({ min: -30, max: 30 }),
        fc.boolean(),
        (list, sharing, anchor, turn, nudge, turnSecond) => {
          const stock = stockOf({ turnSecond, nudges: { '2.2': { dx: 1, dy: 2, turn: nudge } } });
          const all = list.map(([copies, size], i) => item(`d${i}`, copies, size, size * 0.8));
          const { parts, refusal } = placeInPockets(stock, rule({ sharing, anchor, turn: turn as 0 }), all);
          expect(refusal).toBeNull();
          for (const { id, copies } of all) {
            const placed = parts.flatMap((part) => part.copies.filter((copy) => copy.id === id));
            expect(placed.map(({ copy }) => copy).sort((p, q) => p - q)).toEqual(Array.from({ length: copies }, (_, i) => i));
          }
          for (const part of parts) {
            expect(new Set(part.copies.map(({ pocket }) => pocket)).size).toBe(part.copies.length);
            expect(part.copies.length + emptyIn(stock, part).length).toBe(stock.jig.pockets.length);
            for (const copy of part.copies) {
              const pocket = stock.jig.pockets.find(({ number }) => number === copy.pocket)!;
              // Its middle seen as the thing is: within what its pocket leaves.
              const back = { x: copy.x + copy.width / 2 - pocket.x, y: copy.y + copy.height / 2 - pocket.y };
              const radians = (-pocket.turn * Math.PI) / 180;
              const at = {
                x: back.x * Math.cos(radians) - back.y * Math.sin(radians),
                y: back.x * Math.sin(radians) + back.y * Math.cos(radians)
              };
              const own = all.find(({ id }) => id === copy.id)!;
              const [w, h] = turn % 180 === 0 ? [own.width, own.height] : [own.height, own.width];
              expect(Math.abs(at.x) + w / 2).toBeLessThanOrEqual(40 + 1e-6);
              expect(Math.abs(at.y) + h / 2).toBeLessThanOrEqual(25 + 1e-6);
            }
          }
        }
      )
    );
  });

  it('come in loads of the same jig: 24, then 7', () => {
    const { parts } = placeInPockets(stockOf(), rule(), [item('a', 31)]);
    expect(parts.map(({ copies }) => copies.length)).toEqual([24, 7]);
    expect(parts[1]!.copies.map(({ pocket }) => pocket)).toEqual([1, 2, 3, 4, 5, 6, 7]);
    expect(emptyIn(stockOf(), parts[1]!)).toHaveLength(17);
  });

  it('share the pockets in order, row by row, or in turn', () => {
    const shared = (sharing: PocketRule['sharing']) =>
      placeInPockets(stockOf(), rule({ sharing }), [item('a', 8), item('b', 5)])
        .parts[0]!.copies.map(({ id, pocket }) => `${id}${pocket}`)
        .join(' ');
    expect(shared('in order')).toBe('a1 a2 a3 a4 a5 a6 a7 a8 b9 b10 b11 b12 b13');
    expect(shared('by rows')).toBe('a1 a2 a3 a4 a5 a6 a7 a8 b13 b14 b15 b16 b17');
    expect(shared('in turn')).toBe('a1 b2 a3 b4 a5 b6 a7 b8 a9 b10 a11 a12 a13');
  });

  it('lie where their anchor says, as the thing is looked at', () => {
    const at = (anchor: PocketRule['anchor'], turn: Jig['turn'] = 0) => {
      const stock = stockOf({ turn });
      const copy = placeInPockets(stock, rule({ anchor, marginMm: 2 }), [item('a', 1)]).parts[0]!.copies[0]!;
      const { x, y } = stock.jig.pockets[0]!;
      return [copy.x + copy.width / 2 - x, copy.y + copy.height / 2 - y].map((v) => Math.round(v * 1e6) / 1e6 + 0);
    };
    expect(at('middle')).toEqual([0, 0]);
    expect(at('top left')).toEqual([-8, -3]);
    expect(at('right')).toEqual([8, 0]);
    expect(at('top left', 180)).toEqual([8, 3]);
    expect(at('top', 90)).toEqual([3, 0]);
  });

  it('are refused with the figure where they cannot lie there', () => {
    const why = (stock: JigStock, items: Item[], over: Partial<PocketRule> = {}) =>
      placeInPockets(stock, rule(over), items).refusal;
    expect(why(stockOf(), [item('a', 1, 90, 40)])).toMatch(
      /A piece of 90 × 40 mm is larger than the pockets of New jig, which are 80 × 50 mm/
    );
    expect(why(stockOf(), [item('a', 1, 90, 40)], { edge: 'cut off' })).toBeNull();
    expect(why({ ...stockOf(), width: 300 }, [item('a', 1)])).toMatch(
      /Pocket 4 of New jig lies off what is printed on, which is 300 × 1500 mm/
    );
    expect(why({ ...stockOf(), jig: { ...stockOf().jig, pockets: [] } }, [item('a', 1)])).toMatch(/switched off/);
  });
});

describe('a run in a jig', () => {
  const piece: RunPiece = {
    id: 'a',
    docket: 'a',
    piece: 0,
    widthMm: 80,
    heightMm: 50,
    bleed: evenSides(3),
    copies: 30,
    first: 0,
    of: 30,
    cut: true,
    mayTurn: true,
    intent: 'relative',
    finishing: NO_FINISHING,
    caption: ''
  };
  const run: RunLayoutRule = {
    placing: 'rows', gapX: 4, gapY: 4, margin: 5, lead: 10, tail: 20, align: 'centre', single: false, fill: 'none', longest: null, turnStep: 90, effort: 'quick', steps: null,
    marks: DEFAULT_MARKS, colourBar: true, pockets: DEFAULT_POCKETS
  }; // prettier-ignore
  const page = {
    file: 'f',
    page: 0,
    prepare: wholePage({ widthMm: 80, heightMm: 50 }),
    sources: { rgb: '', cmyk: '', grey: '' }
  };
  const stock = stockOf({
    thing: { widthMm: 80, heightMm: 50, outline: { kind: 'ellipse' } },
    turnSecond: true,
    nudges: { '3.1': { dx: 0, dy: 1, turn: 7 }, '5.2': { dx: 0.5, dy: 0, turn: 0 } }
  });

  it('prints each piece on its thing alone, and nothing beside: no marks, no bar, no codes', () => {
    const layout = layOutRun(stock, run, [piece], []);
    expect(layout.parts.map(({ copies }) => copies.length)).toEqual([24, 6]);
    const { marks, flats, code } = dressPart(layout.parts[0]!, stock, run, [piece]);
    expect([marks, flats, code.codes]).toEqual([[], [], []]);
    const { sources, pieces } = ripPieces(layout.parts[0]!.copies, run, [piece], new Map([['a', page]]), stock);
    // Wherever a thing lies, what it leaves of the piece is the same.
    expect(sources).toHaveLength(1);
    expect(areaWithin(sources[0]!.clip!) / (Math.PI * 40 * 25)).toBeCloseTo(1, 2);
    expect(pieces).toHaveLength(24);
    expect(layout.parts[0]!.usedM2).toBeCloseTo((24 * Math.PI * 40 * 25) / 1e6, 3);
  });

  it('has a clip that lies on the thing, turned and moved as it is', () => {
    const off = layOutRun(
      stock,
      { ...run, pockets: { ...DEFAULT_POCKETS, anchor: 'top left', turn: 180 } },
      [{ ...piece, widthMm: 60 }],
      []
    );
    const { sources, pieces } = ripPieces(off.parts[0]!.copies, run, [{ ...piece, widthMm: 60 }], new Map([['a', page]]), stock);
    off.parts[0]!.copies.forEach((copy, i) => {
      const pocket = stock.jig.pockets.find(({ number }) => number === copy.pocket)!;
      const clip = sources[pieces[i]!.source]!.clip![0]!.map((p) => apply(finishedToCopy({ ...piece, widthMm: 60 }, copy), p));
      const middle = {
        x: clip.reduce((sum, { x }) => sum + x, 0) / clip.length,
        y: clip.reduce((sum, { y }) => sum + y, 0) / clip.length
      };
      expect(Math.hypot(middle.x - pocket.x, middle.y - pocket.y)).toBeLessThan(0.01);
    });
  });

  it('prints over the edge where that is wanted', () => {
    const over = { ...run, pockets: { ...DEFAULT_POCKETS, edge: 'over' as const } };
    const layout = layOutRun(stock, over, [piece], []);
    expect(ripPieces(layout.parts[0]!.copies, over, [piece], new Map([['a', page]]), stock).sources[0]!.clip).toBeUndefined();
  });
});

describe('how large a piece is in its pocket', () => {
  const piece = (over: Partial<RunPiece> = {}): RunPiece => ({
    id: '7', docket: '7', piece: 0, widthMm: 120, heightMm: 90, bleed: evenSides(3), copies: 2, first: 0, of: 2, cut: false,
    mayTurn: true, intent: 'relative', finishing: NO_FINISHING, caption: '', ...over
  }); // prettier-ignore
  const stock = stockOf();

  it('fits whole within the margins, or covers all of it, in its own proportion, turned as it lies', () => {
    const sizes = fc.integer({ min: 5, max: 900 });
    fc.assert(
      fc.property(sizes, sizes, fc.constantFrom(0, 90, 180, 270), fc.constantFrom('fit', 'fill'), fc.integer({ min: 0, max: 12 }), (widthMm, heightMm, turn, size, marginMm) => {
          const pockets = rule({ edge: 'cut off', size: size as 'fit', turn: turn as 0, marginMm });
          const sized = inPocket(piece({ widthMm, heightMm }), stock, pockets);
          expect(sized.widthMm / sized.heightMm).toBeCloseTo(widthMm / heightMm, 6);
          expect(sized.bleed.left).toBeCloseTo(3 * sized.scale!, 9);
          const lies = turnedSize(sized.widthMm, sized.heightMm, turn);
          const [across, down] = [lies.width / (80 - (size === 'fit' ? 2 * marginMm : 0)), lies.height / (50 - (size === 'fit' ? 2 * marginMm : 0))];
          expect(size === 'fit' ? Math.max(across, down) : Math.min(across, down)).toBeCloseTo(1, 6);
        }
      )
    ); // prettier-ignore
  });

  it('fits with its bleed where nothing may reach over the edge, so that it is not refused', () => {
    const pockets = rule({ edge: 'inside', size: 'fit' });
    const sized = inPocket(piece(), stock, pockets);
    const { refusal, parts } = placeInPockets(stock, pockets, [itemOf(sized)]);
    expect(refusal).toBeNull();
    expect(parts[0]!.copies).toHaveLength(2);
    expect(inPocket(piece(), stock, rule({ size: 'own' }))).toEqual(piece());
  });
});

describe('records in a jig', () => {
  it('follow the numbers of the pockets, whichever corner these are counted from', () => {
    const stock = stockOf({ columns: 3, rows: 2, order: { along: 'rows', from: 'back right', thereAndBack: false } });
    const laid: RunPiece = {
      id: '7', docket: '7', piece: 0, widthMm: 60, heightMm: 40, bleed: evenSides(0), copies: 8, first: 0, of: 8, cut: false,
      mayTurn: true, intent: 'relative', finishing: NO_FINISHING, caption: '', records: [11, 12, 13, 14, 15, 16, 17, 18], order: 'rows'
    }; // prettier-ignore
    const { parts } = dealt(placeInPockets(stock, rule(), [itemOf(laid)]), [laid]);
    const byPocket = parts.map(({ copies }) => copies.map(({ pocket, record }) => [pocket, record]));
    expect(byPocket).toEqual([[[1, 11], [2, 12], [3, 13], [4, 14], [5, 15], [6, 16]], [[1, 17], [2, 18]]]); // prettier-ignore
    const first = parts[0]!.copies[0]!;
    expect(first.x).toBeGreaterThan(parts[0]!.copies[2]!.x);
  });
});
