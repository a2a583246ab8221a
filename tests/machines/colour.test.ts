import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readProfileFacts } from '$core/colour/icc-read';
import { DEFAULT_KNIVES } from '$core/media/knife';
import { readPlateFile } from '$core/rip/plate-file';
import { readJob } from '$lib/server/machines/printer-client';
import { Shop } from '$lib/server/app/shop';
import { berthMarker } from '../../demo/artwork';
import { climb, MEDIUM, printAndRead } from '../../demo/climb';
import { oneChunk, startStandIn, temporaryFolder, until, USUAL_MODE, type StandIn } from '../harness';

let printer: StandIn;
let instrument: StandIn;
let library: StandIn;
let shop: Shop;
let machine: number;
let media: number;
let condition: number;
const folder = temporaryFolder();
const post = (url: string, body: unknown) => fetch(url, { method: 'POST', body: JSON.stringify(body) });

beforeAll(async () => {
  [printer, instrument, library] = await Promise.all([
    startStandIn('printer'),
    startStandIn('instrument', { SEED: '77' }),
    startStandIn('library')
  ]);
  shop = new Shop(folder.path);
  machine = shop.machines.add('printer', 'Petrel 13', printer.url);
  shop.machines.add('instrument', 'Plover S2', instrument.url);
  await shop.machines.lookNow();
  media = shop.media.addNew({ name: 'Gloss white film', thicknessMm: 0.08 }).id;
  shop.start();
  condition = shop.conditionEditing.add(machine, media, USUAL_MODE);
  await until(() => shop.conditions.get(condition).hasProfile);
});
afterAll(async () => {
  await shop.close();
  for (const one of [printer, instrument, library]) one.stop();
  folder.remove();
});

