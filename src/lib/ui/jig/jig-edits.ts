import type { Jig } from '$core/layout/jig';
import type { KeptJig } from '$lib/server/machines/jigs';
import { KeptEdits } from '../common/kept-edits.svelte';
import { listTogether, together } from '../common/together';

/** A jig that saves itself. */
export const jigEdits = (kept: KeptJig) =>
  new KeptEdits<KeptJig, Jig>(kept, {
    path: `/api/jigs/${kept.id}`,
    valueOf: ({ jig }) => jig,
    bodyOf: (jig) => ({ jig }),
    together: (base, mine, theirs) => ({
      ...together(base, mine, theirs),
      off: listTogether(base.off, mine.off, theirs.off)
    })
  });
