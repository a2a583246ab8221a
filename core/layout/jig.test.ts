import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { boxAround } from '../geometry/box';
import { turnedSize } from '../geometry/matrix';
import { areaWithin } from '../geometry/path';
import { gapsOf, gridOf, Jig, NEW_JIG, ORIGINS, outlineAt, outlineOf, pitchOf, placeKey, pocketsOf, stockJigOf } from './jig';
import { faultsOf, faultWords } from './jig-faults';
import { CORNERS } from './placement';

const jig = (over: Partial<Jig> = {}): Jig => Jig.parse({ ...NEW_JIG, ...over });
const mm = (min: number, max: number) => fc.integer({ min: min * 10, max: max * 10 }).map((v) => v / 10);

const anyJig: fc.Arbitrary<Jig> = fc
  .record({
    width: mm(5, 90),
    height: mm(5, 90),
    columns: fc.integer({ min: 1, max: 9 }),
    rows: fc.integer({ min: 1, max: 9 }),
    gapX: mm(0, 30),
    gapY: mm(0, 30),
    from: fc.constantFrom(...ORIGINS),
    startX: mm(0, 40),
    startY: mm(0, 40),
    shift: fc.constantFrom('none', 'rows', 'columns'),
    turn: fc.constantFrom(0, 90, 180, 270),
    turnSecond: fc.boolean(),
    along: fc.constantFrom('rows', 'columns'),
    corner: fc.constantFrom(...CORNERS),
    thereAndBack: fc.boolean()
  })
  .map(({ width, height, along, corner, thereAndBack, ...rest }) =>
    jig({
      ...rest,
      turn: rest.turn as Jig['turn'],
      shift: rest.shift as Jig['shift'],
      thing: { widthMm: width, heightMm: height, outline: { kind: 'rectangle', radiusMm: 0 } },
      order: { along: along as 'rows', from: corner, thereAndBack }
    })
  );
/** The box that a place's thing takes on the bed. */
const boxAt = (of: Jig, at: { x: number; y: number; turn: number }) => {
  const { width, height } = turnedSize(of.thing.widthMm, of.thing.heightMm, at.turn);
  return { x: at.x - width / 2, y: at.y - height / 2, width, height };
};

