import { Problem } from './problem';

/** What was done, or why it cannot be, as it is said to a person: threads hand over no errors of their own kind. */
export type Told<T> = { ok: true; made: T } | { ok: false; status: number; why: string };

/** Why something cannot be done, for another thread. @throws what is no Problem, which is a fault of the program */
export function refusal(error: unknown): Told<never> {
  if (!(error instanceof Problem)) throw error;
  return { ok: false, status: error.status, why: error.message };
}

/** @throws Problem for what cannot be done */
export function made<T>(said: Told<T>): T {
  if (said.ok) return said.made;
  throw new Problem(said.status, said.why);
}
