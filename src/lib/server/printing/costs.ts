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

/** @throws Problem for a time that is not looked back on */
export function sinceWeeks(weeks: number, now = Date.now()): number {
  if (!Number.isInteger(weeks) || weeks < 1 || weeks > 520) throw new Problem(422, 'The time looked back on is 1 to 520 weeks.');
  return now - weeks * 7 * DAY_MS;
}

/** By day and media, oldest first. */
export function costsOf(db: Db, weeks: number, now = Date.now()): DayOfMedia[] {
  const rows = db
    .prepare<[number], { ended_at: number; usage: string }>(
      'SELECT ended_at, usage FROM print WHERE usage IS NOT NULL AND ended_at >= ? ORDER BY ended_at'
    )
    .all(sinceWeeks(weeks, now));
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
