import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Shop } from '$lib/server/app/shop';
import { BroughtDocument } from '$lib/server/calibration/brought-results';
import { MIXTURE_FIGURES } from '$core/inks/mixture';
import type { ChartRequest } from '$lib/calibration';
import type { WatchRule } from '$lib/watch';
import type { Unit } from '../../standins/printer/physics';
import { oneChunk, startStandIn, temporaryFolder, until, USUAL_MODE, type StandIn } from '../harness';
import { smallPage } from '../made/small-page';

/** A condition over time: its baseline, a machine that drifts, the way back, and the machine beside it. */

let printer: StandIn;
let other: StandIn;
let instrument: StandIn;
let shop: Shop;
let condition: number;
let beside: number;
let docket: number;
const folder = temporaryFolder();

beforeAll(async () => {
  [printer, other, instrument] = await Promise.all([
    startStandIn('printer'),
    startStandIn('printer'),
    startStandIn('instrument', { SEED: '9' })
  ]);
  shop = new Shop(folder.path);
  const machine = shop.machines.add('printer', 'Petrel 13', printer.url);
  const second = shop.machines.add('printer', 'Petrel 13 by the door', other.url);
  shop.machines.add('instrument', 'Plover S2', instrument.url);
  await shop.machines.lookNow();
  const media = shop.media.addNew({ name: 'Gloss white film', thicknessMm: 0.08 }).id;
  shop.start();
  condition = shop.conditionEditing.add(machine, media, USUAL_MODE);
  beside = shop.conditionEditing.add(second, media, USUAL_MODE);
  await until(() => [condition, beside].every((id) => shop.conditions.get(id).hasProfile));
  const artwork = await shop.artworks.take('Page.pdf', oneChunk(smallPage('0 1 0 0 k 5 5 10 10 re f')));
  await until(() => shop.artworks.get(artwork.id).state === 'ready');
  const { id, version, choices } = shop.dockets.add(artwork.id, 0);
  docket = shop.docketEditing.change(id, version, { choices: { ...choices, conditionId: condition, bleedMm: 0, cut: false } }).id;
});
afterAll(async () => {
  await shop.close();
  for (const one of [printer, other, instrument]) one.stop();
  folder.remove();
});

const unit = (of: StandIn, gain: number[], strength = [1, 1, 1, 1], hue = [0, 0, 0, 0]) =>
  fetch(`${of.url}/unit`, { method: 'POST', body: JSON.stringify({ gain, strength, hue }) });

async function printed(id: number, kind: 'baseline' | 'compare'): Promise<number> {
  const request: ChartRequest = { kind };
  const { id: chartId } = await shop.chartMaking.make(id, request);
  await until(() => shop.charts.get(chartId).state === 'ready');
  await shop.chartMaking.print(chartId);
  const chart = await until(() => (shop.charts.get(chartId).printId !== null ? shop.charts.get(chartId) : undefined));
  for (let strip = 0; strip < chart.layout.strips; strip++) await shop.chartReading.read(chartId, strip);
  return chartId;
}
/** The worst that is found of the docket: 1 where somebody should look. */
const worst = () => shop.db.prepare<[number], number | null>('SELECT worst FROM docket WHERE id = ?').pluck().get(docket);
const found = (level: number) => until(() => worst() === level);
const last = (id: number) => shop.watch.state(id).drifts.at(-1)!;

