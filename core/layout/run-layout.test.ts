import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { madePiece, madeRule } from '../../tests/made/laid';
import { apply, chain, rotation, translation, turnedInPlace } from '../geometry/matrix';
import { evenSides, sizeBeyond, turnedSides, type Box } from '../geometry/box';
import { wholePage } from '../artwork/preparation';
import { pieceKey, pieceOf } from './pieces';
import { DEFAULT_CROP, DEFAULT_EYELETS, eyeletPlaces, NO_FINISHING, roomOf } from '../marks/finishing';
import type { Finishing } from '../marks/finishing-choice';
import { textFlats } from '../marks/lettering';
import { shapeAt, type Stock } from './placement';
import { dressPart, layOutRun, ripPieces, type RunLayoutRule } from './run-layout';
import { finishedToCopy, itemOf, type RunPiece } from './run-piece';

const RULE = madeRule({ gapY: 6, align: 'centre' });

const ROLL: Stock = { kind: 'roll', width: 1300 };

const anyFinishing = fc.record({
  crop: fc.option(fc.constant(DEFAULT_CROP), { nil: null }),
  centre: fc.boolean(),
  outline: fc.boolean(),
  folds: fc.constantFrom([], [20]),
  pockets: fc.record({
    top: fc.constantFrom(0, 40),
    right: fc.constant(0),
    bottom: fc.constantFrom(0, 30),
    left: fc.constant(0)
  }),
  hem: fc.constantFrom(0, 25),
  eyelets: fc.option(fc.constantFrom(...[0, 4, 10].map((inset) => ({ ...DEFAULT_EYELETS, inset }))), { nil: null }),
  caption: fc.boolean(),
  ink: fc.constantFrom('registration' as const, 'black' as const),
  turn: fc.constantFrom(0 as const, 90 as const, 180 as const, 270 as const),
  numbered: fc.boolean()
}) satisfies fc.Arbitrary<Finishing>;

const anySide = fc.double({ min: 0, max: 5, noNaN: true });
const anyDockets = fc
  .array(
    fc.record({
      widthMm: fc.double({ min: 40, max: 500, noNaN: true }),
      heightMm: fc.double({ min: 40, max: 500, noNaN: true }),
      bleed: fc.record({ left: anySide, top: anySide, right: anySide, bottom: anySide }),
      copies: fc.integer({ min: 1, max: 8 }),
      cut: fc.boolean(),
      finishing: anyFinishing
    }),
    { minLength: 1, maxLength: 4 }
  )
  .map((list) => list.map((d, i) => madePiece({ ...d, id: `d${i}`, of: d.copies })));

const meets = (p: Box, q: Box, e = 1e-4) =>
  p.x < q.x + q.width - e && q.x < p.x + p.width - e && p.y < q.y + q.height - e && q.y < p.y + p.height - e;

