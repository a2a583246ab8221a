import { createHash } from 'node:crypto';

/** Tells plain data from other: SHA-256 of it as JSON, hexadecimal. */
export const digest = (what: unknown): string => createHash('sha256').update(JSON.stringify(what)).digest('hex');

const known = new WeakMap<object, string>();

/** The same of what is asked for again and again. What is frozen stays as it is, and is gone through once. */
export function digestOnce(what: object): string {
  const kept = known.get(what);
  if (kept !== undefined) return kept;
  const made = digest(what);
  if (Object.isFrozen(what)) known.set(what, made);
  return made;
}
