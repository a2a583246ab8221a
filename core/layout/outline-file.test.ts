import { describe, expect, it } from 'vitest';
import { areaWithin } from '../geometry/path';
import { outlineOf } from './jig';
import { OutlineError, thingOf } from './outline-file';

const line = (closed: boolean, ...points: [number, number][]) => ({ points: points.map(([x, y]) => ({ x, y })), closed });
const SQUARE = line(true, [10, 10], [50, 10], [50, 30], [10, 30]);

describe('the outline of a thing from a drawing', () => {
  it('is what is drawn, from its own top left, holes included', () => {
    const thing = thingOf([SQUARE, line(true, [20, 15], [30, 15], [30, 25], [20, 25])]);
    expect([thing.widthMm, thing.heightMm]).toEqual([40, 20]);
    expect(areaWithin(outlineOf(thing))).toBeCloseTo(800 - 100, 6);
  });

  it('is joined of pieces that meet, whichever way they run', () => {
    const pieces = [line(false, [0, 0], [40, 0]), line(false, [40, 20], [40, 0.04]), line(false, [0, 0], [0, 20], [40, 20])];
    expect(areaWithin(outlineOf(thingOf(pieces)))).toBeCloseTo(800, -1);
  });

  it('that is open or crosses itself is refused, with where', () => {
    expect(() => thingOf([line(false, [10, 10], [50, 10], [50, 30])])).toThrow(OutlineError);
    expect(() => thingOf([line(false, [10, 10], [50, 10], [50, 30])])).toThrow(
      'open at 0.0 × 0.0 mm from its top left: its ends lie 44.7 mm apart'
    );
    expect(() => thingOf([line(true, [0, 0], [40, 20], [40, 0], [0, 20])])).toThrow('crosses itself at 20.0 × 10.0 mm');
    expect(() => thingOf([])).toThrow('Nothing is drawn there');
    expect(() => thingOf([line(false, [0, 0], [5, 0])])).toThrow(OutlineError);
    expect(() => thingOf(Array.from({ length: 5001 }, () => SQUARE))).toThrow('5,001 lines are drawn there');
  });
});
