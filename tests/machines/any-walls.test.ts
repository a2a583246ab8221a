import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { deltaE00, labOfRgb, type Triple } from '$core/colour/lab';
import { contains } from '$core/geometry/path';
import { inkOfAll } from '$core/layout/printed-parts';
import { boxRing, newWall, openingRing, type Opening, type Wall } from '$core/panels/wall';
import { Shop } from '$lib/server/app/shop';
import { ratesOf } from '$lib/run-rates';
import { shareOfRun } from '$lib/server/production/run-rules';
import { modeOf, oneChunk, startStandIn, temporaryFolder, until, type StandIn } from '../harness';
import { colourAt, colourOn, panelsOf, pictureFrom, type HungPanel, type Picture } from '../made/hung-wall';
import { cmykBox, madePdf } from '../made/pdf';

/** Walls divided in any way, each printed and hung: what it was shown to take and to look like against what came out. */

const folder = temporaryFolder();
let printer: StandIn;
let shop: Shop;
let conditionId: number;
let artwork: number;
const BLEED = 12;
const SIZE = { widthMm: 720, heightMm: 420 };

beforeAll(async () => {
  printer = await startStandIn('printer', { MEDIA: JSON.stringify({ name: 'Film', surface: 'gloss', widthMm: 480, lengthMm: 900_000 }) }); // prettier-ignore
  shop = new Shop(folder.path);
  const printerId = shop.machines.add('printer', 'Petrel 13', printer.url);
  shop.start();
  await shop.machines.lookNow();
  const media = shop.media.addNew({ name: 'Film', family: 'calendered', widthMm: 480 }).id;
  conditionId = shop.conditionEditing.add(printerId, media, modeOf('Petrel 13/Harbour/calendered/360/4/both ways/draft'));
  await until(() => shop.conditions.get(conditionId).hasProfile);
  // A tenth of the wall: fields of 60 mm, no two alike.
  const fields = Array.from(
    { length: 84 },
    (_, i) =>
    cmykBox(`${((i * 7) % 10) / 10} ${((i * 3) % 9) / 10} ${((i * 5) % 8) / 10} ${(i % 4) / 10}`, (i % 12) * 6, Math.floor(i / 12) * 6, 6, 6) // prettier-ignore
  );
  const page = madePdf({ width: 72, height: 42, content: fields.join(' ') });
  const { id } = await shop.artworks.take('wall.pdf', oneChunk(page));
  await until(() => shop.artworks.get(id).state === 'ready');
  artwork = id;
});
afterAll(async () => {
  await shop.close();
  printer.stop();
  folder.remove();
});

const whole = { how: 'whole', count: 2, widestMm: 1200, seams: null } as const;
const anyWall = fc.record({
  columns: fc.constantFrom<Wall['columns']>(
    { ...whole, how: 'equal' },
    { ...whole, how: 'fewest' },
    { ...whole, how: 'count', count: 5 },
    { ...whole, seams: [170, 350, 520].map((at, i) => ({ at, course: i === 1 ? [0, 9, -7, 3, 0] : [] })) }
  ),
  rows: fc.constantFrom<Wall['rows']>(whole, { ...whole, how: 'count', count: 2 }),
  film: fc.constantFrom<Wall['film']>('upright', 'lying'),
  joint: fc.constantFrom<Wall['joint']>('overlap', 'overlap', 'butt'),
  overlapMm: fc.constantFrom(null, 8, 15),
  side: fc.constantFrom<Wall['side']>('beneath', 'above', 'both'),
  onTop: fc.constantFrom<Wall['onTop']>('later', 'earlier'),
  strip: fc.constantFrom<Wall['strip']>('printed', 'blank'),
  stripMm: fc.constantFrom(0, 4),
  order: fc.constantFrom<Wall['order']>('from left', 'from right', 'from middle'),
  alternate: fc.boolean(),
  openings: fc.constantFrom<Opening[]>(
    [],
    [{ name: 'Window', x: 220, y: 90, width: 150, height: 130, shape: 'rectangle', outline: [], leftOut: true }],
    [{ name: 'Lamp', x: 500, y: 200, width: 120, height: 120, shape: 'round', outline: [], leftOut: true }],
    [{ name: 'Socket', x: 100, y: 300, width: 80, height: 80, shape: 'rectangle', outline: [], leftOut: false }]
  )
});

