import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { intersect } from '../geometry/areas';
import { boxAround, type Box } from '../geometry/box';
import { turnedSize, type Point } from '../geometry/matrix';
import { seededRandom } from '../geometry/random';
import { shapeAt, type Item, type PlacedCopy, type Placement, type PlaceRule, type Stock } from './placement';
import { placed } from './placing';
import { helpsTooLarge, tooLargeInWords } from './too-large';
import { EPS } from './skyline';
import { countStraightCuts, straightCuts, TOUCHING, type StraightCut } from './straight-cuts';
import { areaWithin } from '../geometry/path';

const RULE: PlaceRule = {
  placing: 'rows',
  gapX: 4,
  gapY: 6,
  margin: 5,
  lead: 10,
  tail: 20,
  align: 'centre',
  single: false,
  fill: 'none',
  longest: null,
  turnStep: 90,
  effort: 'quick',
  steps: null
};
const roll = (width: number): Stock => ({ kind: 'roll', width });
const item = (over: Partial<Item> = {}): Item => ({ id: 'a', width: 90, height: 90, copies: 1, mayTurn: true, ...over });

const anyItems = fc
  .array(
    fc.record({
      width: fc.double({ min: 5, max: 900, noNaN: true }),
      height: fc.double({ min: 5, max: 900, noNaN: true }),
      copies: fc.integer({ min: 0, max: 30 }),
      mayTurn: fc.boolean()
    }),
    { minLength: 1, maxLength: 6 }
  )
  .map((list) => list.map((d, i): Item => ({ ...d, id: `d${i}` })));

const anyRule = fc.record({
  placing: fc.constantFrom('apart' as const, 'rows' as const, 'straight' as const, 'close' as const, 'hand' as const),
  gapX: fc.double({ min: 0, max: 20, noNaN: true }),
  gapY: fc.double({ min: 0, max: 20, noNaN: true }),
  margin: fc.double({ min: 0, max: 30, noNaN: true }),
  lead: fc.constant(10),
  tail: fc.constant(10),
  align: fc.constantFrom('left' as const, 'centre' as const, 'right' as const),
  single: fc.boolean(),
  fill: fc.constantFrom('none' as const, 'row' as const, 'all' as const),
  longest: fc.constantFrom(null, 1500),
  turnStep: fc.constant(90),
  effort: fc.constant('quick' as const),
  steps: fc.constantFrom(null, 3)
});
const anyStock: fc.Arbitrary<Stock> = fc.oneof(
  fc.integer({ min: 300, max: 1600 }).map(roll),
  fc.record({
    kind: fc.constant('sheet' as const),
    width: fc.integer({ min: 600, max: 1600 }),
    height: fc.integer({ min: 600, max: 1600 }),
    corner: fc.constantFrom('front left' as const, 'front right' as const, 'back left' as const, 'back right' as const)
  })
);

/** Two boxes nearer to each other than the gaps. */
const near = (p: PlacedCopy, q: PlacedCopy, gapX: number, gapY: number) =>
  p.x < q.x + q.width + gapX - 1e-4 &&
  q.x < p.x + p.width + gapX - 1e-4 &&
  p.y < q.y + q.height + gapY - 1e-4 &&
  q.y < p.y + p.height + gapY - 1e-4;

