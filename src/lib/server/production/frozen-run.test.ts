import { describe, expect, it } from 'vitest';
import { fourInks } from '$core/inks/ink-set';
import { overlayAt } from '$core/layout/pieces';
import { BLACK } from '$core/marks/print-list';
import { FROZEN_VERSION, thaw } from './frozen-run';

describe('a run as it was RIPped', () => {
  const flat = { x: 0, y: 0, width: 8, height: 8 };
  const first = {
    plan: {
      widthMm: 100,
      lengthMm: 50,
      dpi: { x: 360, y: 360 },
      sources: [],
      pieces: [
        { source: 0, x: 1, y: 2, turned: true },
        { source: 0, x: 1, y: 2, turned: false }
      ],
      marks: [{ x: 1, y: 1, diameter: 6 }],
      flats: [
        { ...flat, inks: [255, 0, 51, 0] },
        { ...flat, inks: [0, 0, 0, 255] }
      ]
    },
    cuts: [{ docket: '1', through: true }, { docket: '1' }],
    method: 'blue-noise',
    profile: '',
    curves: []
  };

  it('by the first program is read as it was meant', () => {
    const { plan, cuts, version } = thaw(JSON.stringify(first));
    expect(version).toBe(FROZEN_VERSION);
    expect(plan.inks).toEqual(fourInks([6, 13, 21]));
    expect(plan.totalInk).toBeNull();
    const later = thaw(JSON.stringify({ ...first, drops: [4, 9, 15] }));
    expect(later.plan.inks.map(({ drops }) => drops)).toEqual(Array(4).fill([4, 9, 15]));
    expect(later).not.toHaveProperty('drops');
    expect(cuts.map(({ tool }) => tool)).toEqual(['through cut', 'kiss cut']);
    expect(plan.pieces.map(({ turn }) => turn)).toEqual([90, 0]);
    expect(plan.flats?.map(({ inks }) => inks)).toEqual([[1, 0, 0.2, 0], BLACK]);
    expect(plan.marks).toEqual([{ x: 1, y: 1, diameter: 6 }]);
  });

  it('with one bleed for all sides has it on each, and its lines are of the first piece', () => {
    const older = {
      ...first,
      version: 3,
      plan: {
        ...first.plan,
        pieces: [{ source: 0, x: 1, y: 2, turn: 0 }],
        sources: [{ file: 'f', bleedMm: 3 }],
        inks: fourInks([6, 13, 21])
      },
      cuts: [{ docket: '1', tool: 'kiss cut', path: [] }]
    };
    const { plan, cuts } = thaw(JSON.stringify(older));
    expect(plan.sources).toEqual([{ file: 'f', bleed: { left: 3, top: 3, right: 3, bottom: 3 } }]);
    expect(cuts).toEqual([{ docket: '1', piece: 0, copy: 0, tool: 'kiss cut', path: [] }]);
  });

  it('with the pages of all records in one file finds them there', () => {
    const sources = [{ file: 'f', bleed: { left: 3, top: 3, right: 3, bottom: 3 } }];
    const older = { ...first, version: 4, plan: { ...first.plan, sources: [{ ...sources[0], overlays: 'pages' }, ...sources] } };
    const [over, none] = thaw(JSON.stringify(older)).plan.sources;
    expect([0, 7, 99_999].map((page) => overlayAt(over!.overlays!, page))).toEqual(
      [0, 7, 99_999].map((page) => ({ file: 'pages', page }))
    );
    expect(none).not.toHaveProperty('overlays');
  });

  it('that waits for its records to be drawn over the one source that each had has them drawn there', () => {
    const { toDraw } = thaw(
      JSON.stringify({
        ...first,
        toDraw: [
          { source: 2, records: [1] },
          { sources: [0, 3], records: [1] }
        ]
      })
    );
    expect(toDraw!.map(({ sources }) => sources)).toEqual([[2], [0, 3]]);
  });

  it('by this program is read as it is, again and again', () => {
    const once = thaw(JSON.stringify(first));
    expect(thaw(JSON.stringify(once))).toEqual(once);
  });
});
