<script lang="ts">
  import { DEFAULT_LIMITS, Limits } from '$core/checks/check';
  import { ppiAtDistance } from '$core/checks/size';
  import { boundsOf } from '$core/units/bounds';
  import { longUnit, MM_PER } from '$core/units/length';
  import type { ShopSettings } from '$lib/shop-settings';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  let { settings, onchange }: { settings: ShopSettings; onchange: (part: Partial<ShopSettings>) => void } = $props();

  interface LimitRow {
    key: keyof Limits;
    words: string;
    /** What is no length has a unit of its own. */
    unit?: string;
    /** How many of the shown units one of the kept ones is. */
    factor?: number;
    step?: number;
  }
  const area = $derived(settings.unit === 'in' ? 'in' : 'cm');
  const LIMITS: LimitRow[] = $derived([
    { key: 'viewingMm', words: 'Looked at from' },
    { key: 'bleedMm', words: 'Least bleed' },
    { key: 'nearTrimMm', words: 'Lettering keeps off the trim by' },
    { key: 'thinnestMm', words: 'Thinnest line; 0 for three dots of the mode' },
    { key: 'whiteTextMm', words: 'Smallest white lettering' },
    { key: 'richTextMm', words: 'Smallest lettering of several inks' },
    { key: 'blackAreaMm2', words: 'Largest area of black alone', unit: `${area}²`, factor: 1 / MM_PER[area] ** 2, step: 10 },
    { key: 'totalInk', words: 'Most ink', unit: '%', factor: 100, step: 10 },
    { key: 'driftDeltaE', words: 'A condition may drift by', unit: 'ΔE00', step: 0.1 },
    { key: 'gamutDeltaE', words: 'Out of reach from', unit: 'ΔE00', step: 0.5 },
    { key: 'gamutShare', words: 'Area out of reach that is told', unit: '%', factor: 100, step: 0.5 },
    { key: 'layersApartMm', words: 'Layers of ink may lie apart by' },
    { key: 'nodes', words: 'Most nodes of cut lines', unit: '', step: 100 },
    { key: 'knifeMm', words: 'Narrowest cut' },
    { key: 'islandMm', words: 'Smallest piece that stays' }
  ]);
  /** From where it is looked at is farther than the others. */
  const lengthUnit = ({ key }: LimitRow) => (key === 'viewingMm' ? longUnit(settings.unit) : settings.unit);
  /** In the shown unit; lengths are mm. */
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
            ><!-- Emptied, it is as it came. -->{#if row.unit === undefined}<LengthBox
                late
                label={row.words}
                unit={lengthUnit(row)}
                {...bounds(row)}
                value={shown(row)}
                onchange={(value) => setLimit(row, value)}
                onempty={() => setLimit(row, NaN)}
              />{:else}<FigureBox
                late
                label={row.words}
                unit={row.unit}
                decimals={row.key === 'nodes' ? 0 : 4}
                {...bounds(row)}
                step={row.step}
                value={shown(row)}
                onchange={(value) => setLimit(row, value)}
                onempty={() => setLimit(row, NaN)}
              />{/if}</td
          >
          <td class="text-base-content/70 pl-2 whitespace-nowrap"
            >{row.unit ?? lengthUnit(row)}{row.key === 'viewingMm'
              ? `, ${Math.round(ppiAtDistance(settings.limits.viewingMm))} ppi`
              : ''}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  <button class="btn btn-sm" onclick={() => onchange({ limits: DEFAULT_LIMITS })}>As they came</button>
</section>
