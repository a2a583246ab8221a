<script lang="ts">
  import { counted } from '$core/units/counted';
  import { plannedWall } from '$lib/panels';
  import { formatLength } from '$core/units/length';
  import type { TicketView } from './ticket';

  let { view }: { view: TicketView } = $props();

  const { wall } = $derived(view.choices);
  const planned = $derived(wall ? plannedWall({ ...view.choices, wall }, view.condition) : undefined);
  /** In one piece it does not go on what it is printed on. */
  const isTooWide = $derived(
    view.usableMm !== undefined && Math.min(view.choices.widthMm, view.choices.heightMm) > view.usableMm
  );
  const numbers = $derived(planned?.panels.length ?? 0);
</script>

{#if wall || isTooWide || Math.max(view.choices.widthMm, view.choices.heightMm) > 1500}
  <section aria-label="Wall">
    <h2 class="panel-title leading-4">Wall</h2>
    <p>
      {#if wall && planned}
        A wall in <span class="font-semibold">{counted(numbers, 'panel')}</span>, {wall.film}, {wall.joint === 'butt'
          ? 'butted'
          : `overlapping by ${formatLength(planned.overlapMm, view.settings.unit)}`}, hung {wall.order}.
      {:else if isTooWide}It is wider than the film: as a wall it is printed in panels.
      {:else}It is printed in one piece.{/if}
      <a class="btn btn-xs ml-1" href="/dockets/{view.docket.id}/wall">{wall ? 'See the panels' : 'Make it a wall'}</a>
    </p>
  </section>
{/if}