describe('a condition', () => {
  it('is begun from what its machine says, which is called no more than that', () => {
    expect(shop.conditions.get(condition)).toMatchObject({ profile: 'start', steps: { limits: { state: 'open' } } });
    expect(shop.modes.list().length).toBeGreaterThan(100);
    expect(shop.media.get(media).card.handling['Petrel 13']).toMatchObject({ headGapMm: 1.5 });
  });

  it('does not let a step be taken before the one it rests on, nor without readings', async () => {
    await expect(shop.chartMaking.make(condition, { kind: 'linear', steps: 26 })).rejects.toThrow('Find the ink limits first');
    const chart = await shop.chartMaking.make(condition, { kind: 'limits' });
    await until(() => shop.charts.get(chart.id).state === 'ready');
    expect(() => shop.calibration.take(condition, { step: 'limits', chartId: chart.id })).toThrow('84 of 84 patches');
    await expect(shop.chartReading.read(chart.id, 0)).rejects.toThrow('Print the chart first');
  });

  it('names the strip that was read wrong, and is right after it is read again', async () => {
    const chartId = await printAndRead(shop, condition, { kind: 'limits' });
    expect(shop.charts.get(chartId).findings).toEqual([]);
    await post(`${instrument.url}/settings`, { next: 'backwards' });
    await shop.chartReading.read(chartId, 1);
    expect(() => shop.calibration.take(condition, { step: 'limits', chartId })).toThrow('Strip B was read backwards');
    await shop.chartReading.read(chartId, 1);
    shop.calibration.take(condition, { step: 'limits', chartId });
    const limits = shop.conditions.result(condition, 'limits')!;
    expect(limits.channels.every(({ chosen }) => chosen > 0.6 && chosen <= 1)).toBe(true);
    expect(shop.media.get(media).card.white![0]).toBeCloseTo(95, 0);
  });

  it('is climbed to a verified profile, and what is measured is what our drops made', async () => {
    await climb(shop, condition, 'linear', 0);
    // Until there is a profile of the new curves, dockets print with what the machine says, its curves and all.
    expect(shop.conditions.colour(condition).curves).toEqual(shop.conditions.result(condition, 'start')!.curves);
    await expect(shop.chartMaking.make(condition, { kind: 'verify', patches: 60 })).rejects.toThrow(
      'Build or take a profile first'
    );
    await climb(shop, condition, 'verify', 420);
    expect(shop.conditions.colour(condition).curves).toEqual(shop.conditions.result(condition, 'linear')!.curves);
    const { results } = { results: shop.conditions.results(condition) };
    expect(results['linear check']!.document.worst).toBeLessThan(1.2);
    expect(results.profile!.document.fit!.mean).toBeLessThan(0.5);
    expect(results.verify!.document).toMatchObject({ pass: true });
    expect(results.verify!.document.mean).toBeLessThan(0.8);
    // The card's handling goes to the machine with every print.
    const job = await readJob(printer.url, 1);
    expect(JSON.parse(job!.handling ?? '{}')).toEqual(shop.media.get(media).card.handling['Petrel 13']);
    const facts = readProfileFacts(Uint8Array.from(readFileSync(shop.conditions.profilePath(condition))));
    expect(facts.measured).toContain('BEGIN_DATA');
    expect(Object.values(shop.conditions.get(condition).steps).every(({ state }) => state === 'done')).toBe(true);
  });

  it('says what is stale when a step is done again, and goes back', async () => {
    const before = shop.conditions.states(condition)[0]!.seq;
    const chartId = await printAndRead(shop, condition, { kind: 'total' });
    shop.calibration.take(condition, { step: 'total', chartId, total: 2.2 });
    const { steps, totalInk } = shop.conditions.get(condition);
    expect([steps.linear.state, steps.total.state, steps.profile.state, steps.verify.state]).toEqual([
      'done',
      'done',
      'stale',
      'stale'
    ]);
    expect(totalInk).toBe(2.2);
    shop.conditions.goTo(condition, before);
    expect(shop.conditions.get(condition).steps.profile.state).toBe('done');
    expect(shop.conditions.get(condition).totalInk).not.toBe(2.2);
  });

  it('takes nothing from charts of before its curves were changed, until these are gone back to', () => {
    const { seq } = shop.conditions.states(condition).find(({ current }) => current)!;
    const results = shop.conditions.results(condition);
    const chartOf = (step: 'linear' | 'linear check' | 'total' | 'profile' | 'verify') => results[step]!.chartId!;
    const takes = [
      { step: 'linear check', chartId: chartOf('linear check') },
      { step: 'total', chartId: chartOf('total') },
      { step: 'profile', chartId: chartOf('profile'), black: MEDIUM, version: 2, fine: false, without: [] as string[] },
      { step: 'verify', chartId: chartOf('verify') }
    ] as const;
    const areOld = () => takes.map(({ chartId }) => shop.charts.get(chartId).isOld);
    expect(areOld()).toEqual([false, false, false, false]);
    // A higher limit is on no patch; another profile is asked for by verifying alone.
    shop.calibration.take(condition, { step: 'total', chartId: chartOf('total'), total: 2.1 });
    expect(areOld()).toEqual([false, false, false, false]);
    const { document, chartId } = results.profile!;
    shop.conditions.keep(condition, 'profile', document, chartId, 'The same profile again');
    expect(areOld()).toEqual([false, false, false, true]);
    shop.calibration.take(condition, { step: 'linear', chartId: chartOf('linear'), evenness: 'chroma' });
    expect(areOld()).toEqual([true, true, true, true]);
    for (const choice of takes)
      expect(() => shop.calibration.take(condition, choice)).toThrow(
        `Chart C${choice.chartId} was made before the condition was changed`
      );
    // Its own readings are of ladders without curves, up to the limits of then.
    expect(shop.charts.get(chartOf('linear')).isOld).toBe(false);
    const limits = results.limits!.document.channels.map((channel) => ({ ...channel, chosen: channel.chosen * 0.9 }));
    shop.conditions.keep(condition, 'limits', { channels: limits }, null, 'Less ink');
    expect(shop.charts.get(chartOf('linear')).isOld).toBe(true);
    shop.conditions.goTo(condition, seq);
    expect(areOld()).toEqual([false, false, false, false]);
    shop.calibration.take(condition, takes[0]);
    shop.conditions.goTo(condition, seq);
  });

  it('is read from a file as well: its own, by names, or another’s, by inks', async () => {
    const chartId = shop.conditions.results(condition).total!.chartId!;
    const text = shop.charts.cgats(chartId);
    const renamed = text.replace(/^all-(\d+)/gm, 'X$1');
    expect(Object.keys(shop.chartReading.load(chartId, renamed).readings)).toHaveLength(105);
    expect(() =>
      shop.chartReading.load(
        chartId,
        'CGATS.17\nBEGIN_DATA_FORMAT\nSAMPLE_ID LAB_L LAB_A LAB_B\nEND_DATA_FORMAT\nBEGIN_DATA\nQ 1 2 3\nEND_DATA'
      )
    ).toThrow('None of the patches');
  });

  it('builds in a task that can be cancelled, and changes nothing then', async () => {
    const { chartId, id } = shop.conditions.results(condition).profile!;
    shop.calibration.take(condition, { step: 'profile', chartId: chartId!, black: MEDIUM, version: 4, fine: true, without: [] });
    const task = await until(() =>
      shop.tasks.open().find((one) => one.kind === 'build' && one.state === 'working' && one.share > 0)
    );
    shop.tasks.cancel(task.id);
    expect((await shop.tasks.ended(task.id)).state).toBe('cancelled');
    expect(shop.conditions.results(condition).profile!.id).toBe(id);
  });

  it('takes profiles from files, and refuses what it cannot print with', async () => {
    const bytes = Uint8Array.from(readFileSync(shop.conditions.profilePath(condition)));
    await expect(shop.calibration.importProfile(condition, bytes.subarray(0, 5000))).rejects.toThrow('cut off');
    await expect(
      shop.calibration.importProfile(condition, Uint8Array.from(readFileSync((await shop.sources.paths()).rgb)))
    ).rejects.toThrow('CMYK output profiles');
    const { seq } = shop.conditions.states(condition)[0]!;
    await shop.calibration.importProfile(condition, bytes);
    expect(shop.conditions.get(condition).profile).toBe('imported');
    shop.conditions.goTo(condition, seq);
  });
});

