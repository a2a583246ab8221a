<script lang="ts">
  import { DEFAULT_LIMITS, Limits } from '$core/checks/check';
  import { ppiAtDistance } from '$core/checks/size';
  import { boundsOf } from '$core/units/bounds';
  import type { ShopSettings } from '$lib/shop-settings';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  let { settings, onchange }: { settings: ShopSettings; onchange: (part: Partial<ShopSettings>) => void } = $props();

  interface LimitRow {
    key: keyof Limits;
    words: string;
    unit: string;
    /** How many of the shown units one of the kept ones is. */
    factor?: number;
    step: number;
  }
  const LIMITS: LimitRow[] = [
    { key: 'viewingMm', words: 'Looked at from', unit: 'm', factor: 0.001, step: 0.1 },
    { key: 'bleedMm', words: 'Least bleed', unit: 'mm', step: 0.5 },
    { key: 'nearTrimMm', words: 'Lettering keeps off the trim by', unit: 'mm', step: 0.5 },
    { key: 'thinnestMm', words: 'Thinnest line; 0 for three dots of the mode', unit: 'mm', step: 0.01 },
    { key: 'whiteTextMm', words: 'Smallest white lettering', unit: 'mm', step: 0.5 },
    { key: 'richTextMm', words: 'Smallest lettering of several inks', unit: 'mm', step: 0.5 },
    { key: 'blackAreaMm2', words: 'Largest area of black alone', unit: 'cm²', factor: 0.01, step: 10 },
    { key: 'totalInk', words: 'Most ink', unit: '%', factor: 100, step: 10 },
    { key: 'driftDeltaE', words: 'A condition may drift by', unit: 'ΔE00', step: 0.1 },
    { key: 'gamutDeltaE', words: 'Out of reach from', unit: 'ΔE00', step: 0.5 },
    { key: 'gamutShare', words: 'Area out of reach that is told', unit: '%', factor: 100, step: 0.5 },
    { key: 'layersApartMm', words: 'Layers of ink may lie apart by', unit: 'mm', step: 0.05 },
    { key: 'nodes', words: 'Most nodes of cut lines', unit: '', step: 100 },
    { key: 'knifeMm', words: 'Narrowest cut', unit: 'mm', step: 0.1 },
    { key: 'islandMm', words: 'Smallest piece that stays', unit: 'mm', step: 0.5 }
  ];
  /** In the shown unit. */
  function bounds({ key, factor = 1 }: LimitRow): { min: number; max: number } {
    const { min, max } = boundsOf(Limits.shape[key]);
    return { min: min * factor, max: max * factor };
  }
  const shown = ({ key, factor = 1 }: LimitRow) => Number((settings.limits[key] * factor).toFixed(4));
  function setLimit({ key, factor = 1 }: LimitRow, value: number): void {
    onchange({ limits: { ...settings.limits, [key]: Number.isFinite(value) ? value / factor : DEFAULT_LIMITS[key] } });
  }
</script>

<section aria-label="Limits of the checks" class="space-y-2">
  <h2 class="text-lg font-semibold">Limits of the checks</h2>
  <table class="w-full text-sm">
    <tbody>
      {#each LIMITS as row (row.key)}
        <tr>
          <td class="py-0.5 pr-2">{row.words}</td>
          <td class="w-24"
            ><!-- Emptied, it is as it came. --><FigureBox
              late
              label={row.words}
              unit={row.unit}
              decimals={row.key === 'nodes' ? 0 : 4}
              {...bounds(row)}
              step={row.step}
              value={shown(row)}
              onchange={(value) => setLimit(row, value)}
              onempty={() => setLimit(row, NaN)}
            /></td
          >
          <td class="text-base-content/70 pl-2 whitespace-nowrap"
            >{row.key === 'viewingMm' ? `m, ${Math.round(ppiAtDistance(settings.limits.viewingMm))} ppi` : row.unit}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  <button class="btn btn-sm" onclick={() => onchange({ limits: DEFAULT_LIMITS })}>As they came</button>
</section>