function check(layout: Placement, stock: Stock, rule: PlaceRule, items: readonly Item[]): void {
  const wide = new Set(layout.tooLarge.map((t) => t.id));
  for (const { id, copies } of items) {
    const numbers = layout.parts
      .flatMap((part) => part.copies.filter((copy) => copy.id === id).map((copy) => copy.copy))
      .sort((p, q) => p - q);
    const most = Math.max(0, numbers.length);
    expect(numbers).toEqual(Array.from({ length: most }, (_, i) => i));
    if (!wide.has(id)) expect(rule.fill === 'none' ? most === copies : most >= copies).toBe(true);
  }
  for (const part of layout.parts) {
    const all = [...part.copies, ...part.ghosts];
    for (const [i, p] of all.entries()) {
      expect(p.x).toBeGreaterThanOrEqual(rule.margin - 1e-3);
      expect(p.x + p.width).toBeLessThanOrEqual(stock.width - rule.margin + 1e-3);
      expect(p.y).toBeGreaterThanOrEqual((stock.kind === 'sheet' ? rule.margin : rule.lead) - 1e-3);
      expect(p.y + p.height).toBeLessThanOrEqual(part.length - (stock.kind === 'sheet' ? rule.margin : rule.tail) + 1e-3);
      const other = all.slice(i + 1).find((q) => near(p, q, rule.gapX, rule.gapY));
      if (other) expect([p, other]).toBe('apart');
    }
    if (rule.longest !== null && stock.kind === 'roll') expect(part.length).toBeLessThanOrEqual(rule.longest + 1e-3);
    if (rule.placing === 'straight' && rule.fill === 'none') {
      expect(countStraightCuts(part.copies, { x: 0, y: 0, width: stock.width, height: part.length })).toBeTypeOf('number');
      checkCuts(part.copies);
    }
  }
}

/** Straight cuts go through no piece, and along each of its sides. */
function checkCuts(pieces: readonly Box[]): void {
  const around = boxAround(pieces.map(({ x, y, width, height }) => [{ x, y }, { x: x + width, y: y + height }]))!; // prettier-ignore
  const cuts = straightCuts(pieces, around)!;
  const near = 1e-3;
  // None is cut twice.
  const isOver = (a: StraightCut, b: StraightCut) =>
    a.from.y === a.to.y
      ? b.from.y === b.to.y &&
        Math.abs(a.from.y - b.from.y) < TOUCHING - EPS &&
        a.from.x < b.to.x - near &&
        b.from.x < a.to.x - near
      : b.from.x === b.to.x &&
        Math.abs(a.from.x - b.from.x) < TOUCHING - EPS &&
        a.from.y < b.to.y - near &&
        b.from.y < a.to.y - near;
  cuts.forEach((cut, i) => expect(cuts.slice(i + 1).some((other) => isOver(cut, other))).toBe(false));
  for (const { x, y, width, height } of pieces) {
    const isCutAlong = (p: Point, q: Point) =>
      cuts.some(({ from, to }) =>
        p.y === q.y
          ? from.y === to.y && Math.abs(from.y - p.y) < 2 * TOUCHING && from.x <= p.x + near && to.x >= q.x - near
          : from.x === to.x && Math.abs(from.x - p.x) < 2 * TOUCHING && from.y <= p.y + near && to.y >= q.y - near
      );
    const [right, bottom] = [x + width, y + height];
    const sides = [[x, y, right, y], [x, bottom, right, bottom], [x, y, x, bottom], [right, y, right, bottom]] as const; // prettier-ignore
    for (const [x0, y0, x1, y1] of sides) expect(isCutAlong({ x: x0, y: y0 }, { x: x1, y: y1 })).toBe(true);
    for (const { from, to } of cuts) {
      const isThrough =
        from.y === to.y
          ? from.y > y + near && from.y < bottom - near && from.x < right - near && to.x > x + near
          : from.x > x + near && from.x < right - near && from.y < bottom - near && to.y > y + near;
      expect(isThrough).toBe(false);
    }
  }
}

