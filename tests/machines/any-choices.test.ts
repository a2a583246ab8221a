import fc from 'fast-check';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { pageLine } from '$core/checks/cut-lines';
import { labOfRgb, xyzToLab, type Triple } from '$core/colour/lab';
import { relativeTo } from '$core/colour/media-relative';
import { DEFAULT_CUT } from '$core/artwork/cut-choices';
import { apply, type Point } from '$core/geometry/matrix';
import { laidInk } from '$core/inks/laid-ink';
import { newLayer, type Cover, type Stack } from '$core/inks/stack';
import { Jig, NEW_JIG } from '$core/layout/jig';
import { inkOfAll } from '$core/layout/printed-parts';
import { finishedToCopy } from '$core/layout/run-piece';
import type { DocketChoices } from '$lib/docket-choices';
import { USUAL_IN_POCKET } from '$lib/in-jig';
import type { RunRule } from '$lib/run-rule';
import type { Shop } from '$lib/server/app/shop';
import type { Run } from '$lib/server/production/run';
import { ratesOf } from '$lib/run-rates';
import { shareOfRun } from '$lib/server/production/run-rules';
import type { Usage } from '$lib/server/printing/usage';
import { openFlatbedShop } from '../flatbed-shop';
import { oneChunk, temporaryFolder, until, type StandIn } from '../harness';
import { madePdf } from '../made/pdf';

/** Dockets with choices of any kind, each printed: what they were shown to take and to look like against what came out. */

const folder = temporaryFolder();
let printer: StandIn;
let shop: Shop;
let condition: number;
const artworks: number[] = [];

const DISCS = Jig.parse({
  ...NEW_JIG,
  name: 'Discs',
  bed: { widthMm: 400, lengthMm: 300 },
  thing: { widthMm: 40, heightMm: 40, outline: { kind: 'ellipse' } },
  columns: 4,
  rows: 2,
  gapX: 30,
  gapY: 30,
  startX: 40,
  startY: 40
});
/** Cut along an oval within it. */
const OVAL = {
  ...DEFAULT_CUT,
  made: [{ ...pageLine(), from: { kind: 'page' as const, shape: 'ellipse' as const, radiusMm: 0 }, offsetMm: -8 }]
};
const SPOTS = { 'Ferry Teal': [0.9, 0.1, 0.4, 0], White: [0, 0, 0, 0.1] } as const;
const PAGES = [
  madePdf({
    width: 80,
    height: 60,
    trim: [4, 4, 72, 52],
    content: '.1 .6 .9 rg 0 0 80 60 re f 0 .8 .9 .1 k 10 10 20 30 re f 0 0 0 1 k 40 10 25 8 re f .3 g 8 46 20 6 re f'
  }),
  madePdf({
    width: 70,
    height: 70,
    content:
      '/S0 cs .8 scn 5 5 30 30 re f /S1 cs 1 scn 40 5 20 30 re f .2 .2 0 0 k 5 40 60 20 re f /S0 cs .3 scn 20 42 10 10 re f',
    spots: SPOTS
  }),
  madePdf({
    width: 60,
    height: 60,
    content: 'q 40 0 0 40 10 10 cm /P Do Q 0 0 0 1 k BT /F 8 Tf 5 52 Td (LANTERN) Tj ET',
    picture: {
      width: 8,
      height: 8,
      rgb: Uint8Array.from({ length: 192 }, (_, i) => (i * 83) % 256),
      alpha: Uint8Array.from({ length: 64 }, (_, i) => (i % 8) * 36)
    }
  }),
  madePdf({
    width: 90,
    height: 50,
    states: { M: '/BM/Multiply', T: '/ca .5' },
    content: '1 1 0 rg 5 5 80 40 re f /M gs 0 1 1 0 k 30 10 30 30 re f /T gs 0 0 1 rg 55 5 30 20 re f'
  })
];

beforeAll(async () => {
  ({ printer, shop, condition } = await openFlatbedShop(folder.path));
  for (const [i, page] of PAGES.entries()) {
    const { id } = await shop.artworks.take(`page ${i}.pdf`, oneChunk(page));
    await until(() => shop.artworks.get(id).state === 'ready');
    artworks.push(id);
  }
});
afterAll(async () => {
  await shop.close();
  printer.stop();
  folder.remove();
});

