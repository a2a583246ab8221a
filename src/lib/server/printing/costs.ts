import { stringify } from 'csv-stringify/sync';
import { dayOf } from '../platform/days';
import { Problem } from '../platform/problem';
import type { Usage } from './usage';
import type { Db } from '../platform/db/open';

/** What was printed on one media on one day. */
export interface DayOfMedia {
  /** YYYY-MM-DD, local. */
  day: string;
  media: string;
  prints: number;
  metres: number;
  m2: number;
  wasteM2: number;
  inkMl: number;
  hours: number;
  mediaCost: number;
  inkCost: number;
  timeCost: number;
}

const DAY_MS = 86_400_000;

/** By day and media, oldest first. */
export function costsOf(db: Db, weeks: number, now = Date.now()): DayOfMedia[] {
  if (!Number.isInteger(weeks) || weeks < 1 || weeks > 520) throw new Problem(422, 'The time looked back on is 1 to 520 weeks.');
  const rows = db
    .prepare<[number], { ended_at: number; usage: string }>(
      'SELECT ended_at, usage FROM print WHERE usage IS NOT NULL AND ended_at >= ? ORDER BY ended_at'
    )
    .all(now - weeks * 7 * DAY_MS);
  const days = new Map<string, DayOfMedia>();
  for (const row of rows) {
    const usage = JSON.parse(row.usage) as Usage;
    const day = dayOf(new Date(row.ended_at));
    const key = `${day}/${usage.media}`;
    const sum = days.get(key) ?? {
      day,
      media: usage.media,
      prints: 0,
      metres: 0,
      m2: 0,
      wasteM2: 0,
      inkMl: 0,
      hours: 0,
      mediaCost: 0,
      inkCost: 0,
      timeCost: 0
    };
    sum.prints++;
    for (const figure of ['metres', 'm2', 'wasteM2', 'inkMl', 'hours', 'mediaCost', 'inkCost', 'timeCost'] as const)
      sum[figure] += usage[figure];
    days.set(key, sum);
  }
  return [...days.values()];
}

/** Docket by docket what prints took, for a table program. */
export function costsCsv(db: Db, weeks: number): string {
  costsOf(db, weeks);
  const rows = db
    .prepare<[number], { id: number; run_id: number; ended_at: number; usage: string }>(
      'SELECT id, run_id, ended_at, usage FROM print WHERE usage IS NOT NULL AND ended_at >= ? ORDER BY ended_at'
    )
    .all(Date.now() - weeks * 7 * DAY_MS);
  const records = rows.flatMap((row) => {
    const usage = JSON.parse(row.usage) as Usage;
    const ended = new Date(row.ended_at).toISOString();
    const shared = [ended, row.id, row.run_id, usage.machine, usage.media];
    const figure = (v: number) => v.toFixed(4);
    if (usage.dockets.length === 0)
      return [
        [
          ...shared,
          '',
          '',
          '',
          0,
          figure(usage.m2),
          figure(usage.wasteM2),
          figure(usage.inkMl),
          figure(usage.mediaCost + usage.inkCost + usage.timeCost)
        ]
      ];
    return usage.dockets.map((docket) => [
      ...shared,
      docket.id,
      docket.name,
      docket.customer,
      docket.copies,
      figure(docket.m2),
      figure(docket.wasteM2),
      figure(docket.inkMl),
      figure(docket.cost)
    ]);
  });
  const header = [
    'ended',
    'print',
    'run',
    'machine',
    'media',
    'docket',
    'name',
    'customer',
    'copies',
    'm2',
    'waste_m2',
    'ink_ml',
    'cost'
  ];
  // A cell that begins like a formula would be one in a table program.
  return stringify([header, ...records], { escape_formulas: true });
}