describe('the grid of a jig', () => {
  it('has each place once, a pitch from the next, and no two on each other', () => {
    fc.assert(
      fc.property(anyJig, (of) => {
        const pockets = pocketsOf(of);
        expect(pockets).toHaveLength(of.columns! * of.rows!);
        expect(new Set(pockets.map(({ key }) => key)).size).toBe(pockets.length);
        expect(pockets.map(({ number }) => number)).toEqual(pockets.map((_, i) => i + 1));
        const byKey = new Map(pockets.map((pocket) => [pocket.key, pocket]));
        const pitch = pitchOf(of);
        for (const { column, row, x, y } of pockets) {
          const [right, away] = [byKey.get(placeKey(column + 1, row)), byKey.get(placeKey(column, row + 1))];
          if (right) expect(right.x - x).toBeCloseTo(pitch.x, 6);
          if (away) expect(away.y - y).toBeCloseTo(pitch.y, 6);
        }
        expect(faultsOf(of, pockets).filter(({ kind }) => kind === 'overlap')).toEqual([]);
      })
    );
  });

  it('begins as far from its corner as is said, or lies around the middle', () => {
    fc.assert(
      fc.property(anyJig, (of) => {
        const box = boxAround(
          pocketsOf(of).map((at) => {
            const { x, y, width, height } = boxAt(of, at);
            return [{ x, y }, { x: x + width, y: y + height }]; // prettier-ignore
          })
        )!;
        const { bed, from, startX, startY } = of;
        if (from === 'centre') {
          expect(box.x + box.width / 2).toBeCloseTo(bed.widthMm / 2 + startX, 6);
          expect(box.y + box.height / 2).toBeCloseTo(bed.lengthMm / 2 + startY, 6);
        } else {
          expect(from.endsWith('left') ? box.x : bed.widthMm - box.x - box.width).toBeCloseTo(startX, 6);
          expect(from.startsWith('front') ? box.y : bed.lengthMm - box.y - box.height).toBeCloseTo(startY, 6);
        }
      })
    );
  });

  it('of as many as fit holds no place off the bed, and not one more would fit', () => {
    fc.assert(
      fc.property(anyJig, mm(200, 900), mm(200, 900), (one, widthMm, lengthMm) => {
        // Smaller things would be more than a jig may have.
        fc.pre(pitchOf(one).x >= 14 && pitchOf(one).y >= 14);
        const of = { ...one, columns: null, rows: null, bed: { widthMm, lengthMm, origin: one.bed.origin } };
        const { columns, rows } = gridOf(of);
        // One column and one row there are also where they have no room.
        fc.pre(columns > 1 && rows > 1);
        expect(faultsOf(of)).toEqual([]);
        for (const more of [
          { columns: columns + 1, rows },
          { columns, rows: rows + 1 }
        ])
          expect(faultsOf({ ...of, ...more }).map(({ kind }) => kind)).toContain('off the bed');
      })
    );
  });

  it('follows gap and pitch, whichever is typed', () => {
    fc.assert(
      fc.property(anyJig, (of) => {
        const { gapX, gapY } = gapsOf(of, pitchOf(of));
        expect(gapX).toBeCloseTo(of.gapX, 9);
        expect(gapY).toBeCloseTo(of.gapY, 9);
      })
    );
    expect(() => gapsOf(NEW_JIG, { x: 79, y: 60 })).toThrow('A pitch of 79 mm across is less than the thing, which takes 80 mm');
    expect(Jig.safeParse({ ...NEW_JIG, gapX: -1 }).success).toBe(false);
  });

  it('is filled along rows or columns, from any corner, there and back', () => {
    const order = (along: 'rows' | 'columns', from: (typeof CORNERS)[number], thereAndBack: boolean) =>
      pocketsOf(jig({ columns: 3, rows: 2, order: { along, from, thereAndBack } })).map(({ key }) => key);
    expect(order('rows', 'front left', false)).toEqual(['1.1', '2.1', '3.1', '1.2', '2.2', '3.2']);
    expect(order('rows', 'back right', false)).toEqual(['3.2', '2.2', '1.2', '3.1', '2.1', '1.1']);
    expect(order('columns', 'front right', true)).toEqual(['3.1', '3.2', '2.2', '2.1', '1.1', '1.2']);
  });

  it('keeps a place’s own offset and turn apart from it, and counts none that is off', () => {
    const plain = pocketsOf(jig());
    const moved = pocketsOf(jig({ nudges: { '2.1': { dx: 0.4, dy: -0.2, turn: 1.5 } }, off: ['1.1'] }));
    const [was, is] = [plain, moved].map((all) => all.find(({ key }) => key === '2.1')!);
    expect([is!.x - was!.x, is!.y - was!.y, is!.turn]).toEqual([expect.closeTo(0.4, 9), expect.closeTo(-0.2, 9), 1.5]);
    expect(is!.number).toBe(1);
    expect(moved.at(-1)).toMatchObject({ key: '1.1', number: 0, isOff: true });
    expect(stockJigOf(7, jig({ off: ['1.1'] })).pockets).toHaveLength(23);
  });

  it('has no more places than can be', () => {
    expect(() => pocketsOf(jig({ columns: 100, rows: 51 }))).toThrow('100 × 51 are 5,100 places; a jig has at most 5,000.');
    expect(pocketsOf(jig({ columns: 100, rows: 50 }))).toHaveLength(5000);
  });
});

