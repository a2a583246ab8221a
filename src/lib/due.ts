const DAY_MS = 86_400_000;

/** Days from one date to another, both as 2026-11-26. @returns nothing where either is no date */
export function daysBetween(from: string, to: string): number | undefined {
  const [p, q] = [Date.parse(`${from}T00:00:00Z`), Date.parse(`${to}T00:00:00Z`)];
  return Number.isNaN(p) || Number.isNaN(q) ? undefined : Math.round((q - p) / DAY_MS);
}

/** A due date as what is left of the time, in words. @param today of the shop's own clock */
export function dueInWords(dueOn: string, today: string): string {
  const days = daysBetween(today, dueOn);
  if (days === undefined) return '';
  if (days === 0) return 'today';
  if (days === 1) return 'tomorrow';
  if (days === -1) return '1 day late';
  return days > 0 ? `in ${days} days` : `${-days} days late`;
}
