import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DxfWriter, point3d } from '@tarikjabiri/dxf';
import { apply, chain, rotation, translation } from '$core/geometry/matrix';
import { Jig, NEW_JIG, outlineOf, pocketsOf } from '$core/layout/jig';
import { areaWithin } from '$core/geometry/path';
import type { PocketRule } from '$core/layout/placement';
import type { Shop } from '$lib/server/app/shop';
import { artworkOf, openFlatbedShop } from '../flatbed-shop';
import { temporaryFolder, until, type StandIn } from '../harness';

/** Things on a flatbed that lie a little beside their places: the jig is squared up, photographed, and printed again in one pocket. */

let printer: StandIn;
let shop: Shop;
let condition: number;
let jigId: number;
const folder = temporaryFolder();

const TAGS = Jig.parse({
  ...NEW_JIG,
  name: 'Brass tags',
  bed: { widthMm: 400, lengthMm: 300 },
  thing: { widthMm: 60, heightMm: 40, outline: { kind: 'rectangle', radiusMm: 4 } },
  thicknessMm: 6,
  columns: 4,
  rows: 3,
  gapX: 12,
  gapY: 12,
  from: 'centre',
  startX: 0,
  startY: 0
});
/** How the jig was laid in: what nobody knows who prints. */
const OFF = { dx: 2.4, dy: -1.7, turn: 0.9 };

beforeAll(async () => {
  ({ printer, shop, condition } = await openFlatbedShop(folder.path));
  jigId = shop.jigs.add(TAGS).id;
});
afterAll(async () => {
  await shop.close();
  printer.stop();
  folder.remove();
});

const post = (path: string, body: object) => fetch(`${printer.url}${path}`, { method: 'POST', body: JSON.stringify(body) });
async function layThings(more: object = {}): Promise<void> {
  const { widthMm: width, heightMm: height } = TAGS.thing;
  const outline = outlineOf(TAGS.thing);
  const things = pocketsOf(TAGS).map(({ x, y, turn }) => ({ x, y, turn, width, height, outline, thicknessMm: 6 }));
  expect((await post('/bed', { things, ...more })).ok).toBe(true);
}
async function runOf(copies: number, pockets: Partial<PocketRule>): Promise<number> {
  // A small square in the middle of the page.
  const id = await artworkOf(shop, 'Dot', '0 0 0 1 k 7 8 6 4 re f');
  const docket = shop.dockets.add(id, 0, { conditionId: condition, copies }).id;
  const runId = shop.layingOut.add([docket])[0]!;
  const run = shop.runs.get(runId);
  shop.runEditing.change(runId, run.version, { rule: { ...run.rule, jig: jigId, pockets: { ...run.rule.pockets, ...pockets } } });
  return runId;
}
async function printed(runId: number): Promise<number> {
  await shop.tasks.ended((await shop.ripping.rip(runId)).id);
  const [print] = await shop.printing.start(runId, shop.runs.get(runId).condition.machineId, 1);
  await until(() => shop.prints.get(print!.id).endedAt !== null);
  expect(shop.prints.get(print!.id).state).toBe('done');
  return shop.prints.row(print!.id).job!;
}
const onThings = async (job: number) =>
  (await (await fetch(`${printer.url}/output/${job}/things`)).json()) as { print: { x: number; y: number } | null }[];

describe('a jig that lies askew', () => {
  it('prints beside its things, and within 0.2 mm of where it should once it is squared up', async () => {
    await layThings({ off: OFF });
    const far = (all: Awaited<ReturnType<typeof onThings>>) =>
      Math.max(...all.map(({ print }) => Math.hypot(print!.x, print!.y)));
    const plain = await onThings(await printed(await runOf(12, {})));
    expect(plain).toHaveLength(12);
    expect(far(plain)).toBeGreaterThan(1.5);
    // Touched with a rule that reads to a twentieth of a millimetre.
    const truth = chain(rotation(OFF.turn), translation(OFF.dx, OFF.dy));
    const read = (mm: number) => Math.round(mm * 20) / 20;
    const touched = ([['front left', 0, 0], ['front right', 400, 0], ['back left', 0, 300]] as const).map(([at, x, y]) => {
      const is = apply(truth, { x, y });
      return { at, x: read(is.x), y: read(is.y) };
    }); // prettier-ignore
    const squared = await onThings(await printed(await runOf(12, { touched })));
    expect(far(squared)).toBeLessThan(0.2);
  });

  it('is not placed in by points that do not agree', async () => {
    const runId = await runOf(1, {
      touched: [
        { at: 'front left', x: 0, y: 0 },
        { at: 'front right', x: 410, y: 0 },
        { at: 'back left', x: 0, y: 300 }
      ]
    });
    expect(shop.runs.get(runId).layout.refusal).toMatch('The points do not agree');
    await expect(shop.ripping.rip(runId)).rejects.toThrow('The points do not agree');
    await shop.runEditing.remove(runId);
  });
});