describe('watching a condition', () => {
  it('has nothing to say of a docket before there is a baseline', () => found(0));

  it('begins with a baseline, which is read whole and then kept', async () => {
    await expect(shop.chartMaking.make(condition, { kind: 'compare' })).rejects.toThrow('has no baseline yet');
    const chart = await shop.chartMaking.make(condition, { kind: 'baseline' });
    expect(() => shop.watch.keepBaseline(condition, chart.id)).toThrow(/241 of 241 patches/);
    const read = await printed(condition, 'baseline');
    shop.watch.keepBaseline(condition, read);
    expect(shop.watch.state(condition)).toMatchObject({
      baseline: { patches: 241, origin: `chart C${read}`, isOld: false },
      drifts: [],
      isCorrected: false
    });
  });

  it('tells how far a machine has drifted, ink by ink, and brings it back', async () => {
    await unit(printer, [1.12, 0.88, 1.1, 0.92]);
    shop.watch.note(condition, 'service');
    const read = await printed(condition, 'compare');
    await shop.watch.compare(condition, read);
    const before = last(condition);
    expect(before.mean).toBeGreaterThan(2);
    expect(before.channels.map(({ middle }) => Math.sign(middle))).toEqual([1, -1, 1, -1]);
    expect(before.predicted!.mean).toBeLessThan(0.5);
    await found(1);
    const plain = shop.conditions.colour(condition).curves;
    shop.watch.correct(condition, before.id);
    expect(shop.conditions.colour(condition).curves).not.toEqual(plain);
    expect(shop.watch.state(condition).isCorrected).toBe(true);
    expect(shop.conditions.states(condition)[0]!.what).toContain('Brought back to its baseline');
    await found(0);
    // Verified by a third reading, which is as was foretold.
    await shop.watch.compare(condition, await printed(condition, 'compare'));
    expect(last(condition).mean).toBeLessThan(0.5);
    expect(Math.abs(last(condition).mean - before.predicted!.mean)).toBeLessThan(0.12);
    expect(shop.watch.state(condition).notes.map(({ what }) => what)).toEqual(['service']);
  });

  it('corrects what it corrected before once more, and goes back to the state before', async () => {
    await unit(printer, [1.05, 0.95, 1.1, 1]);
    await shop.watch.compare(condition, await printed(condition, 'compare'));
    const drift = last(condition);
    expect(drift.mean).toBeGreaterThan(0.8);
    shop.watch.correct(condition, drift.id);
    await shop.watch.compare(condition, await printed(condition, 'compare'));
    expect(last(condition).mean).toBeLessThan(0.5);
    await found(0);
    // Of before the correction there is nothing more to take.
    expect(() => shop.watch.correct(condition, drift.id)).toThrow('changed since this was read');
    const first = shop.watch.state(condition).drifts[0]!;
    shop.conditions.goTo(condition, shop.conditions.states(condition).at(-1)!.seq);
    expect(shop.watch.state(condition).isCorrected).toBe(false);
    // What was read without it holds again.
    expect(shop.conditions.get(condition).watch).toMatchObject({ read: { mean: first.mean }, isBack: false });
    await found(1);
    expect(shop.conditions.colour(condition).curves).toEqual(shop.conditions.colour(condition).plain);
  });

  it('is told nothing by what was read before its curves were made anew, until they are gone back to', async () => {
    const { seq } = shop.conditions.states(condition).find(({ current }) => current)!;
    const { read } = shop.conditions.get(condition).watch;
    expect(read!.mean).toBeGreaterThan(1);
    const curves = shop.conditions.colour(condition).plain.map((curve) => curve.map((v) => v ** 1.1));
    shop.conditions.keep(condition, 'start', { ...shop.conditions.result(condition, 'start')!, curves }, null, 'Begun anew');
    expect(shop.conditions.get(condition).watch).toMatchObject({ isOld: true, read: null });
    expect(shop.watch.state(condition).baseline!.isOld).toBe(true);
    expect(shop.watch.state(condition).drifts.filter(({ isOfNow }) => isOfNow)).toEqual([]);
    expect(shop.watch.state(condition).patches).toEqual([]);
    await found(0);
    shop.conditions.goTo(condition, seq);
    expect(shop.conditions.get(condition).watch).toMatchObject({ isOld: false, read });
    await found(1);
  });

  it('says which ink no longer comes to its full tone', async () => {
    await unit(printer, [1, 1, 1, 1], [1, 0.88, 1, 1]);
    await shop.watch.compare(condition, await printed(condition, 'compare'));
    expect(last(condition).short.map(({ name }) => name)).toEqual(['magenta']);
    expect(last(condition).channels[1]!.full).toBeLessThan(-2);
  });

  it('corrects inks together where their hues are others, and says so in the ink of dockets too', async () => {
    const seq = shop.conditions.states(condition).find(({ current }) => current)!.seq;
    await unit(printer, [1, 1.06, 1, 1], [1, 1, 1, 1], [0, 8, -5, 0]);
    await shop.watch.compare(condition, await printed(condition, 'compare'));
    const before = last(condition);
    expect(before.byCurves!.mean).toBeGreaterThan(0.8);
    expect(before.predicted!.mean).toBeLessThan(before.byCurves!.mean * 0.6);
    const ml = async () => (await shop.pictures.measured(docket)).layers.reduce((sum, { m2 }) => sum + m2, 0);
    const inkBefore = await ml();
    shop.watch.correct(condition, before.id);
    expect(shop.conditions.colour(condition).mixture).toHaveLength(MIXTURE_FIGURES);
    expect(await ml()).not.toBeCloseTo(inkBefore, 8);
    const document = shop.conditions.result(condition, 'match')!;
    expect(BroughtDocument.match.parse(document)).toEqual(document);

    // What comes on top of it is one with it: drops have swollen meanwhile.
    await unit(printer, [1.1, 1.06, 0.92, 1], [1, 1, 1, 1], [0, 8, -5, 0]);
    await shop.watch.compare(condition, await printed(condition, 'compare'));
    const drifted = last(condition);
    expect(drifted.mean).toBeGreaterThan(before.predicted!.mean + 0.8);
    shop.watch.correct(condition, drifted.id);
    await shop.watch.compare(condition, await printed(condition, 'compare'));
    expect(last(condition).mean).toBeLessThan(before.predicted!.mean + 0.1);
    expect(Math.abs(last(condition).mean - drifted.predicted!.mean)).toBeLessThan(0.15);
    shop.conditions.goTo(condition, seq);
    expect(shop.conditions.colour(condition).mixture).toBeUndefined();
  });

  it('refuses readings of another chart, and ones that are not whole', async () => {
    await unit(printer, [1, 1, 1, 1]);
    const chart = await shop.chartMaking.make(condition, { kind: 'compare' });
    await expect(shop.watch.compare(condition, chart.id)).rejects.toThrow(/are not read yet/);
    await expect(shop.watch.compare(beside, chart.id)).rejects.toThrow('no baseline yet');
    expect(() => shop.watch.keepBaseline(beside, chart.id)).toThrow('is no baseline of this condition');
  });
});