const anyCover = fc.oneof(
  fc.constantFrom<Cover>({ is: 'whole' }, { is: 'prints' }, { is: 'marked' }),
  fc.integer({ min: 0, max: 4 }).map((mm): Cover => ({ is: 'margin', mm })),
  fc.boolean().map((except): Cover => ({ is: 'colours', picked: [[50, 40, 30]], within: 30, except }))
);
const anyExtra = fc.record({
  cover: anyCover,
  amount: fc.constantFrom(0.5, 1, 1.5),
  chokeMm: fc.constantFrom(0, 0.3, -0.5),
  byDarkness: fc.constantFrom<number[] | null>(null, [1, 0.8, 0.6, 0.4, 0.2])
});
const anyStack = anyExtra.chain((extra) =>
  fc.constantFrom<Stack>(
    { seen: 'front', layers: [newLayer(1, 'white', extra), newLayer(2, 'colour')] },
    { seen: 'behind', layers: [newLayer(1, 'colour'), newLayer(2, 'white', extra)] },
    { seen: 'front', layers: [newLayer(1, 'colour'), newLayer(2, 'varnish', { ...extra, amount: 0.5 })] }
  )
);
const anyChoices = fc.record({
  turn: fc.constantFrom(0, 90, 180, 270) as fc.Arbitrary<DocketChoices['turn']>,
  mirror: fc.boolean(),
  box: fc.constantFrom<DocketChoices['box']>('trim', 'media', 'content'),
  crop: fc.constantFrom({ left: 0, top: 0, right: 0, bottom: 0 }, { left: 5, top: -3, right: 8, bottom: 2 }),
  bleedMm: fc.constantFrom(0, 3, 10),
  bleedFrom: fc.constantFrom<DocketChoices['bleedFrom']>('page', 'mirror', 'stretch', 'colour'),
  bleedColour: fc.constant('#a08060'),
  enlarged: fc.constantFrom<DocketChoices['enlarged']>('as it suits', 'crisp', 'smooth'),
  blackText: fc.boolean(),
  blackPictures: fc.boolean(),
  richBlack: fc.boolean(),
  thinnestMm: fc.constantFrom(0, 0.5),
  intent: fc.constantFrom<DocketChoices['intent']>('relative', 'perceptual', 'saturation', 'file'),
  adjustment: fc.constantFrom(
    { brightness: 0, contrast: 0, saturation: 0, cast: 0, castHue: 0 },
    { brightness: 0.2, contrast: -0.2, saturation: 0.3, cast: 0.2, castHue: 200 }
  ),
  tone: fc.constantFrom<DocketChoices['tone']>(
    {},
    { all: { points: [[0, 0], [0.5, 0.4], [1, 1]], mayFall: false } }, // prettier-ignore
    { cyan: { points: [[0, 0], [0.3, 0.5], [1, 1]], mayFall: false } } // prettier-ignore
  ),
  roles: fc.constantFrom<DocketChoices['roles']>({}, { White: 'white' }, { 'Ferry Teal': 'guide' }),
  stack: fc.option(anyStack),
  copies: fc.constantFrom(1, 3),
  mayTurn: fc.boolean()
});
const anyDocket = fc.record({
  page: fc.nat(PAGES.length - 1),
  across: fc.constantFrom(0.7, 1, 1.5),
  down: fc.constantFrom(0.7, 1, 1.5),
  choices: anyChoices
});
interface AskedDocket {
  page: number;
  /** Its size, of the page's. */
  across: number;
  down: number;
  choices: Partial<DocketChoices>;
}

function docketOf({ page, across, down, choices }: AskedDocket): number {
  const { widthMm, heightMm } = shop.artworks.get(artworks[page]!).facts!.pages[0]!;
  const lies = choices.turn === 90 || choices.turn === 270;
  const [width, height] = lies ? [heightMm, widthMm] : [widthMm, heightMm];
  const size = { widthMm: width * across, heightMm: height * down };
  return shop.dockets.add(artworks[page]!, 0, { cut: false, ...choices, ...size, conditionId: condition }).id;
}

/** ml of a run by kind of ink, as its docket says and as its plates hold. */
async function inkOf(docketId: number, runId: number): Promise<Record<'shown' | 'laid', Map<string, number>>> {
  const run = shop.runs.get(runId);
  const { printed } = shareOfRun(run, docketId, ratesOf(run, undefined, 1), null)!;
  const sum = (parts: readonly (readonly [string, number])[]) => {
    const all = new Map<string, number>();
    for (const [kind, ml] of parts) all.set(kind, (all.get(kind) ?? 0) + ml);
    return all;
  };
  const { layers } = await shop.pictures.measured(docketId);
  const kindOf = (role: string) => (role === 'light' ? 'colour' : role);
  return {
    shown: sum(layers.map((one) => [one.ink, inkOfAll(printed, [one], shop.conditions.get(condition), 0).ml])),
    laid: sum(shop.conditions.inks(condition).map(({ role }, i) => [kindOf(role), run.result!.inkMl[i]!]))
  };
}

