/**
 * Whether a WebAssembly module broke: its memory cannot be trusted from then on. Running out of stack leaves it in the same
 * state as a trap. Whoever catches errors of such a module hands these on.
 */
export const isTrap = (error: unknown): boolean =>
  error instanceof WebAssembly.RuntimeError || (error instanceof RangeError && /call stack/i.test(error.message));

/** Hands on what must end the thread. Call first in every catch around the interpreter. */
export function throwTraps(error: unknown): void {
  if (isTrap(error)) throw error;
}
