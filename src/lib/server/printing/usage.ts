import { isJig } from '$core/layout/placement';
import { inkCounted, sharesOf, takenBy } from '$core/layout/run-costs';
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
  /** Its share of what pieces cover, and of what none does, by the area that its copies take with their bleed: together all of the media. */
  m2: number;
  wasteM2: number;
  inkMl: number;
  cost: number;
}

/** What a print took, as it was when it ended: prices may change later. */
export interface Usage {
  media: string;
  machine: string;
  metres: number;
  /** Media, in a jig its things; and what of it no piece covers. */
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
  const pieces = new Map(run.laid.map((piece) => [piece.id, piece]));
  const [part] = run.layout.parts;
  const copies = new Map<number, Map<string, number>>();
  for (const { id } of part?.copies ?? []) {
    const piece = pieces.get(id);
    if (!piece) continue;
    const own = copies.get(Number(piece.docket)) ?? new Map<string, number>();
    own.set(id, (own.get(id) ?? 0) + 1);
    copies.set(Number(piece.docket), own);
  }
  // A load takes the things that lie in its jig, and as much of them as was printed.
  const m2 = isJig(run.stock)
    ? (part?.usedM2 ?? 0) * Math.min(1, print.printedMm / plan.lengthMm)
    : (plan.widthMm * print.printedMm) / 1e6;
  // As the run says it: a chart has no dockets and no waste, all of it is of use.
  const usedM2 = !whole ? 0 : copies.size === 0 ? m2 : Math.min(m2, part?.usedM2 ?? 0);
  const wasteM2 = m2 - usedM2;
  const taken = takenBy({ parts: part ? [part] : [] }, pieces, 1, () => 0);
  // Older plates do not say whose their ink is: it is shared by area then.
  const shares = sharesOf(inkCounted(taken, run.result?.inkByDocket ?? {}, 1), sumOf(run.result?.inkMl));
  const inkMl = sumOf(print.inkMl);
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
      const own = copies.get(docket.id);
      if (!own) return [];
      const { area, ink } = shares.get(docket.id)!;
      return {
        id: docket.id,
        name: docket.name,
        customer: docket.customer,
        // A wall is printed as often as all of its panels are: some of them alone are no copy of it.
        copies: whole && !run.entries[i]?.pieces ? Math.min(...own.values()) : 0,
        m2: usedM2 * area,
        wasteM2: wasteM2 * area,
        inkMl: inkMl * ink,
        cost: (mediaCost + timeCost) * area + inkCost * ink
      };
    })
  };
}

const sumOf = (list: readonly number[] = []): number => list.reduce((sum, one) => sum + one, 0);
