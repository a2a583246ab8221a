import { describe, expect, it } from 'vitest';
import { planWall } from '../panels/panels';
import { newWall, type Wall } from '../panels/wall';
import type { CheckInput } from './check';
import { bleed, busy, division, overlap } from './walls';

const SIZE = { widthMm: 9000, heightMm: 2600 };
const FILM = { usableMm: 1290, dpi: 360, family: 'calendered' as const };
const inputOf = (wall: Wall) =>
  ({
    wall: { wall, planned: planWall(wall, SIZE, FILM), film: FILM, neededMm: 0 },
    choices: { bleedFrom: 'mirror', widthMm: 9000 }
  }) as CheckInput;

describe('what is found on a wall', () => {
  it('says how many panels and how much of seams there are, where all is well', () => {
    const said = (over: Partial<Wall>) => division(inputOf({ ...newWall(20), ...over }))[0]!.sentence;
    expect(said({})).toBe('8 panels, 18.2 m of seams.');
    expect(said({ joint: 'butt' })).toMatch(/butted\.$/);
    expect(said({ columns: { how: 'count', count: 1, widestMm: 1, seams: null } })).toBe('One panel covers it.');
  });

  it('is mended so that it is found no more', () => {
    for (const [check, over] of [
      [bleed, { bleed: { left: 3, top: 20, right: 20, bottom: 20 } }],
      [overlap, { overlapMm: 1 }]
    ] as const) {
      const [found] = check(inputOf({ ...newWall(20), ...over }));
      expect(found!.level).toBe('look');
      const after = check(inputOf(found!.mend!.change.wall!));
      expect(after.filter(({ level }) => level !== 'fine')).toEqual([]);
    }
    expect(bleed({} as CheckInput)).toEqual([]);
  });

  it('tells of the busiest seam and where along it, once the artwork was looked at', () => {
    const grid = { how: 'count' as const, count: 2, widestMm: 1, seams: null };
    const input = inputOf({ ...newWall(20), columns: { ...grid, count: 3 }, rows: grid });
    expect(busy(input)).toEqual([]);
    const under = (worst: number, worstAt = 0) => ({ mean: 0.1, worst, worstAt });
    const told = (columns: number[], rows: number) =>
      busy({
        ...input,
        wall: { ...input.wall!, busy: { columns: columns.map((one) => under(one, 0.5)), rows: [under(rows, 0.25)] } }
      })[0];
    expect(told([0.5, 0.6], 0.3)).toBeUndefined();
    expect(told([0.5, 0.9], 0.3)!.sentence).toMatch(/^Seam 2 runs through something busy 1.3 m from the top/);
    expect(told([0.5, 0.9], 0.3)!.place).toMatchObject({ x: 6000, y: expect.closeTo(1170), height: expect.closeTo(260) });
    expect(told([0.5, 0.7], 0.8)).toMatchObject({
      figure: '80 %',
      limit: '60 %',
      place: { x: expect.closeTo(1800), width: expect.closeTo(900), y: 1300 }
    });
    expect(told([0.5, 0.7], 0.8)!.sentence).toContain('Level seam 1 runs through something busy 2.25 m from the left');
  });
});
