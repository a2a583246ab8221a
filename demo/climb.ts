import { STEPS, type BlackSetting, type ChartRequest, type Step } from '$lib/calibration';
import type { Shop } from '$lib/server/app/shop';
import { TRUE_UNIT } from '$standins/printer/physics';
import type { Wear } from '$standins/printer/wear';

/** Climbs a condition with the stand-ins as an operator would: every chart printed, every strip read. */

export const MEDIUM: BlackSetting = {
  choice: 'medium',
  curve: [
    [0, 0],
    [1, 0.5]
  ],
  steady: true
};

const DAY_MS = 86_400_000;

async function settle(look: () => boolean, seconds: number, what: string): Promise<void> {
  const end = Date.now() + seconds * 1000;
  while (!look()) {
    if (Date.now() > end) throw new Error(`${what} did not come to an end in ${seconds} s.`);
    await new Promise((resolve) => setTimeout(resolve, 30));
  }
}

/** Makes a chart, prints it and reads all of it. @returns its number */
export async function printAndRead(shop: Shop, conditionId: number, request: ChartRequest): Promise<number> {
  const { id, runId } = await shop.chartMaking.make(conditionId, request);
  await settle(() => shop.charts.get(id).state !== 'making', 120, `The chart of ${request.kind}`);
  const { condition } = shop.runs.get(runId);
  const url = shop.machines.get(condition.machineId).url;
  const loaded = shop.machines.get(condition.machineId).printer?.media.name;
  if (loaded !== condition.media) {
    const roll = { name: condition.media, surface: condition.surface, widthMm: condition.rollWidthMm, lengthMm: 38_200 };
    await fetch(`${url}/media`, { method: 'POST', body: JSON.stringify(roll) });
    await shop.machines.lookNow();
  }
  await shop.chartMaking.print(id);
  await settle(() => ['printed', 'failed'].includes(shop.charts.get(id).state), 120, `The print of ${request.kind}`);
  for (let strip = 0; strip < shop.charts.get(id).layout.strips; strip++) await shop.chartReading.read(id, strip);
  return id;
}

/** @param to the last step that is taken */
export async function climb(shop: Shop, conditionId: number, to: Step, patches: number): Promise<void> {
  await settle(() => shop.conditions.get(conditionId).hasProfile, 120, 'The start');
  for (const step of STEPS.slice(0, STEPS.indexOf(to) + 1)) {
    const request: ChartRequest =
      step === 'linear'
        ? { kind: step, steps: 26 }
        : step === 'profile'
          ? { kind: step, patches }
          : step === 'verify'
            ? { kind: step, patches: 60 }
            : { kind: step };
    const chartId = await printAndRead(shop, conditionId, request);
    if (step === 'profile') {
      shop.calibration.take(conditionId, { step, chartId, black: MEDIUM, version: 2, fine: false, without: [] });
      await settle(() => shop.conditions.get(conditionId).profile === 'measured', 180, 'The profile');
    } else if (step === 'linear') {
      shop.calibration.take(conditionId, { step, chartId, evenness: 'distance' });
      const check = await printAndRead(shop, conditionId, { kind: 'linear check' });
      shop.calibration.take(conditionId, { step: 'linear check', chartId: check });
    } else shop.calibration.take(conditionId, { step, chartId });
  }
}

/** Watches a condition over some weeks: a baseline, what its machine came to, a service, and new inks that were not read yet. */
export async function watch(shop: Shop, conditionId: number): Promise<void> {
  const { machineId } = shop.conditions.get(conditionId);
  const { url } = shop.machines.get(machineId);
  const wear = (what: Wear, seed: number) => fetch(`${url}/wear`, { method: 'POST', body: JSON.stringify({ what, seed }) });
  const compare = async () => shop.watch.compare(conditionId, await printAndRead(shop, conditionId, { kind: 'compare' }));
  shop.watch.keepBaseline(conditionId, await printAndRead(shop, conditionId, { kind: 'baseline' }));
  for (const seed of [3, 8]) {
    await wear('weeks', seed);
    await compare();
  }
  await wear('service', 5);
  shop.watch.note(conditionId, 'service');
  await compare();
  shop.watch.note(conditionId, 'new inks');
  await fetch(`${url}/unit`, { method: 'POST', body: JSON.stringify(TRUE_UNIT) });
  // All of it lies weeks back.
  const back = (table: 'baseline' | 'drift' | 'machine_note', days: readonly number[]) => {
    const ids = shop.db.prepare<[], number>(`SELECT id FROM ${table} ORDER BY id`).pluck().all();
    const put = shop.db.prepare(`UPDATE ${table} SET made_at = made_at - ? WHERE id = ?`);
    ids.forEach((id, i) => put.run((days[i] ?? 0) * DAY_MS, id));
  };
  back('baseline', [63]);
  back('drift', [42, 21, 18]);
  back('machine_note', [19, 2]);
}
