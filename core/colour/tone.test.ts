import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  beforeTone,
  isPlainTone,
  sameTone,
  straightTone,
  toneAfter,
  toneBytes,
  toneFunction,
  toneTables,
  ToneCurve,
  withoutPoint,
  withPoint,
  type Tone
} from './tone';

/** Rising curves of any number of points. */
const curve: fc.Arbitrary<ToneCurve> = fc
  .uniqueArray(fc.tuple(fc.integer({ min: 1, max: 99 }), fc.integer({ min: 0, max: 100 })), {
    maxLength: 8,
    selector: ([x]) => x
  })
  .chain((middle) =>
    fc.tuple(fc.constant(middle), fc.integer({ min: 0, max: 100 }), fc.integer({ min: 0, max: 100 })).map(([points, p, q]) => {
      const xs = [0, ...points.map(([x]) => x).sort((a, b) => a - b), 100];
      const ys = [p, q, ...points.map(([, y]) => y)].sort((a, b) => a - b);
      return { points: xs.map((x, i): [number, number] => [x / 100, ys[i]! / 100]), mayFall: false };
    })
  );

describe('a tone curve', () => {
  it('goes through its points, and rises wherever they do', () => {
    fc.assert(
      fc.property(curve, (made) => {
        expect(ToneCurve.safeParse(made).success).toBe(true);
        const at = toneFunction(made);
        for (const [from, to] of made.points) expect(at(from)).toBeCloseTo(to, 9);
        for (let i = 1; i <= 200; i++) expect(at(i / 200)).toBeGreaterThanOrEqual(at((i - 1) / 200) - 1e-9);
      })
    );
  });

  it.each([
    [
      [
        [0, 0],
        [0.5, 0.6],
        [0.5, 0.7],
        [1, 1]
      ],
      'Two points of the curve stand on one place, 50 %.'
    ],
    [
      [
        [0, 0],
        [0.4, 0.6],
        [0.7, 0.5],
        [1, 1]
      ],
      /turns back between 40 and 70 %/
    ],
    [
      [
        [0, 0],
        [0.9, 0.9]
      ],
      'A curve goes from 0 to 100 %.'
    ],
    [[[0, 0]], 'A curve has a point at each end.'],
    [
      [
        [0, 0],
        [1, 1.2]
      ],
      'A tone is 0 to 100 %.'
    ]
  ])('%j is refused with the reason', (points, why) => {
    const read = ToneCurve.safeParse({ points });
    const said = read.error?.issues[0]?.message ?? '';
    if (typeof why === 'string') expect(said).toBe(why);
    else expect(said).toMatch(why);
  });

  it('may fall where it is told so', () => {
    expect(
      ToneCurve.safeParse({
        points: [
          [0, 1],
          [1, 0]
        ],
        mayFall: true
      }).success
    ).toBe(true);
  });

  it('stays one that can be kept, whatever is dragged, added and taken out', () => {
    const move = fc.tuple(
      fc.option(fc.nat(20), { nil: undefined }),
      fc.double({ min: -0.5, max: 1.5, noNaN: true }),
      fc.double({ min: -0.5, max: 1.5, noNaN: true }),
      fc.boolean()
    );
    fc.assert(
      fc.property(fc.array(move, { maxLength: 30 }), fc.boolean(), (moves, mayFall) => {
        let made: ToneCurve = { ...straightTone(), mayFall };
        for (const [at, x, y, out] of moves) {
          const which = at === undefined ? undefined : at % made.points.length;
          made = out ? withoutPoint(made, which ?? 0) : withPoint(made, which, [x, y]).curve;
          expect(ToneCurve.safeParse(made).error?.issues[0]?.message).toBeUndefined();
        }
      })
    );
  });
});

describe('tones', () => {
  const lift: Tone = {
    all: {
      points: [
        [0, 0],
        [0.5, 0.6],
        [1, 1]
      ],
      mayFall: false
    }
  };
  const lessRed: Tone = {
    magenta: {
      points: [
        [0, 0],
        [1, 0.8]
      ],
      mayFall: false
    }
  };

  it('apply one after the other, all channels before each', () => {
    const [cyan, magenta] = toneTables([lift, lessRed]);
    expect(cyan![128]).toBeCloseTo(toneFunction(lift.all!)(128 / 255), 9);
    expect(magenta![128]).toBeCloseTo(0.8 * toneFunction(lift.all!)(128 / 255), 9);
    expect(toneTables([])[0]![200]).toBeCloseTo(200 / 255, 9);
    expect(isPlainTone({ all: straightTone() })).toBe(true);
    expect(isPlainTone(lessRed)).toBe(false);
  });

  it('are undone by the amount before them, as far as they reach', () => {
    fc.assert(
      fc.property(curve, fc.double({ min: 0, max: 1, noNaN: true }), (made, wanted) => {
        const [table] = toneTables([{ all: made }]);
        const before = beforeTone(table!, wanted);
        const reached = toneFunction(made)(before);
        const [low, high] = [table![0]!, table![255]!];
        const within = Math.min(high, Math.max(low, wanted));
        // Between two of 256 places the curve is read straight.
        expect(Math.abs(reached - within)).toBeLessThan(0.03);
      })
    );
  });
});

describe('two tones', () => {
  const tone: fc.Arbitrary<Tone> = fc
    .record({ all: fc.option(curve), cyan: fc.option(curve), black: fc.option(curve) })
    .map((all) => Object.fromEntries(Object.entries(all).filter(([, made]) => made !== null)) as Tone);

  it('one after the other are as one, to a byte', () => {
    fc.assert(
      fc.property(tone, tone, (first, then) => {
        const bytes = (stack: Tone[]) => toneTables(stack).map((table) => [...toneBytes(table)]);
        expect(toneAfter(undefined, then)).toEqual(bytes([then]));
        const [one, other] = [bytes([first]), bytes([then])];
        const both = toneAfter(one, then);
        both.forEach((table, channel) => table.forEach((byte, v) => expect(byte).toBe(other[channel]![one[channel]![v]!])));
        expect(toneAfter(one, {})).toEqual(one);
      })
    );
  });

  it('are the same where they say the same: a straight channel is as one that is not there', () => {
    fc.assert(
      fc.property(tone, (one) => {
        expect(sameTone(one, structuredClone(one))).toBe(true);
        expect(sameTone(one, { ...one, yellow: straightTone() })).toBe(true);
        expect(sameTone(one, { ...one, yellow: { ...straightTone(), mayFall: true } })).toBe(false);
        expect(
          sameTone(one, {
            ...one,
            magenta: {
              points: [
                [0, 0],
                [0.5, 0.6],
                [1, 1]
              ],
              mayFall: false
            }
          })
        ).toBe(false);
      })
    );
  });
});
