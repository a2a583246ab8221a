import { SvelteMap } from 'svelte/reactivity';
import type { Docket } from '$lib/server/dockets/dockets';
import type { Run } from '$lib/server/production/run';
import { isAway, Refusal, send } from '$lib/ui/common/client';
import { Edits, type Answer } from '../common/history.svelte';
import { getKept, putEdit, sayRefused } from '../common/kept-edits.svelte';
import { isAlike } from '../common/together';
import { layingOf, layingTogether, type Laying } from './laying';

/** How a run is laid out, saving itself. What comes into it meanwhile, or is changed in another window, comes under what is edited here. */
export class RunEdits {
  readonly laying: Edits<Laying>;
  /** In their order, with the copies that are edited here. */
  readonly dockets = $derived.by(() => {
    const { order, copies } = this.laying.current;
    return order.flatMap((id): Docket[] => {
      const docket = this.#known.get(id);
      return docket ? [{ ...docket, choices: { ...docket.choices, copies: copies[id] ?? docket.choices.copies } }] : [];
    });
  });
  readonly #id: number;
  /** Of the newest answer that is known. */
  #version: number;
  /** All that were seen in it: what is taken out may come back. */
  readonly #known = new SvelteMap<number, Docket>();

  constructor(run: Run) {
    this.#id = run.id;
    this.#version = run.version;
    this.#meet(run.dockets);
    this.laying = new Edits(layingOf(run), { save: (next, before) => this.#save(next, before), together: layingTogether });
  }

  /** Takes a run as the page has it loaded, unless that is older than what is known, or something is being saved. */
  adopt(run: Run): void {
    const isOld = (docket: Docket) => docket.version < (this.#known.get(docket.id)?.version ?? 0);
    if (run.id !== this.#id || this.laying.saving || run.version < this.#version || run.dockets.some(isOld)) return;
    this.laying.adopt(this.#met(run));
  }

  #meet(dockets: readonly Docket[]): void {
    for (const docket of dockets) this.#known.set(docket.id, docket);
  }

  #met(run: Run): Laying {
    this.#version = run.version;
    this.#meet(run.dockets);
    return layingOf(run);
  }

  async #save(next: Laying, before: Laying): Promise<Answer<Laying>> {
    const areCopiesTaken = await this.#saveCopies(next, before);
    const path = `/api/runs/${this.#id}`;
    const areCopiesAll = isAlike({ ...next, copies: {} }, { ...before, copies: {} });
    if (areCopiesAll && areCopiesTaken) return { kind: 'saved', now: next };
    const { rule, order: docketIds, held, pins } = next;
    const { kind, now } = areCopiesAll
      ? { kind: 'refused' as const, now: await getKept<Run>(path) }
      : await putEdit<Run>(path, this.#version, { rule, docketIds, held, pins });
    return { kind: kind === 'saved' && !areCopiesTaken ? 'refused' : kind, now: now ? this.#met(now) : before };
  }

  /** Copies are the dockets' own. @returns whether all were taken */
  async #saveCopies(next: Laying, before: Laying): Promise<boolean> {
    let areTaken = true;
    for (const id of next.order) {
      const copies = next.copies[id];
      if (copies === undefined || copies === before.copies[id]) continue;
      try {
        this.#meet([await putCopies(id, copies)]);
      } catch (error) {
        sayRefused(error);
        if (isAway(error)) throw error;
        areTaken = false;
      }
    }
    return areTaken;
  }
}

async function putCopies(id: number, copies: number): Promise<Docket> {
  let [refused, of]: [unknown, number | undefined] = [undefined, undefined];
  for (;;) {
    const { version, choices } = await send<Docket>('GET', `/api/dockets/${id}`);
    if (version === of) throw refused;
    try {
      return await send<Docket>('PUT', `/api/dockets/${id}`, { version, choices: { ...choices, copies } });
    } catch (error) {
      // Another window may have been between the two.
      if (!(error instanceof Refusal) || error.status !== 409) throw error;
      [refused, of] = [error, version];
    }
  }
}
