import type { Jig } from '$core/layout/jig';
import type { KeptJig } from '$lib/server/machines/jigs';
import { Edits } from '../common/history.svelte';
import { putEdit } from '../common/put-edit';
import { listTogether, together } from '../common/together';

/** A jig that saves itself. What another window makes of it comes under what is edited here. */
export class JigEdits {
  readonly jig: Edits<Jig>;
  #version: number;

  constructor({ id, jig, version }: KeptJig) {
    this.#version = version;
    this.jig = new Edits(jig, {
      save: async (next, before) => {
        const { kind, now } = await putEdit<KeptJig>(`/api/jigs/${id}`, this.#version, { jig: next });
        if (now) this.#version = now.version;
        return { kind, now: now?.jig ?? before };
      },
      together: (base, mine, theirs) => ({
        ...together(base, mine, theirs),
        off: listTogether(base.off, mine.off, theirs.off)
      })
    });
  }

  /** Takes it as the page has it loaded, unless that is older than what is known, or something is being saved. */
  adopt({ jig, version }: KeptJig): void {
    if (this.jig.saving || version <= this.#version) return;
    this.#version = version;
    this.jig.adopt(jig);
  }
}