describe('the shop’s rule', () => {
  const why = () => shop.reminders.due().find(({ conditionId }) => conditionId === condition)?.why;
  const rule = (watch: WatchRule) => shop.settings.change({ watch });

  it('wants a condition read again after a service, until it was', async () => {
    expect(why()).toBeUndefined();
    shop.watch.note(condition, 'new inks');
    expect(why()).toBe('new inks since it was last read');
    rule({ days: null, metres: null, afterService: false });
    expect(why()).toBeUndefined();
    rule({ days: null, metres: null, afterService: true });
    // What was noted by mistake is taken out again.
    const noted = shop.watch.state(condition).notes.at(-1)!;
    shop.watch.takeOutNote(condition, noted.id);
    expect(why()).toBeUndefined();
    expect(() => shop.watch.takeOutNote(condition, noted.id)).toThrow('no such note');
    shop.watch.note(condition, 'new inks');
    expect(why()).toBe('new inks since it was last read');
    await shop.watch.compare(condition, await printed(condition, 'compare'));
    expect(why()).toBeUndefined();
    // The other has no baseline: there is nothing to read it against.
    expect(shop.reminders.due()).toEqual([]);
  });

  it('counts the metres that were printed in it since', async () => {
    rule({ days: null, metres: 1, afterService: false });
    expect(why()).toBeUndefined();
    shop.db.prepare('UPDATE print SET printed_mm = 1200 WHERE id = (SELECT max(id) FROM print)').run();
    shop.db.prepare('UPDATE print SET ended_at = ? WHERE id = (SELECT max(id) FROM print)').run(Date.now() + 1);
    shop.events.changed('runs');
    await until(() => why() === '1 m printed since it was last read');
  });
});

