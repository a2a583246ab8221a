import { inkUse, NO_INK, pricesOf, timesInk } from '$core/inks/ink-prices';
import { pieceOf } from '$core/layout/pieces';
import { isJig, type PlacedCopy } from '$core/layout/placement';
import { countedInk, inkCounted, sharesOf, takenBy, type CountedInk, type Shares } from '$core/layout/run-costs';
import type { RipPlan } from '$core/rip/plan';
import { isWholeBy, type CameInPart } from './came-in-part';
import type { Print, PrintEnd } from './print';
import type { Machines } from '../machines/machines';
import type { Run } from '../production/run';
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

/** What a print took. One that broke off is waste altogether, as long as nothing goes on with it. */
export function usageOf(needs: Needs, print: Print, end: PrintEnd): Usage {
  const { runs, settings, machines } = needs;
  const run = runs.get(print.runId);
  const { plan } = runs.frozen(print.runId);
  const prices = pricesOf(plan.inks, machines.inkPrices(print.machineId));
  const usual = settings.current.inkCostPerMl;
  const of = lying(run);
  const whole = end.state === 'done';
  const reached = of.between(print.fromMm, whole ? Infinity : print.fromMm + print.printedMm);
  // What broke off before its first copy was still for all of them.
  const shares = of.sharesOf(reached.length > 0 ? reached : of.copies, run.result && countedInk(run.result, prices, usual));
  const m2 = mediaOf(run, plan, print.printedMm, of.usedM2(of.copies));
  const ink = inkUse(print.inkMl, prices, usual);
  const hours = end.seconds / 3600;
  const mediaCost = m2 * run.condition.costPerM2;
  const timeCost = hours * machines.get(print.machineId).costPerHour;
  const dockets = run.dockets.flatMap(({ id, name, customer }) => {
    const share = shares.get(id);
    if (!share) return [];
    const cost = (mediaCost + timeCost) * share.area + ink.cost * share.ink.cost;
    return [{ id, name, customer, copies: 0, m2: 0, wasteM2: m2 * share.area, inkMl: ink.ml * share.ink.ml, cost }];
  });
  const { media } = run.condition;
  const usage = { media, machine: print.machine, metres: print.printedMm / 1000, m2, wasteM2: m2 };
  const all = { ...usage, inkMl: ink.ml, hours, mediaCost, inkCost: ink.cost, timeCost, dockets };
  return whole ? withGood(of, all, between(print.fromMm, Infinity)) : all;
}

/** m²: a sheet is spent once it is begun, a load takes the things that lie in its jig, and as much of them as was printed. */
function mediaOf(
  { stock }: Run,
  { widthMm, lengthMm }: Pick<RipPlan, 'widthMm' | 'lengthMm'>,
  printedMm: number,
  thingsM2: number
) {
  if (isJig(stock)) return thingsM2 * Math.min(1, printedMm / lengthMm);
  const takenMm = stock.kind === 'roll' ? printedMm : printedMm > 0 ? lengthMm : 0;
  return (widthMm * takenMm) / 1e6;
}

/**
 * What a print that broke off took, once another came to the run's end from where it went on: what lies before that is waste
 * no more, while the figures in money and ink stay.
 *
 * @param toMm where the other began
 */
export const madeGood = ({ runs }: Pick<Needs, 'runs'>, usage: Usage, { runId, fromMm }: Print, toMm: number): Usage =>
  withGood(lying(runs.get(runId)), usage, between(fromMm, toMm));

/** The same of one that broke off and is kept as far as its copies are whole; said before its run is only of these. */
export const keptOf = ({ runs }: Pick<Needs, 'runs'>, usage: Usage, { runId }: Print, { toMm }: CameInPart): Usage =>
  withGood(lying(runs.get(runId)), usage, (of) => {
    const good = of.copies.filter((copy) => isWholeBy(copy, toMm));
    return { good, sets: (docket) => of.setsOf(docket, good) };
  });

/** What is of use of a print, and how many whole ones of each docket that is. */
type Good = (of: Lying) => { good: readonly PlacedCopy[]; sets: (docket: number) => number };