/** Places all over a docket's piece, mm of its finished size. */
function placesOn({ widthMm, heightMm, bleedMm }: DocketChoices): Point[] {
  const along = (count: number, mm: number) =>
    Array.from({ length: count }, (_, i) => ((i + 0.5) / count) * (mm + 2 * bleedMm) - bleedMm);
  return along(9, widthMm).flatMap((x) => along(7, heightMm).map((y) => ({ x, y })));
}

/** L*a*b* of a docket's proof at places. */
async function proofed(docketId: number, places: readonly Point[]): Promise<Triple[]> {
  const { widthMm, bleedMm } = shop.dockets.get(docketId).choices;
  const picture = sharp(await shop.pictures.map(docketId, 'proof')).removeAlpha();
  const { data, info } = await picture.raw().toBuffer({ resolveWithObject: true });
  const perMm = info.width / (widthMm + 2 * bleedMm);
  return places.map((place) => {
    const [x, y] = [place.x, place.y].map((mm) => Math.floor((mm + bleedMm) * perMm)) as [number, number];
    const at = (Math.min(y, info.height - 1) * info.width + Math.min(x, info.width - 1)) * 3;
    return labOfRgb(data[at]!, data[at + 1]!, data[at + 2]!);
  });
}

/** The same of the first copy of a run as the machine has printed it, beside its media. */
async function printed(runId: number, places: readonly Point[]): Promise<Triple[]> {
  const run = shop.runs.get(runId);
  const [print] = await shop.printing.start(runId, run.condition.machineId, 1);
  await until(() => shop.prints.get(print!.id).state === 'done');
  const toRun = finishedToCopy(run.laid[0]!, run.layout.parts[0]!.copies[0]!);
  const bare = { x: 396, y: 296 };
  const body = JSON.stringify({ apertureMm: 1.5, places: [bare, ...places.map((place) => apply(toRun, place))] });
  const reply = await fetch(`${printer.url}/output/${shop.prints.row(print!.id).job}/look`, { method: 'POST', body });
  const [media, ...seen] = ((await reply.json()) as Triple[]).map((xyz) => xyzToLab(xyz));
  return seen.map(relativeTo(media!));
}

/** What the report has of a run that is printed once. */
async function usageOf(runId: number): Promise<Usage> {
  const [print] = await shop.printing.start(runId, shop.runs.get(runId).condition.machineId, 1);
  await until(() => shop.prints.get(print!.id).state === 'done');
  return JSON.parse(shop.prints.row(print!.id).usage!) as Usage;
}
function asShown(usage: Usage, { layout, condition: { costPerM2 } }: Run): void {
  const { areaM2, wasteM2 } = layout;
  expect([usage.m2, usage.wasteM2, usage.mediaCost]).toEqual([areaM2, wasteM2, areaM2 * costPerM2].map((v) => expect.closeTo(v, 4))); // prettier-ignore
  expect(usage.dockets.reduce((sum, one) => sum + one.m2 + one.wasteM2, 0)).toBeCloseTo(usage.m2, 6);
}

/** A run of one docket, RIPped. */
async function ripped(docketId: number, rule: Partial<RunRule> = {}): Promise<number> {
  const runId = shop.layingOut.add([docketId], undefined, true)[0]!;
  const run = shop.runs.get(runId);
  if (Object.keys(rule).length > 0) shop.runEditing.change(runId, run.version, { rule: { ...run.rule, ...rule } });
  const task = await shop.tasks.ended((await shop.ripping.rip(runId)).id);
  expect(task.error).toBeNull();
  return runId;
}

const PRINTED = 6;