describe('placing rules', () => {
  it('never overlap, keep gaps and margins, place every copy once or say why not', () => {
    fc.assert(
      fc.property(anyItems, anyRule, anyStock, (items, rule, stock) => check(placed(stock, rule, items, []), stock, rule, items)),
      { numRuns: 50 }
    );
  });

  it('keep pinned copies where they are, and let the rest flow around', () => {
    fc.assert(
      fc.property(
        anyItems,
        anyRule,
        anyStock,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (items, rule, stock, u, v) => {
          const [first] = items as [Item];
          const start = stock.kind === 'sheet' ? rule.margin : rule.lead;
          const deep = stock.kind === 'sheet' ? stock.height - 2 * rule.margin : 1200;
          const [roomX, roomY] = [stock.width - 2 * rule.margin - first.width, deep - first.height];
          if (first.copies < 1 || roomX < 0 || roomY < 0) return;
          const pin = { id: first.id, copy: 0, part: 0, x: rule.margin + u * roomX, y: start + v * roomY, turn: 0 };
          const layout = placed(stock, rule, items, [pin]);
          check(layout, stock, rule, items);
          const kept = layout.parts[0]?.copies.find((copy) => copy.pinned);
          expect(kept).toMatchObject({ id: first.id, copy: 0, x: pin.x, y: pin.y, turn: 0 });
        }
      ),
      { numRuns: 40 }
    );
  });

  it('give the same layout for the same run', () => {
    fc.assert(
      fc.property(anyItems, anyRule, anyStock, (items, rule, stock) => {
        expect(placed(stock, rule, items, [])).toEqual(placed(stock, rule, items, []));
      }),
      { numRuns: 8 }
    );
  });

  it('claim a ghost without moving anything or taking more film', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 40, max: 400 }), (copies, size) => {
        const rule: PlaceRule = { ...RULE, align: 'left' };
        const before = placed(roll(1300), rule, [item({ copies, width: size })], []);
        if (before.parts[0]?.ghosts.length === 0) return;
        const after = placed(roll(1300), rule, [item({ copies: copies + 1, width: size })], []);
        expect(after.length).toBeCloseTo(before.length, 6);
        expect(after.parts[0]?.copies.slice(0, copies)).toEqual(before.parts[0]?.copies);
      })
    );
  });

  it('turn by a quarter when that saves length', () => {
    const long = item({ width: 1000, height: 300, copies: 4 });
    const upright = placed(roll(1300), RULE, [{ ...long, mayTurn: false }], []);
    const turned = placed(roll(1300), RULE, [long], []);
    expect(turned.parts[0]?.copies.every((c) => c.turn === 90)).toBe(true);
    expect(upright.parts[0]?.copies.every((c) => c.turn === 0)).toBe(true);
    expect(turned.length).toBeLessThan(upright.length);
  });

  it('say what is too large, with what there is', () => {
    for (const placing of ['rows', 'straight', 'close', 'hand'] as const)
      expect(placed(roll(1300), { ...RULE, placing }, [item({ width: 1400, height: 1500 })], []).tooLarge).toEqual([
        { id: 'a', width: 1400, height: 1500, mayTurn: true, kind: 'roll', across: 1290, along: null }
      ]);
  });

  it('say by which side it is too large', () => {
    const said = (stock: Stock, of: Partial<Item>, rule: Partial<PlaceRule> = {}) => {
      const [large] = placed(stock, { ...RULE, ...rule }, [item(of)], []).tooLarge;
      return large && `${tooLargeInWords(large, 'mm')}. ${helpsTooLarge(large)}`;
    };
    const board: Stock = { kind: 'sheet', width: 400, height: 300, corner: 'front left' };
    expect(said(roll(1300), { width: 1400, height: 1500 })).toBe(
      'is 1400.0 mm wide; 1290.0 mm of the roll can be used. Make it smaller or choose a wider media.'
    );
    // What must not be turned is as wide as it is, however short.
    expect(said(roll(1300), { width: 1400, height: 200, mayTurn: false })).toMatch(/^is 1400\.0 mm wide/);
    expect(said(roll(1300), { width: 1400, height: 200 })).toBeUndefined();
    expect(said(board, { width: 100, height: 350, mayTurn: false })).toBe(
      'is 100.0 × 350.0 mm; 390.0 × 290.0 mm of the sheet can be used. Make it smaller or choose a larger media.'
    );
    expect(said(board, { width: 395, height: 395 })).toMatch(/^is 395\.0 mm wide; 390\.0 mm of the sheet/);
    const most = 500 - RULE.lead - RULE.tail;
    expect(said(roll(1300), { width: 1400, height: 600 }, { longest: 500 })).toBe(
      `is 1400.0 mm long; ${most}.0 mm of the longest run can be used. Make it smaller or let the run be longer.`
    );
    expect(said(roll(1300), { width: 700, height: 600 }, { longest: 500 })).toMatch(/^is 600\.0 mm long/);
  });

  it('say too large of what fits in no way, and of nothing else', () => {
    const size = fc.integer({ min: 20, max: 900 });
    fc.assert(
      fc.property(
        size,
        size,
        fc.boolean(),
        size,
        fc.option(fc.integer({ min: 100, max: 900 })),
        fc.constantFrom('rows', 'straight', 'close'),
        (width, height, mayTurn, across, longest, placing) => {
          const layout = placed(
            roll(across),
            { ...RULE, margin: 0, longest, placing },
            [item({ width, height, mayTurn, copies: 2 })],
            []
          );
          const along = longest === null ? Infinity : Math.max(1, longest - RULE.lead - RULE.tail);
          const fits = (w: number, h: number) => w <= across && h <= along;
          expect(layout.tooLarge).toHaveLength(fits(width, height) || (mayTurn && fits(height, width)) ? 0 : 1);
          for (const large of layout.tooLarge) {
            // The figures that are said do not fit.
            const [is, most] = [...tooLargeInWords(large, 'mm').matchAll(/([\d.]+) mm/g)].map(([, figure]) => Number(figure));
            expect(is!).toBeGreaterThan(most!);
          }
        }
      )
    );
  });

  it('are thriftier the freer they are', () => {
    const random = seededRandom(5);
    const items = Array.from({ length: 14 }, (_, i) =>
      item({ id: `d${i}`, width: 60 + random() * 400, height: 60 + random() * 400, copies: 1 + Math.floor(random() * 8) })
    );
    const [rows, straight, close] = (['rows', 'straight', 'close'] as const).map(
      (placing) => placed(roll(1300), { ...RULE, placing }, items, []).length
    ) as [number, number, number];
    expect(straight).toBeLessThan(rows);
    expect(close).toBeLessThanOrEqual(straight);
  });

  it('count waste as what no copy covers, and the cuts that free the pieces', () => {
    const layout = placed(roll(1300), { ...RULE, gapX: 0, gapY: 0 }, [item({ width: 1290, height: 970, mayTurn: false })], []);
    expect(layout.areaM2).toBeCloseTo(1.3, 9);
    expect(layout.wasteM2).toBeCloseTo(1.3 - 1.29 * 0.97, 9);
    expect(layout.cuts).toBe(4);
    // Five pieces around a middle one, like the sails of a mill, cannot be freed from edge to edge.
    const mill = [
      [0, 0, 20, 10],
      [20, 0, 10, 20],
      [10, 20, 20, 10],
      [0, 10, 10, 20],
      [10, 10, 10, 10]
    ].map(([x, y, width, height]) => ({ x: x!, y: y!, width: width!, height: height! }));
    expect(countStraightCuts(mill, { x: 0, y: 0, width: 30, height: 30 })).toBeUndefined();
    expect(straightCuts(mill, { x: 0, y: 0, width: 30, height: 30 })).toBeUndefined();
    expect(countStraightCuts(mill.slice(0, 2), { x: 0, y: 0, width: 30, height: 20 })).toBe(2);
  });
});