/** All that begins between two places along the run. */
const between =
  (fromMm: number, toMm: number): Good =>
  (of) => {
    const before = (mm: number) => of.copies.filter(({ y }) => y < mm);
    return {
      good: of.between(fromMm, toMm),
      sets: (docket) => of.setsOf(docket, before(toMm)) - of.setsOf(docket, before(fromMm))
    };
  };

/** The same with what of it is of use. */
function withGood(of: Lying, usage: Usage, whatIsGood: Good): Usage {
  const { good, sets } = whatIsGood(of);
  // As the run says it: a chart has no dockets and no waste, all of it is of use.
  const usedM2 = of.copies.length === 0 ? usage.m2 : Math.min(usage.m2, of.usedM2(good));
  const wasteM2 = usage.m2 - usedM2;
  const shares = of.sharesOf(good, null);
  const lost = usage.dockets.reduce((sum, { wasteM2, m2 }) => sum + wasteM2 + m2, 0);
  return {
    ...usage,
    wasteM2,
    dockets: usage.dockets.map((docket) => ({
      ...docket,
      copies: sets(docket.id),
      m2: usedM2 * (shares.get(docket.id)?.area ?? 0),
      wasteM2: lost === 0 ? 0 : (wasteM2 * (docket.wasteM2 + docket.m2)) / lost
    }))
  };
}

/** How a run's copies lie along it, and what they take. */
interface Lying {
  copies: readonly PlacedCopy[];
  /** Those that begin there. */
  between(fromMm: number, toMm: number): PlacedCopy[];
  usedM2(copies: readonly PlacedCopy[]): number;
  /** Shares of dockets in what is printed with some copies. @param ink of one print: it is shared by area where it is not known */
  sharesOf(copies: readonly PlacedCopy[], ink: CountedInk | null): Map<number, Shares>;
  /** How many whole ones of a docket some copies are: all of its pieces. */
  setsOf(docket: number, some: readonly PlacedCopy[]): number;
}

function lying({ layout, laid, dockets, entries }: Run): Lying {
  const pieces = new Map(laid.map((piece) => [piece.id, piece]));
  const [part] = layout.parts;
  const copies = (part?.copies ?? []).filter(({ id }) => pieces.has(id));
  const takenOf = (some: readonly PlacedCopy[]) => takenBy({ parts: [{ copies: [...some] }] }, pieces, 1, () => NO_INK);
  const m2Of = (some: readonly PlacedCopy[]) => sumOf([...takenOf(some).values()].map(({ areaM2 }) => areaM2));
  const all = takenOf(copies);
  const between = (fromMm: number, toMm: number) => copies.filter(({ y }) => y >= fromMm && y < toMm);
  return {
    copies,
    between,
    usedM2: (some) => (copies.length === 0 ? 0 : ((part?.usedM2 ?? 0) * m2Of(some)) / m2Of(copies)),
    sharesOf(some, ink) {
      const taken = takenOf(some);
      // Of a docket's ink as much as of its area.
      const partOf = (docket: number) => taken.get(docket)!.areaM2 / all.get(docket)!.areaM2;
      const inks = new Map(
        [...(ink?.byDocket ?? [])].map(([id, use]) => [id, taken.has(id) ? timesInk(use, partOf(id)) : NO_INK])
      );
      return sharesOf(
        inkCounted(taken, inks, 1),
        timesInk(ink?.all ?? NO_INK, some.length === copies.length ? 1 : m2Of(some) / m2Of(copies))
      );
    },
    setsOf(docket, some) {
      // A wall is printed as often as all of its panels are: some of them alone are no copy of it.
      if (entries[dockets.findIndex(({ id }) => id === docket)]?.pieces) return 0;
      const counts = new Map<string, number>();
      const isIn = new Set(some);
      for (const copy of copies)
        if (pieceOf(copy.id).docket === String(docket)) counts.set(copy.id, (counts.get(copy.id) ?? 0) + Number(isIn.has(copy)));
      return counts.size === 0 ? 0 : Math.min(...counts.values());
    }
  };
}

const sumOf = (list: readonly number[]): number => list.reduce((sum, one) => sum + one, 0);
