<script lang="ts">
  import { untrack } from 'svelte';
  import type { NamedColour } from '$core/colour/named-colour';
  import type { ColourLine } from '$lib/server/conditions/colour-list';
  import { KeptEdits } from '$lib/ui/common/kept-edits.svelte';
  import { follow } from '$lib/ui/common/follow.svelte';
  import SavesItself from '$lib/ui/common/SavesItself.svelte';
  import ColourForm from './ColourForm.svelte';

  /** A named colour that saves itself. */
  let { colour, collections }: { colour: ColourLine; collections: readonly string[] } = $props();

  const fieldsOf = ({ name, lab, others, collection, from, note }: NamedColour): NamedColour => ({ name, lab, others, collection, from, note }); // prettier-ignore
  const keptEdits = untrack(
    () =>
      new KeptEdits<ColourLine, NamedColour>(colour, {
        path: `/api/colours/${colour.id}`,
        valueOf: fieldsOf,
        bodyOf: (next) => ({ colour: next })
      })
  );
  const { edits } = keptEdits;
  follow(
    () => colour,
    edits,
    (newest) => keptEdits.adopt(newest)
  );
  function save(changed: NamedColour): boolean {
    edits.change(changed);
    return true;
  }
</script>

<ColourForm colour={edits.current} {collections} onsave={save} />
<p class="flex items-center gap-3"><SavesItself {edits} /></p>
