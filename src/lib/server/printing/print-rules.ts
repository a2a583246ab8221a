import { isJig } from '$core/layout/placement';
import { printedSize } from '$core/rip/plan';
import { counted } from '$core/units/counted';
import { formatLength, formatTape, formatWidth, type ShopUnit } from '$core/units/length';
import { JOB_STATE } from '$protocol/ipp';
import type { JobStatus } from '../machines/printer-client';
import type { Machine } from '../machines/machines';
import type { FrozenRun } from '../production/frozen-run';
import type { Run, RunSize } from '../production/run';
import type { Print, PrintEnd, PrintRow } from './print';

/** What may be printed where, and what became of it, from what is given alone. */

/** What IPP calls the reasons that stop a machine, for people. */
const REASONS: Record<string, string> = {
  'media-empty-error': 'The media is out. Load a roll; the print goes on by itself.',
  'marker-supply-empty-error': 'An ink is out. Change the cartridge; the print goes on by itself.',
  'zing-thing-too-high-error':
    'A thing on the bed stands higher than the head. Take it off and the print goes on by itself; or cancel it, and say under Shop, Jigs, how high things stand.',
  'cover-open': 'The cover is open. Close it; the print goes on by itself.'
};

export const reasonText = (reason: string): string => REASONS[reason] ?? `The machine says: ${reason}.`;

/** Why a machine cannot print a run now; nothing when it can. */
export function hindrance(
  run: Run,
  size: RunSize | undefined,
  machine: Machine,
  times: number,
  unit: ShopUnit
): string | undefined {
  const { printer } = machine;
  if (run.condition.away === 'machine')
    return `${machine.name} was put away. Bring it back under Shop, or lay the dockets out for another machine.`;
  if ((run.state !== 'ripped' && run.state !== 'printed') || !size)
    return run.state === 'printing' ? 'The run is being printed.' : 'RIP the run first.';
  if (!run.hasPlates)
    return 'It has no plates: they were deleted after it was printed or kept in part, or it was cut without printing. Print its copies again, in a run of their own.';
  if (!machine.online || !printer) return `${machine.name} does not answer. Switch it on.`;
  if (machine.id !== run.condition.machineId) return `The run is for ${run.condition.machine}.`;
  if (printer.media.name !== run.condition.media)
    return `${machine.name} has ${printer.media.name} loaded; the run is for ${run.condition.media}.`;
  const { sheetMm } = printer.media;
  if (printer.media.widthMm < size.widthMm - 0.5)
    return `The ${sheetMm === null ? 'roll is' : 'sheets are'} ${formatWidth(printer.media.widthMm, unit)} wide; the run needs ${formatWidth(size.widthMm, unit)}.`;
  if (sheetMm !== null && sheetMm < size.lengthMm - 0.5)
    return `The sheets are ${formatWidth(sheetMm, unit)} long; the run needs ${formatWidth(size.lengthMm, unit)}.`;
  const high = isJig(run.stock) ? (run.stock.jig.thicknessMm ?? 0) : 0;
  if (printer.mostThingMm > 0 && high > printer.mostThingMm)
    return `These things stand ${formatLength(high, unit)} high; ${machine.name} takes ${formatLength(printer.mostThingMm, unit)}.`;
  if (run.hindrance) return run.hindrance;
  if (run.stale) return 'The layout has changed since the RIP. RIP it again.';
  const inJig = isJig(run.stock);
  if (inJig && times > 1) return 'One load at a time: its things are taken off, and the next laid in, before that prints.';
  if (sheetMm !== null && !inJig && printer.media.sheets < times)
    return `${counted(printer.media.sheets, 'sheet is', 'sheets are')} left; ${counted(times, 'is', 'are')} needed.`;
  const needed = size.lengthMm * times;
  if (sheetMm === null && printer.media.lengthMm < needed)
    return `${formatTape(printer.media.lengthMm, unit)} are left on the roll; ${formatTape(needed, unit)} are needed.`;
  // What lies in a jig is no sheet that the machine takes.
  const stop = printer.reasons.find((reason) => !(inJig && reason.startsWith('media-empty')));
  if (stop) return reasonText(stop);
  return undefined;
}

/**
 * Where a print that broke off can go on: the start of the first row of copies that is not whole. Nothing where the
 * cutter needs marks around all copies, where all or none is printed, or where it has gone on already.
 *
 * @param rests prints that went on with it
 */
export function restFrom(
  { plan, cuts }: Pick<FrozenRun, 'plan' | 'cuts'>,
  print: Print,
  rests: readonly Pick<Print, 'endedAt' | 'state' | 'printedMm' | 'givenUp'>[]
): number | undefined {
  if (rests.some(({ endedAt, state, printedMm, givenUp }) => endedAt === null || state === 'done' || printedMm > 0 || givenUp))
    return undefined;
  if (cuts.length > 0 || print.endedAt === null || print.state === 'done' || print.printedMm <= 0 || print.keptMm !== null)
    return undefined;
  // What it printed is not known yet.
  if (print.givenUp) return undefined;
  const open = plan.pieces
    .map((piece) => ({ top: piece.y, bottom: piece.y + printedSize(plan.sources[piece.source]!, piece.turn).height }))
    .filter(({ bottom }) => bottom > print.fromMm + print.printedMm);
  if (open.length === 0) return undefined;
  const from = Math.max(0, Math.min(...open.map(({ top }) => top)) - 5);
  return from > print.fromMm ? from : undefined;
}

/** What has ended at the machine; nothing while it goes on. @param why the plates did not get there, where they did not */
export function endOf(
  job: JobStatus,
  row: Pick<PrintRow, 'length_mm' | 'cancelled_at'>,
  machine: string,
  unit: ShopUnit,
  why?: string
): PrintEnd | undefined {
  const { printedMm, inkMl, seconds } = job;
  const far = `${formatTape(printedMm, unit)} of ${formatTape(row.length_mm, unit)} were printed`;
  const nothing = printedMm === 0;
  switch (job.state) {
    case JOB_STATE.completed:
      return { state: 'done', reason: null, printedMm, inkMl, seconds };
    case JOB_STATE.cancelled:
    case JOB_STATE.aborted: {
      // A job that waits in vain for its plates is let go of by us: a person cancelled nothing.
      const byHand = row.cancelled_at !== null || (job.state === JOB_STATE.cancelled && !(nothing && why !== undefined));
      if (byHand) {
        const reason = nothing ? 'It was cancelled before anything was printed.' : `It was cancelled when ${far}.`;
        return { state: 'cancelled', reason, printedMm, inkMl, seconds };
      }
      const said = /^resources-are-not-ready: (.*)$/.exec(job.reason)?.[1];
      const reason =
        nothing && said !== undefined
          ? `${machine} did not begin: ${said} Nothing was printed.`
          : nothing && why !== undefined
            ? unsent(why)
            : `${machine} gave the job up when ${far}. Look at the machine first.`;
      return { state: 'failed', reason, printedMm, inkMl, seconds };
    }
    default:
      return undefined;
  }
}

/** @param why a sentence, or nothing where the server itself broke off */
export const unsent = (why: string): string =>
  `The plates could not be sent${why ? `: ${why}` : '.'} Nothing was printed; print again.`;
