import { seededRandom } from '../../core/geometry/random';
import { Jig, NEW_JIG, outlineOf, pocketsOf } from '../../core/layout/jig';
import { layDown, LaidOut, type LyingThing } from '../../standins/printer/bed';

/** A loaded jig for the camera: made up by a seed, its things laid in with errors. */

export const BED = { widthMm: 1000, lengthMm: 700 };

export function loadedJig(seed: number): { jig: Jig; lying: LyingThing[] } {
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
  const things = pocketsOf(jig).map(({ x, y, turn }) => ({ x, y, turn, width: widthMm, height: heightMm, outline }));
  return { jig, lying: layDown(LaidOut.parse({ things, scatterMm: 1.2, scatterTurn: 2, seed })) };
}

/** How far each thing is from the nearest place of a jig, mm, at the most. */
export const farthest = (lying: readonly LyingThing[], jig: Jig): number => {
  const places = pocketsOf(jig).filter(({ isOff }) => !isOff);
  return Math.max(...lying.map(({ x, y }) => Math.min(...places.map((at) => Math.hypot(at.x - x, at.y - y)))));
};

/** A photo in grey. */
export const greyOf = ({ rgb, width, height }: { rgb: Uint8Array; width: number; height: number }) => ({
  pixels: Uint8Array.from({ length: width * height }, (_, i) => (rgb[i * 3]! + 2 * rgb[i * 3 + 1]! + rgb[i * 3 + 2]!) / 4),
  width,
  height
});
