<script lang="ts">
  import { pageBleed } from '$core/artwork/choices';
  import { formatLength } from '$core/units/length';
  import type { DocketChoices } from '$lib/docket-choices';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import type { TicketView } from './ticket';

  let { view }: { view: TicketView } = $props();

  const { choices } = $derived(view);
  const { unit } = $derived(view.settings);
  const has = $derived(pageBleed(view.preparation, view.docket.artwork.facts, choices.widthMm));
</script>

<section aria-label="Bleed">
  <h2 class="panel-title leading-4">Bleed</h2>
  <p>
    {#if choices.wall}<a class="link" href="/dockets/{view.docket.id}/wall">The wall’s bleed</a>,
    {:else}<LengthBox
        sentence
        label="Bleed"
        {unit}
        value={choices.bleedMm}
        max={200}
        onchange={(bleedMm) => view.change({ bleedMm })}
      />
      {unit}{/if}
    <select
      class="in-sentence"
      aria-label="Bleed from"
      value={choices.bleedFrom}
      onchange={(event) => view.change({ bleedFrom: event.currentTarget.value as DocketChoices['bleedFrom'] })}
    >
      <option value="page">of what the page has</option>
      <option value="mirror">made by mirroring the edge</option>
      <option value="stretch">made by stretching the edge colour</option>
      <option value="colour">in a flat colour</option>
    </select>{#if choices.bleedFrom === 'colour'}
      <input
        type="color"
        class="ml-1 h-6 w-8 align-middle"
        aria-label="Colour of the bleed"
        value={choices.bleedColour}
        onchange={(event) => view.change({ bleedColour: event.currentTarget.value })}
      />{/if}.
    <span class="text-base-content/70">The page has {has > 0.005 ? formatLength(has, unit) : 'none'} around this part.</span>
  </p>
</section>