describe('things on the bed', () => {
  it('that stand higher than was said stop the head, until they are taken off', async () => {
    await layThings();
    const { version, jig } = shop.jigs.get(jigId);
    shop.jigs.change(jigId, version, { ...jig, thicknessMm: null });
    const runId = await runOf(2, {});
    await shop.tasks.ended((await shop.ripping.rip(runId)).id);
    const { machineId } = shop.runs.get(runId).condition;
    const [print] = await shop.printing.start(runId, machineId, 1);
    await until(() => shop.machines.get(machineId).printer!.reasons.includes('zing-thing-too-high-error'));
    expect(shop.prints.get(print!.id).printedMm).toBe(0);
    await post('/bed', { things: [] });
    await until(() => shop.prints.get(print!.id).state === 'done');
    const now = shop.jigs.get(jigId);
    shop.jigs.change(jigId, now.version, { ...now.jig, thicknessMm: 6 });
  });

  it('are not printed beside, where a print broke off over them and would go on', async () => {
    await layThings();
    const runId = await runOf(12, {});
    await shop.tasks.ended((await shop.ripping.rip(runId)).id);
    const speed = (speed: number) => post('/speed', { speed });
    await speed(4);
    const [print] = await shop.printing.start(runId, shop.runs.get(runId).condition.machineId);
    // The last things are far behind the head still.
    const { copies } = shop.runs.get(runId).layout.parts[0]!;
    const first = Math.min(...copies.map(({ y, height }) => y + height));
    await until(() => shop.prints.get(print!.id).printedMm > first);
    shop.printing.cancel(print!.id);
    await until(() => shop.prints.get(print!.id).endedAt !== null);
    await speed(1e6);
    const broken = shop.prints.get(print!.id);
    expect(broken).toMatchObject({ state: 'cancelled' });
    expect(broken.printedMm).toBeLessThan(broken.lengthMm);
    expect(shop.printing.restFrom(broken)).toBeUndefined();
    await expect(shop.printing.goOn(broken.id)).rejects.toThrow('cannot go on');
    expect(shop.runs.get(runId)).toMatchObject({ state: 'ripped', came: 0 });

    // Things that are printed are taken off, and the others are printed where they lie.
    const { whole, missing } = shop.partPrints.look(broken)!;
    expect(whole.length).toBeGreaterThan(0);
    expect(whole.length + missing.length).toBe(copies.length);
    const rest = await shop.partPrints.keep(broken.id);
    expect(shop.runs.get(runId)).toMatchObject({ state: 'printed', came: 1 });
    const pocketsOf = (some: typeof copies) => some.map(({ pocket }) => pocket).sort();
    const now = await until(() => (shop.runs.get(rest).provisional ? undefined : shop.runs.get(rest)));
    expect(pocketsOf(now.layout.parts[0]!.copies)).toEqual(pocketsOf(missing));
    await shop.runEditing.remove(rest);
  });

  it('higher than the machine takes are not printed', async () => {
    const now = shop.jigs.get(jigId);
    shop.jigs.change(jigId, now.version, { ...now.jig, thicknessMm: 140 });
    const runId = await runOf(1, {});
    await shop.tasks.ended((await shop.ripping.rip(runId)).id);
    await expect(shop.printing.start(runId, shop.runs.get(runId).condition.machineId, 1)).rejects.toThrow(
      'These things stand 140 mm high; Skua 25 takes 100 mm.'
    );
    await shop.runEditing.remove(runId);
    const { version, jig } = shop.jigs.get(jigId);
    shop.jigs.change(jigId, version, { ...jig, thicknessMm: 6 });
  });

  it('are found in a photo of the bed, by its marks, and taken as a jig', async () => {
    await layThings({ scatterMm: 0.8, scatterTurn: 1, seed: 5 });
    const photo = new Uint8Array(await (await fetch(`${printer.url}/bed/photo.png?px=1800&seed=5`)).arrayBuffer());
    const found = await shop.jigIntake.find(photo, shop.jigs.get(jigId).jig, null);
    expect([found.things, found.inGrid, found.marks]).toEqual([12, true, 9]);
    expect(found.jig).toMatchObject({ name: 'Brass tags', columns: 4, rows: 3 });
    const lying = (await (await fetch(`${printer.url}/bed`)).json()) as { x: number; y: number }[];
    const places = pocketsOf(found.jig);
    for (const { x, y } of lying) expect(Math.min(...places.map((at) => Math.hypot(at.x - x, at.y - y)))).toBeLessThan(0.3);
    await expect(shop.jigIntake.find(new Uint8Array([1, 2, 3]), TAGS, null)).rejects.toThrow('This is no picture');
    const bare = new Uint8Array(await (await fetch(`${printer.url}/bed/photo.png?px=900&marks=no`)).arrayBuffer());
    await expect(shop.jigIntake.find(bare, TAGS, null)).rejects.toThrow(/of 9 marks/);
  });
});

