import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readyStacks } from '$core/artwork/docket-stack';
import { layersOf } from '$core/rip/plan';
import { sumOfInk } from '$core/inks/ink-prices';
import { laidInk } from '$core/inks/laid-ink';
import { Shop } from '$lib/server/app/shop';
import type { Usage } from '$lib/server/printing/usage';
import { laneOffers } from '$lib/server/production/lane-offers';
import { readPlateFile } from '$core/rip/plate-file';
import { inkAt, plateTile, writeRest } from '$lib/server/production/plates';
import { cmykBox, madePdf } from '../made/pdf';
import { oneChunk, startStandIn, temporaryFolder, until, USUAL_MODE, type StandIn } from '../harness';

/** A machine, the inks that it says, and those that a docket cannot ask for. */
const MACHINES = [
  ['Fulmar 16', ['Cyan', 'Magenta', 'Yellow', 'Black', 'Light cyan', 'Light magenta', 'White']],
  ['Tern 16', ['Cyan', 'Magenta', 'Yellow', 'Black', 'White']]
] as const;

describe.each(MACHINES)('a machine with more inks than four: %s', (model, names) => {
  const folder = temporaryFolder();
  const white = names.length - 1;
  /** White is laid down first, under all that prints. */
  const plates = ['White', ...names.slice(0, white)];
  const plate = (name: string) => plates.indexOf(name);
  let printer: StandIn;
  let shop: Shop;
  let runId: number;

  beforeAll(async () => {
    printer = await startStandIn('printer', { MODEL: model });
    shop = new Shop(folder.path);
    const machine = shop.machines.add('printer', model, printer.url);
    const media = shop.media.addNew({ name: 'Gloss white film', costPerM2: 6 });
    const conditionId = shop.conditionEditing.add(machine, media.id, { ...USUAL_MODE, machine: model, code: `${model}/720` });
    shop.start();
    await until(() => shop.conditions.get(conditionId).hasProfile && shop.machines.get(machine).online);
    const { id } = await shop.artworks.take(
      'pale.pdf',
      oneChunk(
        madePdf({ width: 60, height: 40, content: cmykBox('.1 .02 0 0', 0, 0, 30, 40) + cmykBox('1 0 0 0', 30, 0, 30, 40) })
      )
    );
    await until(() => shop.artworks.get(id).state !== 'reading');
    const { stack } = readyStacks({}).find(({ name }) => name === 'White under colour')!;
    const docket = shop.dockets.add(id, 0, { conditionId, copies: 2, bleedMm: 0, cut: false, stack });
    runId = shop.layingOut.add([docket.id])[0]!;
    expect((await shop.tasks.ended((await shop.ripping.rip(runId)).id)).error).toBeNull();
  });
  afterAll(async () => {
    await shop.close();
    printer.stop();
    folder.remove();
  });

  const inks = () => shop.runs.frozen(runId).plan.inks;
  /** Mean inks of plates in the middle of the first copy’s left or right half. */
  async function at(half: 'pale' | 'full'): Promise<number[]> {
    const { pieces } = shop.runs.frozen(runId).plan;
    const { x, y } = pieces[0]!;
    const [dx, dy] = pieces[0]!.turn === 90 ? [20, half === 'pale' ? 15 : 45] : [half === 'pale' ? 15 : 45, 20];
    const px = (mm: number) => Math.round((mm / 25.4) * 720);
    const size = shop.runs.get(runId).result!;
    return inkAt(shop.runs.plates(runId).overview, size, plates.length, px(x + dx), px(y + dy));
  }

  it('tells its inks over IPP, and the run is frozen with them', () => {
    expect(inks().map(({ name }) => name)).toEqual(names);
    expect(inks()[white]).toMatchObject({ role: 'white', channel: 'White', drops: [12, 24, 36] });
    // Colours are laid down as the print mode says.
    expect(inks()[0]!.drops).toEqual(USUAL_MODE.drops);
    expect(new Set(inks().map(({ shift }) => shift.join())).size).toBe(names.length);
  });

  it('has a plate for each in the order in which they are laid down, which another reader takes for what they are', () => {
    const { result } = shop.runs.get(runId);
    expect(layersOf(shop.runs.frozen(runId).plan)).toEqual([{ ink: 'white' }, { ink: 'colour' }]);
    expect(result?.drops).toHaveLength(names.length);
    expect(result?.inkMl).toHaveLength(names.length);
    // Two copies of 60 × 40 mm, a fifth of a millimetre less on each side, of the fullest drop on every pixel.
    const full = (2 * (0.06 - 4e-4) * (0.04 - 4e-4) * (720 / 0.0254) ** 2 * 36) / 1e9;
    expect(result!.inkMl[white]! / full).toBeCloseTo(1, 2);
    if (!existsSync('/usr/bin/tiffinfo')) return;
    const info = execFileSync('tiffinfo', [shop.runs.plates(runId).plates], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'pipe']
    });
    expect(info).toContain(`Samples/Pixel: ${names.length}`);
    expect(info).toContain(`Ink Names: ${plates.join(', ')}`);
  });

  it('prints pale colours in light ink where there is one, and full ones in dark', async () => {
    const [pale, full] = [await at('pale'), await at('full')];
    const light = plate('Light cyan');
    const cyan = plate('Cyan');
    if (light >= 0) {
      expect(pale[light]).toBeGreaterThan(0.03);
      expect(pale[cyan]!).toBeLessThan(pale[light]! / 2);
      expect(full[light]).toBeLessThan(0.1);
    } else expect(pale[cyan]).toBeGreaterThan(0.01);
    expect(full[cyan]).toBeGreaterThan(0.5);
    expect([pale[plate('White')], full[plate('White')]]).toEqual([1, 1]);
  });

  it('shows each plate by itself, near and from afar', async () => {
    const result = shop.runs.get(runId).result!;
    const mean = async (shown: number | undefined, shrink: number, ground?: [number, number, number]) => {
      const { x, y } = shop.runs.frozen(runId).plan.pieces[0]!;
      const tile = (mm: number) => Math.floor(((mm + 20) * 720) / 25.4 / shrink / 512);
      const on = plates.map((_, i) => i === shown);
      const ofPlates = plates.map((name) => inks().find((ink) => ink.name === name)!);
      const png = await plateTile({
        paths: shop.runs.plates(runId),
        size: result,
        shrink,
        column: tile(x),
        row: tile(y),
        inks: ofPlates,
        shown: on,
        ...(ground && { ground })
      });
      const { channels } = await sharp(png).stats();
      return channels.reduce((sum, channel) => sum + channel.mean, 0) / 3;
    };
    for (const shrink of [4, 16, 64]) {
      expect(await mean(undefined, shrink)).toBe(255);
      expect(await mean(plate('Cyan'), shrink)).toBeLessThan(254.5);
      expect(await mean(plate('White'), shrink)).toBeLessThan(254.5);
      // On black only white is seen: it hides what lies beneath it.
      expect(await mean(undefined, shrink, [0, 0, 0])).toBe(0);
      expect(await mean(plate('Cyan'), shrink, [0, 0, 0])).toBe(0);
      expect(await mean(plate('White'), shrink, [0, 0, 0])).toBeGreaterThan(10);
    }
  });

  it('is looked at tile by tile, and point by point, by what it has of plates', async () => {
    const asked = { shrink: 4, column: 0, row: 0, on: 'media' as const };
    const { widthPx, heightPx } = shop.runs.get(runId).result!;
    const { width, height } = await sharp(await shop.inspecting.tile(runId, asked)).metadata();
    expect([width, height]).toEqual([widthPx, heightPx].map((px) => Math.min(512, Math.ceil(px / 4))));
    expect(await shop.inspecting.inkAt(runId, widthPx - 1, heightPx - 1)).toEqual(plates.map(() => 0));
    await expect(shop.inspecting.tile(runId, { ...asked, column: 1e6 })).rejects.toMatchObject({
      status: 404,
      message: 'There is no such tile.'
    });
    await expect(shop.inspecting.tile(runId, { ...asked, shrink: 3 })).rejects.toMatchObject({ status: 422 });
    expect(() => shop.inspecting.inkAt(1e6, 0, 0)).toThrow('There is no such run.');
    await expect(shop.inspecting.inkAt(runId, widthPx, 0)).rejects.toMatchObject({ status: 404 });
    const { inkMl } = shop.runs.get(runId).result!;
    for (const name of plates) {
      const alone = plates.map((other) => (other === name ? '1' : '0')).join('');
      const place = await shop.inspecting.nearestInk(runId, { x: widthPx - 1, y: heightPx - 1 }, alone);
      const ink = place && (await shop.inspecting.inkAt(runId, place.x, place.y))[plate(name)]!;
      expect([name, (ink ?? 0) > 0]).toEqual([name, inkMl[names.findIndex((one) => one === name)]! > 0]);
    }
    await expect(shop.inspecting.nearestInk(1e6, { x: 0, y: 0 }, undefined)).rejects.toThrow('There is no such run.');
  });

  it('is held against a roll by the size that it was RIPped at last', () => {
    const frozen = shop.runs.frozen(runId);
    const { widthMm, lengthMm } = shop.runs.frozenSize(runId);
    expect({ widthMm, lengthMm }).toEqual({ widthMm: frozen.plan.widthMm, lengthMm: frozen.plan.lengthMm });
    shop.runs.keepPlan(runId, { ...frozen, plan: { ...frozen.plan, lengthMm: lengthMm + 10 } });
    expect(shop.runs.frozenSize(runId)).toEqual({ widthMm, lengthMm: lengthMm + 10 });
    shop.runs.keepPlan(runId, frozen);
    expect(shop.runs.frozenSize(runId)).toEqual({ widthMm, lengthMm });
  });

  it('lays down what a plan asks of its further inks, and prints it; each ink is counted', async () => {
    // What dockets will do with white, a plan can say already.
    const frozen = shop.runs.frozen(runId);
    const before = shop.runs.get(runId).result!.inkMl[white]!;
    const flats = [...(frozen.plan.flats ?? []), { x: 200, y: 0, width: 40, height: 8, inks: [0, 0, 0, 0, 1] }];
    shop.db
      .prepare('UPDATE run_plan SET plan = ? WHERE run_id = ?')
      .run(JSON.stringify({ ...frozen, plan: { ...frozen.plan, flats } }), runId);
    expect((await shop.tasks.ended(shop.tasks.add('rip', runId).id)).error).toBeNull();
    const result = shop.runs.get(runId).result!;
    // 3.2 cm² of the fullest drop on every pixel.
    const full = (3.2e-4 * (720 / 0.0254) ** 2 * 36) / 1e9;
    expect((result.inkMl[white]! - before) / full).toBeCloseTo(1, 2);

    const [print] = await shop.printing.start(runId, 1, 1);
    await until(() => shop.prints.get(print!.id).endedAt !== null);
    const { inkMl, state } = shop.prints.get(print!.id);
    expect(state).toBe('done');
    expect(inkMl).toHaveLength(names.length);
    inkMl.forEach((ml, ink) => expect(Math.abs(ml - result.inkMl[ink]!)).toBeLessThan(0.01 + result.inkMl[ink]! * 0.05));
  });

  it('costs what the shop says of each ink, from then on and for all of its figures', async () => {
    const { inkCostPerMl: usual } = shop.settings.current;
    const { condition } = shop.runs.get(runId);
    const printed = async () => {
      const [print] = await shop.printing.start(runId, 1, 1);
      await until(() => shop.prints.get(print!.id).endedAt !== null);
      const { usage, ink_ml: inkMl } = shop.prints.row(print!.id);
      return { ...(JSON.parse(usage!) as Usage), whiteMl: (JSON.parse(inkMl) as number[])[white]! };
    };
    const before = await printed();
    expect(before.inkCost).toBeCloseTo(before.inkMl * usual, 6);

    shop.machines.setInkPrices(1, { White: 1.5 });
    expect(() => shop.machines.setInkPrices(1, { Gold: 1 })).toThrow(/has no ink Gold\. It has Cyan, /);
    // What ink costs makes no plates old.
    expect(shop.runs.get(runId)).toMatchObject({ stale: false, condition: { inkPrices: { white: [1.5] } } });
    expect(condition.inkPrices).toEqual({});
    const { inkMl, inkCost, whiteMl, mediaCost, timeCost, dockets } = await printed();
    expect(inkCost).toBeCloseTo((inkMl - whiteMl) * usual + whiteMl * 1.5, 6);
    expect(dockets.map(({ cost }) => cost)).toEqual([expect.closeTo(mediaCost + timeCost + inkCost, 6)]);

    // Before it is printed the docket and its lane are told the same.
    const docket = shop.runs.get(runId).dockets[0]!;
    const { layers } = await shop.pictures.measured(docket.id);
    const [offer] = await laneOffers(shop, [docket.id], shop.lanes.ensure(condition.id));
    const own = layers.map((one) => laidInk(one, shop.conditions.get(condition.id), usual));
    expect(offer!.inkCost).toBeCloseTo(2 * sumOfInk(own).cost, 6);
    expect(own[0]!.cost).toBeCloseTo(own[0]!.ml * 1.5, 9);

    shop.machines.setInkPrices(1, { White: null });
    expect(shop.conditions.get(condition.id).inkPrices).toEqual({});
  });

  it('stops when an ink runs out, and goes on with its layers where they were', async () => {
    const tell = (path: string, what: object) => fetch(`${printer.url}${path}`, { method: 'POST', body: JSON.stringify(what) });
    const [whole] = shop.prints.list(runId);
    await tell('/speed', { speed: 2 });
    const [print] = await shop.printing.start(runId, 1, 1);
    await until(() => shop.prints.get(print!.id).printedMm > 0);
    await tell('/faults', { inkOut: true });
    await until(() => shop.prints.get(print!.id).state === 'stopped');
    expect(shop.prints.get(print!.id).reason).toMatch(/ink/i);
    expect(shop.prints.get(print!.id).printedMm).toBeLessThan(shop.prints.get(print!.id).lengthMm);
    // However long it stands still, it takes no longer once it goes on.
    const left = () => shop.printing.underWay().find(({ id }) => id === print!.id)!.secondsLeft!;
    const [before, from] = [left(), Date.now()];
    expect(before).toBeGreaterThan(0);
    await until(() => Date.now() - from > 1500);
    expect(left()).toBeCloseTo(before, 1);
    await tell('/faults', { inkOut: false });
    await tell('/speed', { speed: 1e6 });
    await until(() => shop.prints.get(print!.id).endedAt !== null);
    expect(shop.prints.get(print!.id).state).toBe('done');
    expect(Buffer.compare(await shop.printing.output(print!.id), await shop.printing.output(whole!.id))).toBe(0);
  });

  it('goes on after a break with what is left of every layer', async () => {
    const { dpi } = shop.runs.frozen(runId).plan;
    const rest = `${folder.path}/rest.tif`;
    const whole = shop.runs.plates(runId).plates;
    await writeRest(whole, rest, 20);
    const read = async (path: string) => {
      const bytes = readFileSync(path);
      return readPlateFile((offset, length) => bytes.subarray(offset, offset + length), bytes.length);
    };
    const [before, after] = [await read(whole), await read(rest)];
    expect(after).toMatchObject({ inks: plates, layers: before.layers, widthPx: before.widthPx });
    expect(after.layers).toEqual(plates.map((name) => (name === 'White' ? 0 : 1)));
    const rows = before.heightPx - after.heightPx;
    expect((rows / dpi.y) * 25.4).toBeLessThanOrEqual(20);
  });
});
