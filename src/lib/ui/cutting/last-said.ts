import type { Machine } from '$lib/server/machines/machines';

/** What each cutter said last: of one that does not answer for a moment, what is looked at stays. */
export class LastSaid {
  readonly #said = new Map<number, Machine['cutter']>();

  /** @returns a machine as it is, or as it was when it answered last */
  of(machine: Machine): Machine {
    if (!machine.online) return { ...machine, cutter: this.#said.get(machine.id) ?? null };
    this.#said.set(machine.id, machine.cutter);
    return machine;
  }
}
