/** Local time's day, as YYYY-MM-DD. */
export const dayOf = (now: Date): string =>
  `${now.getFullYear()}-${String(now.getMonth() + 1).padStart(2, '0')}-${String(now.getDate()).padStart(2, '0')}`;

/** @param time HH:MM of the local day */
export function isPast(time: string, now: Date): boolean {
  const [hours = 0, minutes = 0] = time.split(':').map(Number);
  return now.getHours() * 60 + now.getMinutes() >= hours * 60 + minutes;
}
