import { describe, expect, it } from 'vitest';
import { planWall } from '../panels/panels';
import { newWall, type Wall } from '../panels/wall';
import type { CheckInput } from './check';
import { bleed, division, overlap } from './walls';

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
});
