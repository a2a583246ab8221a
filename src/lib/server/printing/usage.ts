import type { Print, PrintEnd } from './print';
import type { Machines } from '../machines/machines';
import type { Runs } from '../production/run-store';
import type { Settings } from '../platform/settings';

/** A docket's part of a print. */
export interface DocketUsage {
  id: number;
  name: string;
  customer: string;
  copies: number;
  m2: number;
  /** Its share of what no piece covers, by its area. */
  wasteM2: number;
  inkMl: number;
  cost: number;
}

/** What a print took, as it was when it ended: prices may change later. */
export interface Usage {
  media: string;
  machine: string;
  metres: number;
  m2: number;
  wasteM2: number;
  inkMl: number;
  hours: number;
  mediaCost: number;
  inkCost: number;
  timeCost: number;
  dockets: DocketUsage[];
}

/** What it works with. */
interface Needs {
  machines: Machines;
  runs: Runs;
  settings: Settings;
}

/** What a print took. One that broke off is waste altogether. */
export function usageOf(needs: Needs, print: Print, end: PrintEnd): Usage {
  const whole = end.state === 'done';
  const { runs, settings, machines } = needs;
  const run = runs.get(print.runId);
  const { plan } = runs.frozen(print.runId);
  const m2 = (plan.widthMm * print.printedMm) / 1e6;
  const areas = new Map<string, { area: number; copies: Map<string, number> }>();
  for (const copy of run.layout.parts[0]?.copies ?? []) {
    const piece = run.laid.find((one) => one.id === copy.id);
    if (!piece) continue;
    const kept = areas.get(piece.docket) ?? { area: 0, copies: new Map<string, number>() };
    kept.copies.set(copy.id, (kept.copies.get(copy.id) ?? 0) + 1);
    areas.set(piece.docket, { ...kept, area: kept.area + (piece.widthMm * piece.heightMm) / 1e6 });
  }
  const covered = [...areas.values()].reduce((sum, { area }) => sum + area, 0);
  // A chart has no dockets and no waste: all of it is of use.
  const wasteM2 = !whole ? m2 : covered === 0 ? 0 : Math.max(0, m2 - covered);
  const inkMl = print.inkMl.reduce((sum, ml) => sum + ml, 0);
  const hours = end.seconds / 3600;
  const mediaCost = m2 * run.condition.costPerM2;
  const inkCost = print.inkMl.reduce((sum, ml, i) => sum + ml * (plan.inks[i]?.costPerMl ?? settings.current.inkCostPerMl), 0);
  const timeCost = hours * machines.get(print.machineId).costPerHour;
  return {
    media: run.condition.media,
    machine: print.machine,
    metres: print.printedMm / 1000,
    m2,
    wasteM2,
    inkMl,
    hours,
    mediaCost,
    inkCost,
    timeCost,
    dockets: run.dockets.flatMap((docket, i) => {
      const part = areas.get(String(docket.id));
      if (!part) return [];
      const share = part.area / covered;
      return {
        id: docket.id,
        name: docket.name,
        customer: docket.customer,
        // A wall is printed as often as all of its panels are: some of them alone are no copy of it.
        copies: whole && !run.entries[i]?.pieces ? Math.min(...part.copies.values()) : 0,
        m2: part.area,
        wasteM2: wasteM2 * share,
        inkMl: inkMl * share,
        cost: (mediaCost + inkCost + timeCost) * share
      };
    })
  };
}