describe('a run with marks', () => {
  it('keeps every mark off every other copy’s artwork and on the roll', () => {
    fc.assert(
      fc.property(anyDockets, fc.constantFrom('rows' as const, 'straight' as const, 'close' as const), (dockets, placing) => {
        const rule = { ...RULE, placing, colourBar: true };
        const stock = { kind: 'roll' as const, width: 1300 };
        const layout = layOutRun(stock, rule, dockets, []);
        const [part] = layout.parts;
        if (!part) return;
        const { marks, rings, flats } = dressPart(part, stock, rule, dockets);
        // Of each copy what is artwork: the finished size with its bleed.
        const artworks = part.copies.map((copy) => {
          const one = dockets.find((d) => d.id === copy.id)!;
          const toCopy = finishedToCopy(one, copy);
          const p = apply(toCopy, { x: -one.bleed.left, y: -one.bleed.top });
          const q = apply(toCopy, { x: one.widthMm + one.bleed.right, y: one.heightMm + one.bleed.bottom });
          return {
            copy,
            art: { x: Math.min(p.x, q.x), y: Math.min(p.y, q.y), width: Math.abs(q.x - p.x), height: Math.abs(q.y - p.y) }
          };
        });
        const printed: Box[] = [
          ...[...marks, ...rings].map(({ x, y, diameter }) => ({
            x: x - diameter / 2,
            y: y - diameter / 2,
            width: diameter,
            height: diameter
          })),
          ...flats
        ];
        for (const mark of printed) {
          expect(mark.x).toBeGreaterThanOrEqual(-1e-3);
          expect(mark.x + mark.width).toBeLessThanOrEqual(stock.width + 1e-3);
          expect(mark.y).toBeGreaterThanOrEqual(-1e-3);
          expect(mark.y + mark.height).toBeLessThanOrEqual(part.length + 1e-3);
          // A mark lies in one copy's box, or in none; it meets the artwork of no other.
          const box = part.copies.find((copy) => meets(mark, copy));
          for (const { copy, art } of artworks) if (copy !== box && meets(mark, art)) expect([mark, art]).toBe('apart');
        }
      }),
      { numRuns: 60 }
    );
  });

  it('counts marks, hems and pockets in the size', () => {
    const finishing: Finishing = { ...NO_FINISHING, hem: 25, pockets: { top: 40, right: 0, bottom: 0, left: 0 } };
    expect(roomOf({ widthMm: 500, heightMm: 300, bleed: evenSides(3) }, finishing)).toEqual({
      top: 65,
      right: 25,
      bottom: 25,
      left: 25
    });
    const crop: Finishing = { ...NO_FINISHING, crop: DEFAULT_CROP };
    expect(itemOf(madePiece({ bleed: evenSides(3), finishing: crop }))).toMatchObject({
      width: 90 + 2 * 12,
      height: 90 + 2 * 12
    });
    expect(itemOf(madePiece({ widthMm: 60, finishing: { ...NO_FINISHING, turn: 90 } }))).toMatchObject({ width: 90, height: 60 });
  });

  it('spaces eyelets evenly, no farther apart than said, corners once', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 200, max: 9000, noNaN: true }),
        fc.double({ min: 200, max: 3000, noNaN: true }),
        fc.double({ min: 50, max: 1000, noNaN: true }),
        (widthMm, heightMm, spacing) => {
          const places = eyeletPlaces({ widthMm, heightMm }, { ...DEFAULT_EYELETS, spacing });
          const top = places
            .filter((p) => p.y === DEFAULT_EYELETS.inset)
            .map((p) => p.x)
            .sort((a, b) => a - b);
          expect(top[0]).toBeCloseTo(DEFAULT_EYELETS.inset, 6);
          expect(top.at(-1)).toBeCloseTo(widthMm - DEFAULT_EYELETS.inset, 6);
          const steps = top.slice(1).map((x, i) => x - top[i]!);
          expect(Math.max(...steps)).toBeLessThanOrEqual(spacing + 1e-6);
          expect(Math.max(...steps) - Math.min(...steps)).toBeLessThan(1e-6);
          const keys = new Set(places.map((p) => `${p.x.toFixed(3)}/${p.y.toFixed(3)}`));
          expect(keys.size).toBe(places.length);
        }
      )
    );
    const counted = eyeletPlaces({ widthMm: 2000, heightMm: 800 }, { ...DEFAULT_EYELETS, by: 'count', across: 5, down: 3 });
    expect(counted).toHaveLength(2 * 5 + 2 * 3 - 4);
  });

  it('has lettering that lies within its own copy, however long its words and however small the piece', () => {
    const piece = fc.record({
      widthMm: fc.double({ min: 12, max: 300, noNaN: true }),
      heightMm: fc.double({ min: 12, max: 300, noNaN: true }),
      copies: fc.integer({ min: 1, max: 5 }),
      caption: fc.oneof(
        fc.constantFrom('Docket 7 · HARBOUR WWWWWWWWWWWWWWWWWWWWWWWWWWWWWWWW', 'Ελένη Жук', 'x'),
        fc.string({ maxLength: 200 })
      ),
      turn: fc.constantFrom(0 as const, 90 as const, 180 as const, 270 as const),
      centre: fc.boolean()
    });
    const stock = { kind: 'roll' as const, width: 1300 };
    fc.assert(
      fc.property(fc.array(piece, { minLength: 1, maxLength: 4 }), (all) => {
        const dockets = all.map(({ turn, centre, ...one }, i) =>
          madePiece({ ...one, id: String(i), finishing: { ...NO_FINISHING, caption: true, crop: DEFAULT_CROP, turn, centre } })
        );
        const part = layOutRun(stock, RULE, dockets, []).parts[0]!;
        const { letters } = dressPart(part, stock, RULE, dockets);
        expect(letters).toHaveLength(part.copies.length);
        letters.forEach(({ x, y, heightMm, text, turn }, i) => {
          const copy = part.copies[i]!;
          const drawn = textFlats(text, heightMm).flats;
          const place = chain(rotation(turn), translation(x, y));
          for (const flat of drawn)
            for (const [dx, dy] of [
              [0, 0],
              [flat.width, flat.height]
            ] as const) {
              // prettier-ignore
              const at = apply(place, { x: flat.x + dx, y: flat.y + dy });
              // A dot of lettering is a seventh of a millimetre.
              expect(at.x).toBeGreaterThanOrEqual(copy.x - 0.2);
              expect(at.x).toBeLessThanOrEqual(copy.x + copy.width + 0.2);
              expect(at.y).toBeGreaterThanOrEqual(copy.y - 0.2);
              expect(at.y).toBeLessThanOrEqual(copy.y + copy.height + 0.2);
            }
          expect(text.endsWith(` of ${dockets.find(({ id }) => id === copy.id)!.copies}`)).toBe(true);
        });
      }),
      { numRuns: 12 }
    );
  });

  it('numbers copies through the runs that a docket is divided into', () => {
    const one = madePiece({ copies: 2, first: 3, of: 9, finishing: { ...NO_FINISHING, numbered: true } });
    const stock = { kind: 'roll' as const, width: 1300 };
    const { letters } = dressPart(layOutRun(stock, RULE, [one], []).parts[0]!, stock, RULE, [one]);
    expect(letters.map(({ text }) => text)).toEqual(['4 of 9', '5 of 9']);
  });

  it('tells the RIP pieces that lie where the layout has them, turned as it has them', () => {
    fc.assert(
      fc.property(anyDockets, (dockets) => {
        const stock = { kind: 'roll' as const, width: 1300 };
        const { parts } = layOutRun(stock, { ...RULE, placing: 'close' }, dockets, []);
        const artwork = { file: 'f', page: 0, prepare: {} as never, sources: { rgb: '', cmyk: '', grey: '' } };
        const artworks = new Map(dockets.map((d) => [d.id, artwork]));
        for (const part of parts) {
          const { pieces } = ripPieces(part.copies, RULE, dockets, artworks, ROLL);
          pieces.forEach((piece, i) => {
            const copy = part.copies[i]!;
            expect(piece.x).toBeGreaterThanOrEqual(copy.x - 1e-6);
            expect(piece.y).toBeGreaterThanOrEqual(copy.y - 1e-6);
            expect(piece.turn).toBe((dockets.find((d) => d.id === copy.id)!.finishing.turn + copy.turn) % 360);
          });
        }
      }),
      { numRuns: 30 }
    );
  });

  it('places what is cut by a contour by it, and clips what prints to the middle of the gap', () => {
    const triangle = [
      [
        { x: 0, y: 0 },
        { x: 90, y: 0 },
        { x: 0, y: 90 }
      ]
    ];
    const one = madePiece({ cut: true, copies: 6, bleed: evenSides(3), contour: triangle });
    const rule: RunLayoutRule = { ...RULE, placing: 'shapes', gapX: 4, gapY: 4 };
    const layout = layOutRun({ kind: 'roll', width: 300 }, rule, [one], []);
    const rows = layOutRun({ kind: 'roll', width: 300 }, { ...rule, placing: 'rows' }, [one], []);
    expect(layout.length).toBeLessThan(rows.length);
    const artworks = new Map([['a', { file: 'f', page: 0, prepare: {} as never, sources: { rgb: '', cmyk: '', grey: '' } }]]);
    const { sources } = ripPieces(layout.parts[0]!.copies, rule, [one], artworks, ROLL);
    const xs = sources[0]!.clip!.flat().map((p) => p.x);
    expect(Math.min(...xs)).toBeCloseTo(-2, 1);
    // The contour of a placed copy is where the layout says that its piece is cut.
    const copy = layout.parts[0]!.copies[0]!;
    const placed = shapeAt(itemOf(one), copy).flat();
    const cut = triangle.flat().map((p) => apply(finishedToCopy(one, copy), p));
    for (const p of cut) expect(Math.min(...placed.map((q) => Math.hypot(p.x - q.x, p.y - q.y)))).toBeLessThan(1e-6);
    // With crop marks around it is a rectangle again.
    expect(itemOf({ ...one, finishing: { ...NO_FINISHING, crop: DEFAULT_CROP } }).shape).toBeUndefined();
  });
});

