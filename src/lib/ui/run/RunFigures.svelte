<script lang="ts">
  import { copiesIn, type RunCosts } from '$core/layout/run-costs';
  import { isJig, type Placement, type Stock } from '$core/layout/placement';
  import { formatFigure } from '$core/units/length';
  import { duration } from '$lib/ui/common/client';
  import { areaOf, tape } from '$lib/ui/common/shop-unit';

  interface Props {
    layout: Placement;
    stock: Stock;
    times: number;
    /** Waste is what lies outside of contours. */
    byContour: boolean;
    /** `counted` on its plates, or else estimated from its dockets. */
    ink: { ml: number; counted: boolean };
    costs: RunCosts;
    currency: string;
  }
  let { layout, stock, times, byContour, ink, costs, currency }: Props = $props();

  const jig = $derived(isJig(stock) ? stock.jig : undefined);
  const ghosts = $derived(layout.parts.reduce((sum, part) => sum + part.ghosts.length, 0));
</script>

<dl class="grid grid-cols-3 gap-x-3 gap-y-2">
  <div>
    <dt class="panel-title">{jig ? 'Loads' : stock.kind === 'sheet' ? 'Sheets' : 'Length'}</dt>
    <dd class="measure" data-testid="length">
      {stock.kind === 'sheet' ? layout.parts.length * times : tape(layout.length)}
    </dd>
    {#if stock.kind === 'roll' && layout.parts.length > 1}<dd class="text-xs">in {layout.parts.length} runs</dd>{/if}
  </div>
  <div>
    <dt class="panel-title">Waste</dt>
    <dd class="measure">{Math.round(layout.wasteShare * 100)} %</dd>
    <dd class="text-xs">
      {areaOf(layout.wasteM2 * times)} of {areaOf(layout.areaM2 * times)}{byContour ? ', by contour' : ''}
    </dd>
  </div>
  <div>
    <dt class="panel-title">Time</dt>
    <dd class="measure">{costs.seconds === null ? '–' : duration(costs.seconds)}</dd>
  </div>
  <div>
    <dt class="panel-title">Ink</dt>
    <dd class="measure">{formatFigure(ink.ml, 1)} ml</dd>
    <dd class="text-xs">{ink.counted ? 'counted' : 'estimated'}</dd>
  </div>
  <div>
    <dt class="panel-title">Cost</dt>
    <dd class="measure">{currency}{costs.all.toFixed(2)}</dd>
    <dd class="text-xs">media {costs.media.toFixed(2)}, ink {costs.ink.toFixed(2)}, time {costs.time.toFixed(2)}</dd>
  </div>
  <div>
    <dt class="panel-title">Copies</dt>
    <dd class="measure">{copiesIn(layout) * times}</dd>
    <dd class="text-xs">{jig ? `${jig.pockets.length} a load` : `${ghosts} more free`}</dd>
  </div>
</dl>