describe('a card', () => {
  /** Plates of the same docket in a shop, strip after strip: threads write strips to the file as they come. */
  async function plates(of: Shop, conditionId: number): Promise<Buffer> {
    const file = `marker-${conditionId}.pdf`;
    const artwork = await of.artworks.take(file, oneChunk(await berthMarker(9)));
    await until(() => of.artworks.get(artwork.id).state === 'ready');
    // What is cut carries a code, which no other shop's plates have.
    const docket = of.dockets.add(artwork.id, 0, { conditionId, copies: 3, cut: false });
    const run = of.layingOut.add([docket.id])[0]!;
    await of.tasks.ended((await of.ripping.rip(run)).id);
    const bytes = readFileSync(of.runs.plates(run).plates);
    const { strips } = await readPlateFile(
      (offset, length) => Promise.resolve(bytes.subarray(offset, offset + length)),
      bytes.length
    );
    return Buffer.concat(strips.map((strip) => bytes.subarray(strip.offset, strip.offset + strip.bytes)));
  }

  it('goes to an empty shop, and makes the same plates byte for byte', async () => {
    const file = await shop.cardFiles.write([media]);
    const elsewhere = temporaryFolder();
    const other = new Shop(elsewhere.path);
    try {
      const there = other.machines.add('printer', 'Petrel the second', printer.url);
      await other.machines.lookNow();
      other.start();
      expect(await other.cardFiles.look(file)).toMatchObject([
        { name: 'Gloss white film', state: 'new', conditions: [{ machine: 'Petrel 13', profiled: true, state: 'new' }] }
      ]);
      const [taken] = await other.cardFiles.take(file, [{ index: 0, replace: false }]);
      expect(taken!.card).toEqual(shop.media.get(media).card);
      const same = other.conditions.list()[0]!;
      expect(same).toMatchObject({ machineId: there, profile: 'measured' });
      expect(same.steps).toEqual(shop.conditions.get(condition).steps);
      expect((await plates(other, same.id)).equals(await plates(shop, condition))).toBe(true);
      // Once more: all the same, and nothing is written twice.
      expect(await other.cardFiles.look(file)).toMatchObject([{ state: 'same', conditions: [{ state: 'same' }] }]);
    } finally {
      await other.close();
      elsewhere.remove();
    }
  });

  it('that was tampered with is refused, and one that is different is not taken silently', async () => {
    const file = await shop.cardFiles.write([media]);
    const broken = Uint8Array.from(file);
    const at = Buffer.from(broken).indexOf('manifest.json') + 120;
    broken[at] = (broken[at] ?? 0) ^ 255;
    await expect(shop.cardFiles.look(broken)).rejects.toThrow(/not a file of media cards|changed after/);
    await expect(shop.cardFiles.look(new Uint8Array([1, 2, 3]))).rejects.toThrow('no zip');

    // Signed rightly, but with a curve that is none.
    const parts = unzipSync(file);
    const inside = JSON.parse(strFromU8(parts['cards/1/card.json']!)) as {
      conditions: { results: { document: { curves?: number[][] } }[] }[];
    };
    inside.conditions[0]!.results[0]!.document.curves![2]![9] = 7;
    parts['cards/1/card.json'] = strToU8(JSON.stringify(inside));
    const manifest = JSON.parse(strFromU8(parts['manifest.json']!)) as { files: Record<string, string>; sum: string };
    const sha = (bytes: Uint8Array | string) => createHash('sha256').update(bytes).digest('hex');
    manifest.files['cards/1/card.json'] = sha(parts['cards/1/card.json']);
    const lines = Object.entries(manifest.files).map(([name, hash]) => `${hash} ${name}\n`);
    manifest.sum = sha(lines.sort().join(''));
    parts['manifest.json'] = strToU8(JSON.stringify(manifest));
    await expect(shop.cardFiles.look(zipSync(parts))).rejects.toThrow(
      /the step start: curves\.2\.9 is missing, or not what it should be/
    );

    const own = shop.media.get(media);
    shop.media.change(media, own.version, { ...own.card, costPerM2: 9.99 });
    expect(await shop.cardFiles.look(file)).toMatchObject([
      { state: 'different', differences: [{ field: 'costPerM2', mine: '9.99', theirs: '5' }] }
    ]);
    const [beside] = await shop.cardFiles.take(file, [{ index: 0, replace: false }]);
    expect(beside!.card.name).toBe('Gloss white film 2');
    expect(shop.media.get(media).card.costPerM2).toBe(9.99);
    // What is in stock here is nothing that another shop knows of.
    const stock = { rolls: [{ widthMm: 1370, lengthMm: 20_000 }], sheets: [{ widthMm: 500, heightMm: 700, count: 8 }] };
    shop.media.stock(media, stock);
    await shop.cardFiles.take(file, [{ index: 0, replace: true }]);
    expect(shop.media.get(media).card).toMatchObject({ costPerM2: 5, ...stock });
    shop.media.stock(media, { rolls: [], sheets: [] });
  });

  it('whose condition is the same here adds no state to it, and one with other curves says so first', async () => {
    const file = await shop.cardFiles.write([media]);
    const states = () => shop.conditions.states(condition).length;
    const [before, { seq }] = [states(), shop.conditions.states(condition).find(({ current }) => current)!];
    await shop.cardFiles.take(file, [{ index: 0, replace: true }]);
    expect(states()).toBe(before);
    shop.conditions.setTone(condition, { all: { points: [[0, 0], [0.5, 0.6], [1, 1]], mayFall: false } }); // prettier-ignore
    expect(await shop.cardFiles.look(file)).toMatchObject([{ state: 'different', conditions: [{ state: 'different' }] }]);
    shop.conditions.goTo(condition, seq);
  });

  it('of a shop that had begun nothing yet leaves what was found here', async () => {
    const elsewhere = temporaryFolder();
    const other = new Shop(elsewhere.path);
    try {
      const there = other.machines.add('printer', 'Petrel the third', printer.url);
      await other.machines.lookNow();
      // Its tasks are not started: the first profile is not made.
      const bare = other.media.add({ ...shop.media.get(media).card, costPerM2: 4 });
      other.conditionEditing.add(there, bare.id, USUAL_MODE);
      const file = await other.cardFiles.write([bare.id]);
      const { profile, steps } = shop.conditions.get(condition);
      const { seq } = shop.conditions.states(condition).find(({ current }) => current)!;
      await shop.cardFiles.take(file, [{ index: 0, replace: true }]);
      expect(shop.media.get(media).card.costPerM2).toBe(4);
      expect(shop.conditions.get(condition).hasProfile).toBe(true);
      expect(shop.conditions.result(condition, 'start')).toBeDefined();
      shop.conditions.goTo(condition, seq);
      expect(shop.conditions.get(condition)).toMatchObject({ profile, steps });
    } finally {
      await other.close();
      elsewhere.remove();
    }
  });

  it('comes from a library locked, is copied to be changed, and shows what an update changes', async () => {
    await expect(shop.library.offers()).rejects.toThrow('No media library is set');
    shop.settings.change({ ...shop.settings.current, libraryUrl: library.url });
    const taken = await shop.library.take('shoal-white');
    expect(taken).toMatchObject({ locked: true, library: { id: 'shoal-white', version: 1 } });
    // What is in stock is the shop's own all the same.
    const rolls = [{ widthMm: 1370, lengthMm: 30_000, batch: 'FC 118' }];
    const sheets = [{ widthMm: 600, heightMm: 400, count: 12 }];
    const stocked = shop.media.change(taken.id, taken.version, { ...taken.card, rolls });
    expect(stocked).toMatchObject({ locked: true, card: { ...taken.card, rolls } });
    expect(() => shop.media.change(taken.id, stocked.version, { ...stocked.card, rolls: [], note: 'x' })).toThrow('is locked');
    expect(shop.media.get(taken.id).card.rolls).toEqual(rolls);
    const knives = { ...DEFAULT_KNIVES, crease: { ...DEFAULT_KNIVES.crease, force: 140 } };
    shop.media.stock(taken.id, { rolls, sheets });
    shop.media.keepKnives(taken.id, 'Gannet 32', knives);
    expect(() => shop.media.change(taken.id, taken.version, { ...taken.card, note: 'x' })).toThrow('Copy it to change it');
    const copy = shop.media.copy(taken.id);
    const changed = shop.media.change(copy.id, copy.version, {
      ...copy.card,
      handling: { 'Petrel 13': { ...copy.card.handling['Petrel 13']!, headGapMm: 4 } }
    });
    expect(changed.looks).toMatchObject([{ field: 'headGapMm' }]);
    await post(`${library.url}/edition`, { edition: 2 });
    const { cards } = await shop.library.offers();
    const newer = cards.find(({ id }) => id === 'shoal-white')!;
    expect(newer.version).toBe(2);
    expect(newer.changes.map(({ field }) => field)).toEqual(['thicknessMm', 'Petrel 13: Feed correction']);
    expect(await shop.library.take('shoal-white')).toMatchObject({
      id: taken.id,
      library: { version: 2 },
      card: { rolls, sheets, knives: { 'Gannet 32': knives } }
    });
    // Put away it is no card of the shop's, and taken anew it is the one that it was.
    shop.conditionEditing.add(machine, taken.id, USUAL_MODE);
    expect(shop.media.remove(taken.id).is).toBe('put away');
    expect((await shop.library.offers()).cards.find(({ id }) => id === 'shoal-white')!.mine).toBeNull();
    expect(await shop.library.take('shoal-white')).toMatchObject({ id: taken.id, away: false });
    library.stop();
    await until(() =>
      shop.library.offers().then(
        () => false,
        (error: Error) => error.message.includes('does not answer')
      )
    );
    expect(shop.media.list().length).toBeGreaterThan(3);
  });

  it('cannot be printed on a machine that it does not name', () => {
    const flag = shop.media.add({
      ...shop.media.get(media).card,
      name: 'Flag',
      handling: { 'Gannet 32': shop.media.get(media).card.handling['Petrel 13']! }
    });
    expect(() => shop.conditionEditing.add(machine, flag.id, USUAL_MODE)).toThrow('does not say how Petrel 13');
    expect(() => shop.conditionEditing.add(machine, media, { ...USUAL_MODE, machine: 'Gannet 32' })).toThrow('is for Gannet 32');
  });
});