/** Places all over the wall, off the edges of its fields. */
const PLACES = Array.from({ length: 12 * 7 * 4 }, (_, i) => {
  const [field, corner] = [Math.floor(i / 4), i % 4];
  return { x: (field % 12) * 60 + (corner % 2 ? 44 : 16), y: Math.floor(field / 12) * 60 + (corner > 1 ? 44 : 16) };
});

/** The mean over 5 mm. */
function patch(of: (x: number, y: number) => number[], x: number, y: number): Triple {
  const sum = [0, 0, 0];
  for (let dy = -2; dy <= 2; dy++) for (let dx = -2; dx <= 2; dx++) of(x + dx, y + dy).forEach((v, k) => (sum[k]! += v / 25));
  return labOfRgb(sum[0]!, sum[1]!, sum[2]!);
}
/** Whether a place and what is around it lies on a panel. */
const hasAll = ({ part }: HungPanel, at: { x: number; y: number }, around: number) =>
  at.x - around > part.x && at.x + around < part.x + part.width && at.y - around > part.y && at.y + around < part.y + part.height;

describe('walls of any choices', () => {
  it('take the ink that was shown, and hang as they were shown', async () => {
    for (const some of fc.sample(anyWall, { numRuns: 3, seed: 11 })) {
      const wall: Wall = { ...newWall(BLEED), ...some, controlStrip: false, startMarksMm: 0 };
      const id = shop.dockets.add(artwork, 0, { conditionId, ...SIZE, bleedMm: BLEED, bleedFrom: 'mirror', cut: false, wall }).id;
      const [runId] = shop.layingOut.add([id]);
      const task = await shop.tasks.ended((await shop.ripping.rip(runId!)).id);
      expect([some, task.error]).toEqual([some, null]);
      const run = shop.runs.get(runId!);

      const { layers } = await shop.pictures.measured(id);
      const shown = inkOfAll(shareOfRun(run, id, ratesOf(run, undefined, 1), null)!.printed, layers, run.condition, 0).ml;
      const laid = run.result!.inkMl.reduce((sum, ml) => sum + ml, 0);
      expect([some, shown / laid]).toEqual([some, expect.closeTo(1, 1)]);

      const [print] = await shop.printing.start(runId!, run.condition.machineId, 1);
      await until(() => shop.prints.get(print!.id).endedAt !== null);
      const address = `${printer.url}/output/${shop.prints.row(print!.id).job}.png`;
      const { plan } = shop.runs.frozen(runId!);
      const picture = await pictureFrom(new Uint8Array(await (await fetch(address)).arrayBuffer()), plan.dpi.x);
      const proof: Picture = await pictureFrom(await shop.pictures.map(id, 'proof'), 72);
      const perMm = proof.width / (SIZE.widthMm + 2 * BLEED);
      const panels = panelsOf(plan);
      const open = wall.openings.filter(({ leftOut }) => leftOut);
      const differences: number[] = [];
      for (const at of PLACES) {
        const near = open.some((one) => contains(boxRing({ x: one.x - 12, y: one.y - 12, width: one.width + 24, height: one.height + 24 }), at)); // prettier-ignore
        if (near) continue;
        const wanted = patch((x, y) => colourAt(proof, (x + BLEED) * perMm, (y + BLEED) * perMm), at.x, at.y);
        // What hangs there is printed: on one panel at least, if not beneath another's blank strip.
        const seen = panels.filter((panel) => hasAll(panel, at, 3)).map((panel) => deltaE00(patch((x, y) => colourOn(picture, panel, { x, y }), at.x, at.y), wanted)); // prettier-ignore
        if (panels.some((panel) => hasAll(panel, at, 0) && !hasAll(panel, at, 12))) continue;
        expect([some, at, seen.length > 0]).toEqual([some, at, true]);
        // A curved seam is cut along: on one side of it the one panel is printed, on the other the next.
        differences.push(Math.min(...seen));
      }
      differences.sort((a, b) => a - b);
      expect([some, differences.length > 60]).toEqual([some, true]);
      // The machine's own profile is no nearer than this.
      expect([some, differences[Math.floor(differences.length / 2)]! < 4, differences.at(-1)! < 12]).toEqual([some, true, true]);
      // An opening is bare in its middle.
      for (const one of open) {
        const middle = { x: one.x + one.width / 2, y: one.y + one.height / 2 };
        for (const panel of panels.filter((each) => hasAll(each, middle, 3)))
          expect(Math.min(...colourOn(picture, panel, middle))).toBeGreaterThan(225);
        expect(contains(openingRing(one), middle)).toBe(true);
      }
    }
  });
});