describe('true shape', () => {
  const disc = (r: number, n = 24) =>
    Array.from({ length: n }, (_, i) => ({
      x: r + r * Math.cos((i * 2 * Math.PI) / n),
      y: r + r * Math.sin((i * 2 * Math.PI) / n)
    }));
  const corner = [0, 0, 60, 0, 60, 120, 180, 120, 180, 180, 0, 180];
  const shapes: Item[] = [
    item({
      id: 'corner',
      width: 180,
      height: 180,
      copies: 6,
      shape: [Array.from({ length: 6 }, (_, i) => ({ x: corner[2 * i]!, y: corner[2 * i + 1]! }))]
    }),
    item({
      id: 'ring',
      width: 160,
      height: 160,
      copies: 3,
      shape: [
        disc(80),
        disc(55)
          .map((p) => ({ x: p.x + 25, y: p.y + 25 }))
          .reverse()
      ]
    }),
    item({ id: 'disc', width: 60, height: 60, copies: 12, shape: [disc(30)] })
  ];

  it('leaves the knife its gap, uses holes, and is denser than the rectangles', () => {
    for (const turnStep of [0, 180, 90, 15]) {
      const rule: PlaceRule = {
        ...RULE,
        placing: 'shapes',
        gapX: 2,
        gapY: 2,
        turnStep,
        effort: turnStep === 15 ? 'quick' : 'normal'
      };
      const layout = placed(roll(600), rule, shapes, []);
      const copies = layout.parts[0]!.copies;
      expect(copies).toHaveLength(21);
      const rings = copies.map((copy) =>
        shapeAt(
          shapes.find((s) => s.id === copy.id)!,
          copy
        )
      );
      for (const ring of rings.flat())
        for (const p of ring) {
          expect(p.x).toBeGreaterThanOrEqual(rule.margin - 0.01);
          expect(p.x).toBeLessThanOrEqual(600 - rule.margin + 0.01);
          expect(p.y).toBeGreaterThanOrEqual(rule.lead - 0.01);
          expect(p.y).toBeLessThanOrEqual(layout.length - rule.tail + 0.01);
        }
      for (let i = 0; i < rings.length; i++)
        for (let j = 0; j < i; j++) expect(areaWithin(intersect(rings[i]!, rings[j]!))).toBeLessThan(1e-6);
      if (turnStep === 90) {
        // A disc lies within a ring's box and so in its hole.
        const held = copies.filter((d) => d.id === 'disc' && copies.some((r) => r.id === 'ring' && inside(d, r)));
        expect(held.length).toBeGreaterThanOrEqual(1);
        const boxes = placed(roll(600), { ...rule, placing: 'close' }, shapes, []);
        expect(layout.length).toBeLessThan(boxes.length * 0.85);
      }
    }
  });
  const inside = (p: PlacedCopy, q: PlacedCopy) =>
    p.x > q.x && p.y > q.y && p.x + p.width < q.x + q.width && p.y + p.height < q.y + q.height;

  it('takes an outline of two hundred thousand points', () => {
    const rule: PlaceRule = { ...RULE, placing: 'shapes', gapX: 0, gapY: 0, turnStep: 0, effort: 'quick' };
    const star = disc(100, 200_000);
    const layout = placed(roll(600), rule, [item({ id: 'star', width: 200, height: 200, copies: 2, shape: [star] })], []);
    expect(layout.parts[0]!.copies).toHaveLength(2);
  });

  it('gives the box of a piece at any angle', () => {
    expect(turnedSize(30, 10, 90)).toEqual({ width: 10, height: 30 });
    expect(turnedSize(30, 10, 180)).toEqual({ width: 30, height: 10 });
    expect(turnedSize(10, 10, 45).width).toBeCloseTo(10 * Math.SQRT2, 9);
  });
});

describe('straight cuts', () => {
  it('are one where pieces lie nearer to each other than a cutter steps, and two where they do not', () => {
    const column = (gap: number) => Array.from({ length: 4 }, (_, i) => ({ x: 0, y: i * (30 + gap), width: 50, height: 30 }));
    for (const [gap, across] of [
      [0, 5],
      [1e-4, 5],
      [0.01, 5],
      [0.05, 8],
      [3, 8]
    ] as const) {
      const pieces = column(gap);
      checkCuts(pieces);
      const cuts = straightCuts(pieces, { x: 0, y: 0, width: 50, height: pieces.at(-1)!.y + 30 })!;
      expect([gap, cuts.filter(({ from, to }) => from.y === to.y).length]).toEqual([gap, across]);
    }
  });
});