describe('a machine that ages', () => {
  it('comes back as it was told to be, and prints with rows of nozzles that are blocked', async () => {
    const wear = async (what: string, seed: number) =>
      (await fetch(`${printer.url}/wear`, { method: 'POST', body: JSON.stringify({ what, seed }) })).json() as Promise<Unit>;
    expect(await wear('weeks', 4)).not.toEqual(await wear('weeks', 5));
    expect((await fetch(`${printer.url}/wear`, { method: 'POST', body: '{"what":"magic"}' })).status).toBe(400);
    await unit(printer, [1, 1, 1, 1]);
    await shop.watch.compare(condition, await printed(condition, 'compare'));
    const whole = last(condition);
    await fetch(`${printer.url}/unit`, {
      method: 'POST',
      body: JSON.stringify({ gain: [1, 1, 1, 1], strength: [1, 1, 1, 1], blocked: [4, 0, 0, 0] })
    });
    await shop.watch.compare(condition, await printed(condition, 'compare'));
    const { channels, mean } = last(condition);
    expect(mean).toBeGreaterThan(whole.mean + 0.5);
    expect(channels[0]!.full).toBeLessThan(whole.channels[0]!.full - 4);
    expect(Math.abs(channels[1]!.full - whole.channels[1]!.full)).toBeLessThan(1);
    const { blocked } = await wear('service', 6);
    expect(blocked).toEqual([0, 0, 0, 0]);
    await unit(printer, [1, 1, 1, 1]);
  });

  it('has a page of its own, which the shop links to', async () => {
    const { page } = shop.machines.list().find(({ name }) => name === 'Petrel 13')!.printer!;
    expect(new URL(page!).origin).toBe(printer.url);
    const text = await (await fetch(page!)).text();
    expect(text).toContain('blocked nozzles');
  });
});

describe('a machine beside another', () => {
  it('is brought to print as the other does', async () => {
    await unit(other, [0.9, 1.1, 1, 1.08]);
    shop.watch.adopt(beside, condition);
    expect(shop.watch.state(beside).baseline!.origin).toBe('as Petrel 13 prints on Gloss white film');
    await shop.watch.compare(beside, await printed(beside, 'compare'));
    const before = last(beside);
    expect(before.mean).toBeGreaterThan(1);
    shop.watch.correct(beside, before.id);
    await shop.watch.compare(beside, await printed(beside, 'compare'));
    expect(last(beside).mean).toBeLessThan(0.5);
  });

  it('takes the other’s baseline from a file as well; one that is none is refused', () => {
    const text = shop.watch.file(condition);
    shop.watch.load(beside, text);
    expect(shop.watch.state(beside).baseline).toMatchObject({ origin: 'a file', patches: 241 });
    expect(shop.watch.file(beside).split('BEGIN_DATA\n')[1]).toBe(text.split('BEGIN_DATA\n')[1]);
    expect(() => shop.watch.load(beside, 'nothing')).toThrow(/no BEGIN_DATA/);
    const few = [
      'CGATS.17',
      'BEGIN_DATA_FORMAT',
      'SAMPLE_ID LAB_L LAB_A LAB_B',
      'END_DATA_FORMAT',
      'BEGIN_DATA',
      'A 1 2 3',
      'END_DATA'
    ];
    expect(() => shop.watch.load(beside, few.join('\n'))).toThrow(/of which inks/);
  });
});
