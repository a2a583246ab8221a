<script lang="ts">
  import type { Wall } from '$core/panels/wall';
  import type { WidthLine } from '$lib/film-widths';
  import { areaOf, tape, widthOf } from '$lib/ui/common/shop-unit';

  /** The wall on every film that there is, held against each other: one click takes one. */
  let {
    lines,
    now,
    currency,
    ontake
  }: {
    lines: readonly WidthLine[];
    /** The film that it is on. */
    now: { conditionId: number | null; widthMm: number; film: Wall['film'] };
    currency: string;
    ontake: (line: WidthLine) => void;
  } = $props();

  const isNow = (line: WidthLine) =>
    line.conditionId === now.conditionId && Math.abs(line.widthMm - now.widthMm) < 1 && line.film === now.film;
  const cheapest = $derived(lines.find(({ cannot }) => cannot === '')?.cost);
</script>

<div class="overflow-x-auto">
  <table class="table-xs table" aria-label="Films compared">
    <thead
      ><tr
        ><th>Film</th><th class="text-right">Panels</th><th class="text-right">Length</th><th class="text-right">Waste</th><th
          class="text-right">Seams</th
        ><th class="text-right">Film costs</th><th></th></tr
      ></thead
    >
    <tbody>
      {#each lines as line (`${line.conditionId}/${line.widthMm}/${line.film}`)}
        <tr class={isNow(line) ? 'bg-base-200 font-semibold' : ''} aria-current={isNow(line) ? 'true' : undefined}>
          <td>
            {widthOf(line.widthMm)}, {line.film}
            <span class="text-base-content/70 block font-normal">{line.media}, {line.machine}</span>
          </td>
          {#if line.cannot}
            <td colspan="5" class="text-base-content/70 font-normal">{line.cannot}</td>
          {:else}
            <td class="text-right">{line.panels}</td>
            <td class="text-right whitespace-nowrap"
              >{tape(line.lengthMm)}{#if line.shortMm > 0}<span class="text-warning-content bg-warning ml-1 px-1"
                  >{tape(line.shortMm)} short</span
                >{/if}</td
            >
            <td class="text-right whitespace-nowrap">{areaOf(line.wasteM2, 1)}, {Math.round(line.wasteShare * 100)} %</td>
            <td class="text-right whitespace-nowrap">{tape(line.seamsMm)}</td>
            <td class="text-right whitespace-nowrap"
              >{currency}{line.cost.toFixed(2)}{#if line.cost === cheapest}<span class="block font-normal">the least</span
                >{/if}</td
            >
          {/if}
          <td class="text-right">
            {#if isNow(line)}<span class="font-normal">taken</span>{:else if !line.cannot}<button
                class="btn btn-xs"
                aria-label="Take {widthOf(line.widthMm)} {line.film} of {line.media} on {line.machine}"
                onclick={() => ontake(line)}>Take</button
              >{/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>
