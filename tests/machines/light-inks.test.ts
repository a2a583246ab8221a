import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { laidInk } from '$core/inks/laid-ink';
import { Shop } from '$lib/server/app/shop';
import { inkAt } from '$lib/server/production/plates';
import { ALL_MODES } from '../../standins/printer/modes';
import { climb, printAndRead } from '../../demo/climb';
import { artworkOf } from '../flatbed-shop';
import { startStandIn, temporaryFolder, until, type StandIn } from '../harness';

/** A machine with light inks: its channels are calibrated as any other’s, whatever inks make them. */

const folder = temporaryFolder();
let printer: StandIn;
let instrument: StandIn;
let shop: Shop;
let condition: number;

beforeAll(async () => {
  [printer, instrument] = await Promise.all([
    startStandIn('printer', { MODEL: 'Gannet 32' }),
    startStandIn('instrument', { SEED: '31' })
  ]);
  shop = new Shop(folder.path);
  const machine = shop.machines.add('printer', 'Gannet 32', printer.url);
  shop.machines.add('instrument', 'Plover S2', instrument.url);
  await shop.machines.lookNow();
  const media = shop.media.addNew({ name: 'Gloss white film' }).id;
  shop.start();
  const mode = ALL_MODES.find(({ code }) => code === 'Gannet 32/Estuary/calendered/720/8/both ways/fine')!;
  condition = shop.conditionEditing.add(machine, media, mode);
  await until(() => shop.conditions.get(condition).hasProfile);
});
afterAll(async () => {
  await shop.close();
  for (const one of [printer, instrument]) one.stop();
  folder.remove();
});

describe('a condition with light inks', () => {
  it('is climbed from nothing to a verified profile, true to what its drops make', async () => {
    await climb(shop, condition, 'profile', 900);
    // Read without noise, what is measured is the truth.
    await fetch(`${instrument.url}/settings`, { method: 'POST', body: JSON.stringify({ noise: 0 }) });
    const chartId = await printAndRead(shop, condition, { kind: 'verify', patches: 60 });
    shop.calibration.take(condition, { step: 'verify', chartId });
    const { verify, linear } = shop.conditions.results(condition);
    expect(shop.conditions.results(condition)['linear check']!.document.worst).toBeLessThan(1.5);
    expect(verify!.document.mean).toBeLessThanOrEqual(0.3);
    expect(verify!.document.pass).toBe(true);
    expect(linear!.document.curves).toHaveLength(4);
  });

  it('had its charts printed in light inks where they are pale, in one layer of colour', async () => {
    const chart = shop.charts.get(shop.conditions.results(condition)['linear check']!.chartId!);
    const { plan } = shop.runs.frozen(chart.runId);
    expect(plan.layers).toEqual([{ ink: 'colour' }]);
    const names = plan.inks.map(({ name }) => name);
    const pale = chart.layout.patches.find(
      ({ inks }) => inks[0]! > 0.08 && inks[0]! < 0.15 && inks.slice(1).every((v) => v === 0)
    )!;
    const flat = plan.flats!.find(
      ({ inks }) => Math.abs((inks[0] ?? 0) - pale.inks[0]!) < 1e-9 && !inks[1] && !inks[2] && !inks[3]
    )!;
    const px = (mm: number) => Math.round((mm / 25.4) * plan.dpi.x);
    const size = shop.runs.get(chart.runId).result!;
    const at = await inkAt(
      shop.runs.plates(chart.runId).overview,
      size,
      names.length,
      px(flat.x + flat.width / 2),
      px(flat.y + flat.height / 2)
    );
    expect(at[names.indexOf('Light cyan')]!).toBeGreaterThan(4 * at[names.indexOf('Cyan')]!);
  });

  it('takes the ink that dockets on it are shown to take, pale or full', async () => {
    for (const cmyk of ['.2 0 0 0', '0 .5 0 0', '.8 0 .4 0', '0 0 0 .3', '1 1 0 .2']) {
      const artwork = await artworkOf(shop, cmyk, `${cmyk} k 0 0 20 20 re f`);
      const { id } = shop.dockets.add(artwork, 0, { conditionId: condition, widthMm: 60, heightMm: 60, copies: 2, cut: false });
      const [runId] = shop.layingOut.add([id], undefined, true);
      await shop.tasks.ended((await shop.ripping.rip(runId!)).id);
      const { layers } = await shop.pictures.measured(id);
      const shown = layers.reduce((sum, one) => sum + 2 * laidInk(one, shop.conditions.get(condition), 0).ml, 0);
      const laid = shop.runs.get(runId!).result!.inkMl.reduce((sum, ml) => sum + ml, 0);
      expect([cmyk, Math.abs(shown / laid - 1) < 0.03]).toEqual([cmyk, true]);
    }
  });

  it('is told among the print modes as one that takes more ink', () => {
    const times = new Set(shop.modes.list().map(({ machine, inkTimes }) => `${machine} ${inkTimes.toFixed(3)}`));
    // All of its modes alike.
    expect([...times]).toEqual([expect.stringMatching(/^Gannet 32 1\.[2-5]/)]);
  });

  it('says how much less grainy its pale tones are', async () => {
    const found = await shop.calibration.grain(condition);
    expect(found.map(({ channel }) => channel)).toEqual(['Cyan', 'Magenta', 'Black']);
    for (const one of found) expect(one.with / one.without).toBeLessThanOrEqual(0.5);
    expect(found[0]!.with / found[0]!.without).toBeLessThanOrEqual(0.4);
  });
});
