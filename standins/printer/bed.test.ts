import { describe, expect, it } from 'vitest';
import { NEW_JIG } from '$core/layout/jig';
import { project } from '$core/photo/homography';
import { proposalOf } from '$core/photo/proposal';
import { PhotoError, rectifyByCorners, rectifyByMarks } from '$core/photo/targets';
import { straighten, thingsIn } from '$core/photo/things';
import { BED, farthest, greyOf, loadedJig } from '../../tests/made/loaded-jig';
import { takePhoto } from './bed';

describe('a photo of a loaded jig', () => {
  it('gives the places of all things within 0.3 mm, however it is held: 50 of them', () => {
    const worst: number[] = [];
    for (let seed = 1; seed <= 50; seed++) {
      const { jig, lying } = loadedJig(seed);
      const photo = takePhoto(lying, [181, 138, 58], BED, { px: 900, seed, marks: true });
      const { toPicture, residualMm, marks } = rectifyByMarks(greyOf(photo), BED);
      expect(marks, `marks of ${seed}`).toBe(9);
      expect(residualMm, `residual of ${seed}`).toBeLessThan(0.2);
      const found = proposalOf(thingsIn(straighten(photo, toPicture, BED), BED, true), { ...NEW_JIG, bed: jig.bed });
      expect(found.things, `things of ${seed}`).toBe(lying.length);
      expect(found.inGrid, `grid of ${seed}`).toBe(true);
      expect([found.jig.columns, found.jig.rows, found.jig.shift], `grid of ${seed}`).toEqual([jig.columns, jig.rows, jig.shift]);
      expect(Math.abs(found.jig.thing.widthMm - jig.thing.widthMm), `width of ${seed}`).toBeLessThan(1);
      worst.push(farthest(lying, found.jig));
    }
    expect(Math.max(...worst)).toBeLessThan(0.3);
  }, 480_000);

  it('needs its marks, or the corners of the bed', () => {
    const { jig, lying } = loadedJig(4);
    const photo = takePhoto(lying, [40, 90, 170], BED, { px: 1000, seed: 4, marks: false });
    expect(() => rectifyByMarks(greyOf(photo), BED)).toThrow(PhotoError);
    expect(() => rectifyByMarks(greyOf(photo), BED)).toThrow(/[0-3] of 9 marks are found/);
    const corners = [[0, 0], [BED.widthMm, 0], [BED.widthMm, BED.lengthMm], [0, BED.lengthMm]].map(([x, y]) => project(photo.toPicture, { x: x!, y: y! })); // prettier-ignore
    const { toPicture } = rectifyByCorners(corners, BED);
    const found = proposalOf(thingsIn(straighten(photo, toPicture, BED), BED, false), { ...NEW_JIG, bed: jig.bed });
    expect(farthest(lying, found.jig)).toBeLessThan(0.3);
    expect(() => rectifyByCorners([...corners].reverse(), BED)).toThrow('do not go round the bed');
  });

  it('on the sheet of another bed is refused, with how much larger its marks are', () => {
    const { lying } = loadedJig(3);
    const photo = takePhoto(lying, [181, 138, 58], BED, { px: 1200, seed: 3, marks: true });
    expect(() => rectifyByMarks(greyOf(photo), { ...BED, lengthMm: 1000 })).toThrow(/The marks are 1\.[3-6] times as large/);
  });

  it('with nothing on it says so', () => {
    const photo = takePhoto([], [0, 0, 0], BED, { px: 800, seed: 9, marks: true });
    const { toPicture } = rectifyByMarks(greyOf(photo), BED);
    expect(() => thingsIn(straighten(photo, toPicture, BED), BED, true)).toThrow('No things are found in this picture');
  });
});