describe('a spoiled pocket', () => {
  it('is printed again alone, in the same pocket, and by hand a docket goes where it is put', async () => {
    await layThings();
    const runId = await runOf(12, { sharing: 'by hand' });
    await printed(runId);
    const { parts } = shop.runs.get(runId).layout;
    const spoiled = parts[0]!.copies.filter(({ pocket }) => pocket === 7);
    const again = shop.runCopies.again(runId, spoiled);
    const { layout } = shop.runs.get(again);
    expect(layout.parts.map(({ copies }) => copies.map(({ copy, pocket }) => [copy, pocket]))).toEqual([[[0, 7]]]);
    const job = await printed(again);
    expect((await onThings(job)).map(({ print }) => print !== null)).toEqual(Array.from({ length: 12 }, (_, i) => i === 6));
  });
});

describe('what a jig is made of that comes from outside', () => {
  it('is an outline from SVG or DXF at its size, or as a docket is cut', async () => {
    const svg =
      '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 120 80"><g transform="translate(10 10)"><rect width="80" height="40"/></g></svg>';
    const thing = await shop.jigIntake.outline(new TextEncoder().encode(svg), 'Tag.svg');
    expect([thing.widthMm, thing.heightMm, areaWithin(outlineOf(thing))]).toEqual([40, 20, expect.closeTo(800, 1)]);
    const dxf = new DxfWriter();
    dxf.addLine(point3d(5, 5), point3d(45, 5));
    dxf.addLine(point3d(45, 5), point3d(45, 25));
    dxf.addLine(point3d(45, 25), point3d(5, 25));
    dxf.addLine(point3d(5, 25), point3d(5, 5));
    const read = await shop.jigIntake.outline(new TextEncoder().encode(dxf.stringify()), 'Tag.dxf');
    expect([read.widthMm, read.heightMm, areaWithin(outlineOf(read))]).toEqual([40, 20, expect.closeTo(800, 1)]);
    for (const bad of ['', 'nothing at all', '0\nSECTION\n2\nENTITIES\n0\nEOF'])
      await expect(shop.jigIntake.outline(new TextEncoder().encode(bad), 'Bad.dxf')).rejects.toThrow('Bad.dxf: ');
    await expect(shop.jigIntake.outline(new TextEncoder().encode('<svg'), 'Bad.svg')).rejects.toThrow('Bad.svg: ');
    const id = await artworkOf(shop, 'Plain', '0 0 0 1 k 0 0 20 20 re f');
    const docket = shop.dockets.add(id, 0, { conditionId: condition, cut: false }).id;
    expect(() => shop.jigIntake.outlineOfDocket(docket)).toThrow('Plain has no cut line');
  });

  it('has its outlines and marks printed as a run of their own, at the machine’s own corner', async () => {
    // On the bare bed: its things would be struck.
    await post('/bed', { things: [] });
    for (const what of ['outlines', 'marks'] as const) {
      const runId = await shop.jigIntake.sheetRun(
        shop.jigs.get(jigId).jig,
        what,
        { colour: '#c00000', weightMm: 0.6 },
        condition
      );
      const { layout, dockets } = shop.runs.get(runId);
      expect(layout.refusal).toBeNull();
      expect(layout.parts.map(({ copies }) => copies.map(({ x, y, width, height }) => [x, y, width, height]))).toEqual([
        [[expect.closeTo(0, 3), expect.closeTo(0, 3), expect.closeTo(400, 3), expect.closeTo(300, 3)]]
      ]);
      expect(dockets[0]!.name).toBe(`Brass tags, ${what}`);
      if (what === 'marks') continue;
      const places = pocketsOf(TAGS);
      // The upper edge of the first thing is printed, and beside it nothing.
      const job = await printed(runId);
      const reply = await post(`/output/${job}/look`, {
        apertureMm: 0.6,
        places: places.flatMap(({ x, y }) => [{ x: x + 9, y: y - 20 }, { x: x + 9, y: y - 16 }]) // prettier-ignore
      });
      const seen = (await reply.json()) as [number, number, number][];
      places.forEach((_, i) => expect(seen[2 * i]![1]).toBeLessThan(seen[2 * i + 1]![1] * 0.6));
    }
    await expect(
      shop.jigIntake.sheetRun(
        { ...TAGS, bed: { ...TAGS.bed, widthMm: 900 } },
        'marks',
        { colour: '#000000', weightMm: 1 },
        condition
      )
    ).rejects.toThrow('This jig’s bed is 900 × 300 mm; Board is 400 × 300 mm.');
  });
});
