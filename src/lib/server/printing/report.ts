import { stringify } from 'csv-stringify/sync';
import type { Db } from '../platform/db/open';
import type { PrintRow } from './print';
import type { Usage } from './usage';

/** A docket's part of a print that has ended; of a chart, a line without a docket. */
export interface ReportLine {
  print: number;
  run: number;
  machine: string;
  media: string;
  /** `done`, `cancelled` or `failed`, with why. */
  state: string;
  reason: string;
  /** ISO 8601. */
  started: string;
  ended: string;
  /** How long the machine printed, of the whole print. */
  seconds: number;
  docket: number | null;
  name: string;
  customer: string;
  /** Whole ones that came out. */
  copies: number;
  m2: number;
  wasteM2: number;
  inkMl: number;
  cost: number;
}

/** Docket by docket what was printed, the oldest first. @param from, to milliseconds: it ended then or between */
export function reportOf(db: Db, from: number, to: number): ReportLine[] {
  const rows = db
    .prepare<
      [number, number],
      Pick<PrintRow, 'id' | 'run_id' | 'state' | 'reason' | 'started_at'> & { ended_at: number; usage: string }
    >(
      `SELECT id, run_id, state, reason, started_at, ended_at, usage FROM print
       WHERE usage IS NOT NULL AND ended_at BETWEEN ? AND ? ORDER BY ended_at, id`
    )
    .all(from, to);
  return rows.flatMap(({ id, run_id: run, state, reason, started_at: started, ended_at: ended, usage: text }): ReportLine[] => {
    const usage = JSON.parse(text) as Usage;
    const whole = {
      ...{ print: id, run, machine: usage.machine, media: usage.media, state, reason: reason ?? '' },
      started: new Date(started).toISOString(),
      ended: new Date(ended).toISOString(),
      seconds: Math.round(usage.hours * 36_000) / 10
    };
    if (usage.dockets.length === 0) {
      const { m2, wasteM2, inkMl, mediaCost, inkCost, timeCost } = usage;
      return [
        { ...whole, docket: null, name: '', customer: '', copies: 0, m2, wasteM2, inkMl, cost: mediaCost + inkCost + timeCost }
      ];
    }
    return usage.dockets.map(({ id: docket, ...part }) => ({ ...whole, docket, ...part }));
  });
}

/** The same for a table program. */
export function reportCsv(lines: readonly ReportLine[]): string {
  const figure = (value: number) => value.toFixed(4);
  const rows = lines.map((line) => [
    ...[line.ended, line.started, line.seconds, line.print, line.run, line.state, line.reason, line.machine, line.media],
    ...[line.docket ?? '', line.name, line.customer, line.copies],
    ...[line.m2, line.wasteM2, line.inkMl, line.cost].map(figure)
  ]);
  const head =
    'ended started seconds print run state reason machine media docket name customer copies m2 waste_m2 ink_ml cost'.split(' ');
  // A cell that begins like a formula would be one in a table program.
  return stringify([head, ...rows], { escape_formulas: true });
}
