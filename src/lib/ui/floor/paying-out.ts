import { isJig } from '$core/layout/placement';
import { formatTape, longUnit, MM_PER, type ShopUnit } from '$core/units/length';
import type { FloorRun } from '$lib/server/app/floor';
import { sheetsInWords } from '$lib/sheets';

/** Between runs, and between the sheets of one, mm. */
const GAP_MM = 30;
const PART_GAP_MM = 20;
/** Free roll that is shown behind what waits, mm. */
const BEYOND_MM = 400;
/** A lane shows at least so much of its roll, mm. */
const LEAST_MM = 1500;
/** Pixels that a roll may take across: loaded ones are looked at more closely. */
const MOST_ACROSS_PX = 130;

const ORDER: Record<FloorRun['state'], number> = { printed: 0, printing: 1, ripped: 2, ripping: 3, 'laying out': 4 };

/** A run where it lies on the roll that is paid out, mm from its beginning. */
export interface Place {
  run: FloorRun;
  start: number;
  length: number;
  /** Where each part begins, from the run's own beginning. */
  parts: number[];
}

export const lengthOf = (run: FloorRun): number => run.lengthMm + PART_GAP_MM * Math.max(0, run.parts.length - 1);

/** The last two that are printed, then all that is under way or waits, in the order in which they print. */
export function payOut(runs: readonly FloorRun[]): Place[] {
  const printed = runs
    .filter((run) => run.state === 'printed')
    .sort((p, q) => q.id - p.id)
    .slice(0, 2);
  const shown = [...printed, ...runs.filter((run) => run.state !== 'printed')];
  let at = 60;
  return shown
    .sort((p, q) => ORDER[p.state] - ORDER[q.state] || p.id - q.id)
    .map((run) => {
      const start = at;
      let part = 0;
      const parts = run.parts.map(({ length }) => {
        const begins = part;
        part += length + PART_GAP_MM;
        return begins;
      });
      at += lengthOf(run) + GAP_MM;
      return { run, start, length: lengthOf(run), parts };
    });
}

export const endOf = (places: readonly Place[]): number => {
  const last = places.at(-1);
  return last ? last.start + last.length : 60;
};

/** What runs still take of the roll that they lie on, mm. @param printedOf how much of one has come out */
export const toCome = (runs: readonly FloorRun[], printedOf: (run: FloorRun) => number): number =>
  runs.reduce((sum, run) => sum + (run.state === 'printed' ? 0 : Math.max(0, run.lengthMm - printedOf(run))), 0);

/** How often a run on sheets is still printed, or was: equal sheets are one run. */
const timesOf = ({ state, times, came }: FloorRun): number => (state === 'printed' ? times : Math.max(1, times - came));

/** How much a run is, in words: of sheets that came out in part how many are left. */
export function sizeInWords(run: FloorRun, unit: ShopUnit): string {
  if (run.stock.kind !== 'sheet') return formatTape(run.lengthMm, unit);
  const inJig = isJig(run.stock);
  const [all, left] = [run.times, timesOf(run)].map((times) => run.parts.length * times) as [number, number];
  return left === all ? sheetsInWords(all, inJig) : `${left} of ${sheetsInWords(all, inJig)} left`;
}

/** How much runs are together: lengths of rolls, sheets, and loads of jigs. */
export function allInWords(runs: readonly FloorRun[], unit: ShopUnit): string {
  const onRolls = runs.filter(({ stock }) => stock.kind === 'roll');
  const lengths =
    onRolls.length > 0
      ? [
          formatTape(
            toCome(onRolls, () => 0),
            unit
          )
        ]
      : [];
  const sheets = [false, true].flatMap((inJig) => {
    const these = runs.filter(({ stock }) => stock.kind === 'sheet' && isJig(stock) === inJig);
    const count = these.reduce((sum, run) => sum + run.parts.length * timesOf(run), 0);
    return count === 0 ? [] : [sheetsInWords(count, inJig)];
  });
  return new Intl.ListFormat('en-GB').format([...lengths, ...sheets]);
}

/** One scale for all rolls, so that lengths and widths can be compared. @returns pixels a mm */
export function commonScale(lanes: readonly { acrossMm: number; places: readonly Place[] }[], widthPx: number): number {
  const longest = Math.max(LEAST_MM, ...lanes.map(({ places }) => endOf(places) + BEYOND_MM));
  const widest = Math.max(1, ...lanes.map(({ acrossMm }) => acrossMm));
  return Math.min(widthPx / longest, MOST_ACROSS_PX / widest);
}

/** Where a roll's ruler has marks, far enough apart to be read, and what stands at them. */
export function tapeMarks(lengthMm: number, pxPerMm: number, unit: ShopUnit): { mm: number; words: string }[] {
  const long = longUnit(unit);
  const whole = MM_PER[long];
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200].find((figure) => figure * whole * pxPerMm >= 48) ?? 500;
  return Array.from({ length: Math.floor(lengthMm / (step * whole)) + 1 }, (_, i) => ({
    mm: i * step * whole,
    words: `${Math.round(i * step * 10) / 10} ${long}`
  }));
}
