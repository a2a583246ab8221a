import { describe, expect, it } from 'vitest';
import { seededRandom } from '$core/geometry/random';
import { Jig, NEW_JIG, outlineOf, pocketsOf } from '$core/layout/jig';
import { project } from '$core/photo/homography';
import { proposalOf } from '$core/photo/proposal';
import { PhotoError, rectifyByCorners, rectifyByMarks } from '$core/photo/targets';
import { straighten, thingsIn } from '$core/photo/things';
import { layDown, LaidOut, takePhoto, type LyingThing } from './bed';

const BED = { widthMm: 1000, lengthMm: 700 };
const greyOf = ({ rgb, width, height }: { rgb: Uint8Array; width: number; height: number }) => ({
  pixels: Uint8Array.from({ length: width * height }, (_, i) => (rgb[i * 3]! + 2 * rgb[i * 3 + 1]! + rgb[i * 3 + 2]!) / 4),
  width,
  height
});

/** A jig on that bed, made up by a seed; things laid in with errors. */
function made(seed: number): { jig: Jig; lying: LyingThing[] } {
  const random = seededRandom(seed);
  const between = (a: number, b: number) => a + random() * (b - a);
  const kind = (['rectangle', 'rounded', 'ellipse'] as const)[seed % 3]!;
  const [widthMm, heightMm] = [Math.round(between(40, 110)), Math.round(between(30, 80))];
  const gap = Math.round(between(6, 25));
  const jig = Jig.parse({
    ...NEW_JIG,
    bed: BED,
    thing: {
      widthMm,
      heightMm,
      outline: kind === 'ellipse' ? { kind } : { kind: 'rectangle', radiusMm: kind === 'rounded' ? 10 : 0 }
    },
    columns: Math.max(2, Math.floor((BED.widthMm - 160) / (widthMm + gap)) - 1),
    rows: Math.max(2, Math.floor((BED.lengthMm - 120) / (heightMm + gap))),
    gapX: gap,
    gapY: gap,
    from: 'centre',
    startX: 0,
    startY: 0,
    shift: seed % 4 === 1 ? 'rows' : 'none'
  });
  const outline = outlineOf(jig.thing);
  const lying = layDown(
    LaidOut.parse({
      things: pocketsOf(jig).map(({ x, y, turn }) => ({ x, y, turn, width: widthMm, height: heightMm, outline })),
      scatterMm: 1.2,
      scatterTurn: 2,
      seed
    })
  );
  return { jig, lying };
}

/** How far each thing is from the nearest place that was found, mm. */
const farthest = (lying: readonly LyingThing[], jig: Jig): number => {
  const places = pocketsOf(jig).filter(({ isOff }) => !isOff);
  return Math.max(...lying.map(({ x, y }) => Math.min(...places.map((at) => Math.hypot(at.x - x, at.y - y)))));
};

describe('a photo of a loaded jig', () => {
  it('gives the places of all things within 0.3 mm, however it is held: 50 of them', () => {
    const worst: number[] = [];
    for (let seed = 1; seed <= 50; seed++) {
      const { jig, lying } = made(seed);
      const photo = takePhoto(lying, [181, 138, 58], BED, { px: 1200, seed, marks: true });
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
    const { jig, lying } = made(4);
    const photo = takePhoto(lying, [40, 90, 170], BED, { px: 1000, seed: 4, marks: false });
    expect(() => rectifyByMarks(greyOf(photo), BED)).toThrow(PhotoError);
    expect(() => rectifyByMarks(greyOf(photo), BED)).toThrow(/[0-3] of 9 marks are found/);
    const corners = [[0, 0], [BED.widthMm, 0], [BED.widthMm, BED.lengthMm], [0, BED.lengthMm]].map(([x, y]) => project(photo.toPicture, { x: x!, y: y! })); // prettier-ignore
    const { toPicture } = rectifyByCorners(corners, BED);
    const found = proposalOf(thingsIn(straighten(photo, toPicture, BED), BED, false), { ...NEW_JIG, bed: jig.bed });
    expect(farthest(lying, found.jig)).toBeLessThan(0.3);
    expect(() => rectifyByCorners([...corners].reverse(), BED)).toThrow('do not go round the bed');
  });

  it('with nothing on it says so', () => {
    const photo = takePhoto([], [0, 0, 0], BED, { px: 800, seed: 9, marks: true });
    const { toPicture } = rectifyByMarks(greyOf(photo), BED);
    expect(() => thingsIn(straighten(photo, toPicture, BED), BED, true)).toThrow('No things are found in this picture');
  });
});
