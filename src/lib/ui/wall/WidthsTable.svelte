<script lang="ts">
  import { formatLength, formatMetres, type LengthUnit } from '$core/units/length';
  import type { Wall } from '$core/panels/wall';
  import type { WidthLine } from '$lib/film-widths';

  /** The wall on every film that there is, held against each other: one click takes one. */
  let {
    lines,
    now,
    unit,
    currency,
    ontake
  }: {
    lines: readonly WidthLine[];
    /** The film that it is on. */
    now: { conditionId: number | null; widthMm: number; film: Wall['film'] };
    unit: LengthUnit;
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
            {formatLength(line.widthMm, unit)}, {line.film}
            <span class="text-base-content/70 block font-normal">{line.media}, {line.machine}</span>
          </td>
          {#if line.cannot}
            <td colspan="5" class="text-base-content/70 font-normal">{line.cannot}</td>
          {:else}
            <td class="text-right">{line.panels}</td>
            <td class="text-right whitespace-nowrap"
              >{formatMetres(line.lengthMm)}{#if line.short}<span class="text-warning-content bg-warning ml-1 px-1"
                  >{line.short}</span
                >{/if}</td
            >
            <td class="text-right whitespace-nowrap">{line.wasteM2.toFixed(1)} m², {Math.round(line.wasteShare * 100)} %</td>
            <td class="text-right whitespace-nowrap">{formatMetres(line.seamsMm)}</td>
            <td class="text-right whitespace-nowrap"
              >{currency}{line.cost.toFixed(2)}{#if line.cost === cheapest}<span class="block font-normal">the least</span
                >{/if}</td
            >
          {/if}
          <td class="text-right">
            {#if isNow(line)}<span class="font-normal">taken</span>{:else if !line.cannot}<button
                class="btn btn-xs"
                aria-label="Take {formatLength(line.widthMm, unit)} {line.film} of {line.media} on {line.machine}"
                onclick={() => ontake(line)}>Take</button
              >{/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>