describe('dockets of any choices', () => {
  it('take the ink that was shown, and look as they were shown', async () => {
    const dockets = fc.sample(anyDocket, { numRuns: 16, seed: 7 });
    let left = PRINTED;
    for (const docket of dockets) {
      const id = docketOf(docket);
      const runId = await ripped(id);
      const { shown, laid } = await inkOf(id, runId);
      for (const [kind, ml] of laid) {
        const told = shown.get(kind) ?? 0;
        // Half a drop in a thousand, and specks.
        expect([docket, kind, told, Math.abs(told - ml) <= 0.02 * ml + 0.0006]).toEqual([docket, kind, told, true]);
      }
      // From behind the colour is not seen on a board.
      if (docket.choices.stack?.seen === 'behind' || left === 0) continue;
      left--;
      const places = placesOn(shop.dockets.get(id).choices);
      const [asked, came] = [await proofed(id, places), await printed(runId, places)];
      const apart = asked.map((lab, i) => Math.hypot(...lab.map((v, k) => v - came[i]![k]!)));
      const median = apart.sort((a, b) => a - b)[Math.floor(apart.length / 2)]!;
      expect([docket, median, median < 4]).toEqual([docket, median, true]);
    }
    expect(left).toBe(0);
  });

  it('in a jig take the ink of what their pockets leave of them, at the size that they have there', async () => {
    const jig = shop.jigs.add(DISCS).id;
    const sizes = [['own', 'cut off'], ['own', 'over'], ['fit', 'inside'], ['fill', 'cut off']] as const; // prettier-ignore
    const taken: number[] = [];
    for (const [size, edge] of sizes) {
      const lies = { ...USUAL_IN_POCKET, size, edge, marginMm: size === 'fit' ? 2 : 0 };
      const id = docketOf({ page: 3, across: 0.6, down: 0.6, choices: { copies: 5, jig: { id: jig, lies } } });
      const runId = await ripped(id);
      const { shown, laid } = await inkOf(id, runId);
      expect([size, edge, shown.get('colour')! / laid.get('colour')!]).toEqual([size, edge, expect.closeTo(1, 1)]);
      taken.push(shown.get('colour')!);
      if (size === 'own') asShown(await usageOf(runId), shop.runs.get(runId));
    }
    // A wide design on a disc: cut off, over its edge, all of it seen, all of the disc covered.
    const [cutOff, over, fit, fill] = taken as [number, number, number, number];
    expect([fit < cutOff, cutOff < over, fit < fill]).toEqual([true, true, true]);
  });

  it('nested by their contours take the ink within these', async () => {
    const id = docketOf({ page: 3, across: 1, down: 1, choices: { copies: 4, cut: true, lines: OVAL } });
    const [nested, rows] = [await ripped(id, { placing: 'shapes' }), await ripped(docketOf({ page: 3, across: 1, down: 1, choices: { copies: 4 } }))]; // prettier-ignore
    const { shown, laid } = await inkOf(id, nested);
    expect(shown.get('colour')! / laid.get('colour')!).toBeCloseTo(1, 1);
    const inRows = shop.runs.get(rows).result!.inkMl.reduce((sum, ml) => sum + ml, 0);
    expect(laid.get('colour')! / inRows).toBeLessThan(0.9);
    asShown(await usageOf(nested), shop.runs.get(nested));
  });

  it('have of a run’s ink what each was shown to take, and pay for it', async () => {
    // One full of colour, and one of about the same size that is nearly bare.
    const plain = { conditionId: condition, cut: false };
    const full = shop.dockets.add(artworks[0]!, 0, { ...plain, copies: 3, bleedMm: 3 });
    const pale = shop.dockets.add(artworks[1]!, 0, { ...plain, copies: 2, roles: { 'Ferry Teal': 'guide' } });
    const shown = new Map<number, number>();
    for (const { id, choices } of [full, pale]) {
      const { layers } = await shop.pictures.measured(id);
      const ml = layers.reduce((sum, one) => sum + laidInk(one, shop.conditions.get(condition), 0).ml, 0);
      shown.set(id, ml * choices.copies);
    }
    const [runId] = shop.layingOut.add([...shown.keys()], undefined, true);
    await shop.tasks.ended((await shop.ripping.rip(runId!)).id);
    const run = shop.runs.get(runId!);
    const { inkByDocket, inkMl } = run.result!;
    const all = inkMl.reduce((sum, ml) => sum + ml, 0);
    const counted = (inks: readonly number[]) => inks.reduce((sum, ml) => sum + ml, 0);
    for (const [id, ml] of shown) expect([id, Math.abs(counted(inkByDocket![id]!) / ml - 1) < 0.03]).toEqual([id, true]);
    expect(counted(Object.values(inkByDocket!).map(counted))).toBeLessThan(all * 1.01);
    const usage = await usageOf(runId!);
    // Media, its waste and its cost are those that the run was shown to have.
    asShown(usage, run);
    const own = usage.dockets.find(({ id }) => id === pale.id)!;
    expect(own.inkMl / usage.inkMl).toBeCloseTo(shown.get(pale.id)! / all, 1);
    // By its area it would be a third and more of it.
    expect(own.m2 / usage.dockets.reduce((sum, { m2 }) => sum + m2, 0)).toBeGreaterThan(0.3);
    expect(own.inkMl / usage.inkMl).toBeLessThan(0.2);
  });
});
