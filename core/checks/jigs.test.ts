import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { scaleInPocket } from '../layout/run-piece';
import type { CheckInput, JigLook } from './check';
import { inJig } from './jigs';

const TAGS: Exclude<JigLook, 'gone'> = {
  name: 'Buoy tags',
  faults: 0,
  pockets: 24,
  thing: { width: 50, height: 30 },
  lies: { edge: 'cut off', size: 'own', turn: 0 },
  scale: 1,
  rollOf: null
};
const found = (jig: JigLook | undefined, widthMm = 50, heightMm = 30, isWall = false, bleedMm = 0) =>
  inJig({ unit: 'mm', jig, choices: { widthMm, heightMm, bleedMm, stack: null }, ...(isWall && { wall: {} }) } as CheckInput)[0];
const lying = (lies: Partial<typeof TAGS.lies>, scale = 1): JigLook => ({ ...TAGS, lies: { ...TAGS.lies, ...lies }, scale });

describe('a docket that is to lie in a jig', () => {
  it('is stopped where nothing can be printed in it, with what to do', () => {
    const why = (jig: JigLook, isWall = false) => {
      const { level, sentence } = found(jig, 50, 30, isWall)!;
      return `${level}: ${sentence}`;
    };
    expect(why('gone')).toBe('stop: The jig that it is to lie in was deleted. Choose another one.');
    expect(why({ ...TAGS, faults: 2 })).toMatch(/^stop: Buoy tags has pockets that lie on each other/);
    expect(why({ ...TAGS, pockets: 0 })).toBe('stop: All pockets of Buoy tags are switched off.');
    expect(why({ ...TAGS, rollOf: 'Petrel 13' })).toMatch(/^stop: Petrel 13 prints this media from the roll/);
    expect(why(TAGS, true)).toMatch(/^stop: It is a wall in panels/);
    expect(found(undefined)).toBeUndefined();
  });

  it('is held against one of its places, turned as it lies there', () => {
    const level = (jig: JigLook, width: number, height: number) => found(jig, width, height)!.level;
    expect([level(TAGS, 50, 30), level(TAGS, 50.05, 30), level(TAGS, 50.2, 30), level(TAGS, 30, 50)]).toEqual(['fine', 'fine', 'look', 'look']); // prettier-ignore
    expect(level(lying({ turn: 90 }), 30, 50)).toBe('fine');
    expect(level(lying({ edge: 'inside' }), 60, 30)).toBe('stop');
    // Bleed may be cut off, but not where it would be refused.
    expect(found(lying({}), 50, 30, false, 2)!.level).toBe('fine');
    expect(found(lying({ edge: 'inside' }), 50, 30, false, 2)).toMatchObject({ level: 'stop', figure: '54 × 34 mm' });
    expect(found(lying({ edge: 'inside' }), 46, 26, false, 2)!.level).toBe('fine');
    expect(level(lying({ edge: 'over' }), 60, 30)).toBe('fine');
    expect(level(lying({ size: 'fill' }, 2), 40, 30)).toBe('fine');
    expect(found(TAGS, 60, 30)!.sentence).toBe('It is 60 × 30 mm, a place in Buoy tags 50 × 30 mm: what is beyond the edge is lost.'); // prettier-ignore
    expect(found(TAGS)!.sentence).toBe('It lies in Buoy tags, which has 24 places of 50 × 30 mm.');
  });

  it('fits whole, or covers all, however it is turned', () => {
    const mm = fc.integer({ min: 5, max: 400 });
    fc.assert(
      fc.property(mm, mm, mm, mm, fc.constantFrom(0, 90, 180, 270), fc.constantFrom('fit' as const, 'fill' as const), (w, h, tw, th, turn, size) => {
        const rule = { size, edge: 'cut off' as const, turn: 0 as const, marginMm: 0 };
        const thing = { width: tw, height: th };
        const bleed = { left: 0, top: 0, right: 0, bottom: 0 };
        const scale = scaleInPocket({ widthMm: w, heightMm: h, bleed, turn }, thing, rule);
        const jig = { ...TAGS, thing, scale, lies: { ...TAGS.lies, size, turn } };
        expect(found(jig, w, h)!.level).toBe('fine');
        const [across, down] = turn % 180 === 0 ? [w * scale, h * scale] : [h * scale, w * scale];
        const [least, most] = [Math.min(across / tw, down / th), Math.max(across / tw, down / th)];
        expect(size === 'fit' ? most : least).toBeCloseTo(1, 6);
      })
    ); // prettier-ignore
  });
});