describe('pieces of one docket', () => {
  it('have names that tell docket and piece, the first the docket’s own', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 0, max: 5000 }), (docket, piece) => {
        const ref = { docket: String(docket), piece };
        expect(pieceOf(pieceKey(ref))).toEqual(ref);
      })
    );
    expect(pieceKey({ docket: '12', piece: 0 })).toBe('12');
  });

  it('are placed, captioned and drawn each as its own, with bleed where they have it', () => {
    const outer = 12;
    const panel = (piece: number, of: number): RunPiece =>
      madePiece({
        id: pieceKey({ docket: '7', piece }),
        docket: '7',
        piece,
        widthMm: 200,
        mayTurn: false,
        heightMm: 400,
        // A strip of a wall has bleed on its outer edges alone.
        bleed: { left: piece === 0 ? outer : 0, top: outer, right: piece === of - 1 ? outer : 0, bottom: outer },
        finishing: { ...NO_FINISHING, caption: true },
        caption: `Docket 7, panel ${piece + 1} of ${of}`
      });
    const panels = [0, 1, 2].map((piece) => panel(piece, 3));
    const stock = { kind: 'roll' as const, width: 1300 };
    const layout = layOutRun(stock, RULE, panels, []);
    const part = layout.parts[0]!;
    expect(part.copies.map(({ id }) => pieceOf(id))).toEqual([0, 1, 2].map((piece) => ({ docket: '7', piece })));
    expect(part.copies.map(({ width }) => width)).toEqual([212, 200, 212]);
    const { letters } = dressPart(part, stock, RULE, panels);
    expect(letters.map(({ text }) => text)).toEqual([1, 2, 3].map((n) => `Docket 7, panel ${n} of 3 · 1 of 1`));
    const page = (x: number) => ({
      file: 'wall',
      page: 0,
      prepare: { ...wholePage({ widthMm: 600, heightMm: 400 }), region: { x, y: 0, width: 200, height: 400 } },
      sources: { rgb: '', cmyk: '', grey: '' }
    });
    const pages = new Map(panels.map((one, i) => [one.id, { ...page(i * 200), ...(i === 1 && { records: [7, 9] }) }]));
    const copies = part.copies.map((copy, i) => (i === 1 ? { ...copy, record: 9 } : copy));
    const { sources, pieces } = ripPieces(copies, RULE, panels, pages, ROLL);
    expect(() => ripPieces(part.copies, RULE, panels, pages, ROLL)).toThrow('has no page');
    expect(sources.map(({ prepare, bleed }) => [prepare.region.x, bleed.left, bleed.right])).toEqual([
      [0, outer, 0],
      [200, 0, 0],
      [400, 0, outer]
    ]);
    expect(pieces.map(({ overlay }) => overlay)).toEqual([undefined, 1, undefined]);
    // Each lies where its copy does: its bleed begins at the copy's own edge.
    pieces.forEach((placed, i) => expect(placed.x).toBeCloseTo(part.copies[i]!.x, 6));
  });

  it('has sides that turn with it', () => {
    const sides = { left: 1, top: 2, right: 3, bottom: 4 };
    expect(turnedSides(sides, 90)).toEqual({ left: 4, top: 1, right: 2, bottom: 3 });
    for (const turn of [0, 90, 180, 270, -90, 450]) {
      expect(turnedSides(turnedSides(sides, turn), -turn)).toEqual(sides);
      const { left, top } = turnedSides(sides, turn);
      // Where the finished corner comes to lie when the whole box is turned.
      const box = sizeBeyond(10, 20, sides);
      const corners = [0, 10].flatMap((x) =>
        [0, 20].map((y) => apply(turnedInPlace(box.width, box.height, turn), { x: x + 1, y: y + 2 }))
      );
      expect(Math.min(...corners.map((p) => p.x))).toBeCloseTo(left, 9);
      expect(Math.min(...corners.map((p) => p.y))).toBeCloseTo(top, 9);
    }
  });
});