describe('things of any shape', () => {
  const thing = (outline: Jig['thing']['outline'], widthMm = 40, heightMm = 20): Jig['thing'] => ({ widthMm, heightMm, outline });
  it('have the area that they have, wherever and however they lie', () => {
    const ellipse = thing({ kind: 'ellipse' });
    expect(areaWithin(outlineOf(ellipse)) / (Math.PI * 20 * 10)).toBeCloseTo(1, 2);
    const rounded = thing({ kind: 'rectangle', radiusMm: 5 });
    expect(Math.abs(areaWithin(outlineOf(rounded)) - (800 - (4 - Math.PI) * 25))).toBeLessThan(2);
    expect(areaWithin(outlineOf(thing({ kind: 'rectangle', radiusMm: 500 })))).toBeGreaterThan(700);
    const ring = thing({ kind: 'path', data: 'M0 0L40 0L40 20L0 20ZM10 5L30 5L30 15L10 15Z' });
    fc.assert(
      fc.property(mm(-50, 50), mm(-50, 50), fc.integer({ min: 0, max: 359 }), (x, y, turn) => {
        for (const one of [ellipse, rounded, ring]) {
          const at = outlineAt(one, { x, y, turn });
          expect(areaWithin(at.slice(0, 1))).toBeCloseTo(areaWithin(outlineOf(one).slice(0, 1)), 6);
          const box = boxAround(at)!;
          const size = turnedSize(one.widthMm, one.heightMm, turn);
          expect(box.width).toBeLessThanOrEqual(size.width + 1e-6);
          expect(Math.abs(box.x + box.width / 2 - x)).toBeLessThan(0.1);
        }
      })
    );
  });

  it('are refused where their outline is open, flat or none', () => {
    const of = (data: string) => Jig.safeParse({ ...NEW_JIG, thing: thing({ kind: 'path', data }) });
    expect(of('M0 0L40 0L40 20Z').success).toBe(true);
    for (const data of ['', 'M0 0L40 0L40 20', 'M0 0L40 0Z', 'hello', 'M0 0L9 0L18 0Z'])
      expect(of(data).error?.issues[0]?.message).toBe('This outline is open, or is none.');
  });
});

describe('what is wrong with a jig', () => {
  it('is said with the figure: off the bed, on each other; not of places that are off', () => {
    const number = (of: Jig) => (key: string) => pocketsOf(of).find((pocket) => pocket.key === key)!.number;
    const off = jig({ columns: 30, rows: 1, startX: 0 });
    const [first] = faultsOf(off);
    expect(first).toMatchObject({ kind: 'off the bed', key: '24.1' });
    expect(faultWords(first!, number(off), 'mm')).toBe('Pocket 24 reaches 35 mm beyond the bed.');
    const close = jig({ nudges: { '2.1': { dx: -6, dy: 0, turn: 0 } } });
    expect(faultsOf(close).map((fault) => faultWords(fault, number(close), 'mm'))).toEqual([
      'Pockets 1 and 2 lie on each other by 1 mm.'
    ]);
    expect(faultsOf({ ...close, off: ['1.1'] })).toEqual([]);
    // Boxes that meet where outlines do not are no fault.
    const rounds = jig({
      thing: { widthMm: 50, heightMm: 50, outline: { kind: 'ellipse' } },
      nudges: { '2.1': { dx: -10, dy: 25, turn: 0 }, '2.2': { dx: 0, dy: 60, turn: 0 } },
      columns: 2,
      rows: 1
    });
    expect(faultsOf(rounds)).toEqual([]);
  });

  it('is beyond the plate that holds the things, where there is one, or beyond the bed', () => {
    const plate = { x: 10, y: 10, widthMm: 200, lengthMm: 120 };
    const small = jig({ columns: 2, rows: 2, plate });
    const told = (of: Jig) => faultsOf(of).map((fault) => faultWords(fault, (key) => pocketsOf(of).find((one) => one.key === key)!.number, 'mm')); // prettier-ignore
    expect(told(small)).toEqual([]);
    expect(told({ ...small, plate: { ...plate, widthMm: 170 } })).toEqual([
      'Pocket 2 reaches 5 mm beyond the plate.',
      'Pocket 4 reaches 5 mm beyond the plate.'
    ]);
    expect(told({ ...small, startX: -4 })[0]).toBe('Pocket 1 reaches 4 mm beyond the bed.');
  });

  it('is found among thousands of places', () => {
    const many = jig({
      bed: { widthMm: 3400, lengthMm: 2000, origin: 'front left' },
      thing: { widthMm: 28, heightMm: 28, outline: { kind: 'ellipse' } },
      columns: 100,
      rows: 50,
      nudges: { '50.25': { dx: 10, dy: 0, turn: 0 } }
    });
    expect(faultsOf(many)).toMatchObject([{ kind: 'overlap', key: '50.25', on: '51.25' }]);
  });
});
