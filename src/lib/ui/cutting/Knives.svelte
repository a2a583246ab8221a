<script lang="ts">
  import type { Tool } from '$core/artwork/roles';
  import { BLADES, type KnifeChoice } from '$core/media/knife';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  /** What each kind of line of a print is cut with. */
  let {
    knife = $bindable(),
    tools,
    cutting,
    wrong,
    busy,
    onkeep,
    ontest
  }: {
    knife: KnifeChoice;
    /** Those that the print has lines for. */
    tools: readonly Tool[];
    cutting: boolean;
    /** Why what is typed cannot be. */
    wrong: string;
    busy: boolean;
    onkeep: () => void;
    /** Cuts a sample, where that can be done now. */
    ontest: ((tool: Tool) => void) | undefined;
  } = $props();

  const FIGURES = [
    { key: 'speed', label: 'Speed', unit: 'cm/s', min: 1, max: 100, step: 1 },
    { key: 'force', label: 'Force', unit: 'g', min: 1, max: 600, step: 1 },
    { key: 'overcut', label: 'Overcut', unit: 'mm', min: 0, max: 20, step: 0.1 },
    { key: 'passes', label: 'Passes', unit: '', min: 1, max: 10, step: 1 },
    { key: 'offset', label: 'Offset', unit: 'mm', min: 0, max: 2, step: 0.01 },
    { key: 'liftAngle', label: 'Lifts from', unit: '°', min: 5, max: 180, step: 1 }
  ] as const;
</script>

<section aria-label="Knives">
  <h2 class="panel-title mb-1">Knives</h2>
  {#each tools as tool (tool)}
    {@const isDragged = knife[tool].blade === 'drag knife'}
    <fieldset class="mb-3">
      <legend class="mb-1 flex w-full items-center justify-between gap-2 text-sm">
        <span class="font-semibold">{tool}</span>
        <select
          class="select select-sm w-40"
          aria-label="Blade of {tool}"
          disabled={cutting}
          bind:value={knife[tool].blade}
          onchange={onkeep}
        >
          {#each BLADES as blade (blade)}<option>{blade}</option>{/each}
        </select>
      </legend>
      {#if ontest}
        <button
          class="btn btn-xs mb-1"
          disabled={busy}
          title="A square and a triangle in the waste, as the work will be cut"
          onclick={() => ontest(tool)}>Test cut</button
        >
      {/if}
      <div class="grid grid-cols-3 gap-x-2 gap-y-1">
        {#each FIGURES as figure (figure.key)}
          {@const isUsed =
            figure.key === 'offset' ? isDragged : figure.key === 'liftAngle' ? !isDragged && knife[tool].blade !== 'pen' : true}
          {#if isUsed}
            <label class="text-xs">
              {figure.label}{figure.unit ? `, ${figure.unit}` : ''}
              <FigureBox
                class="input input-sm w-full text-right"
                label="{figure.label} of {tool}"
                unit={figure.unit}
                decimals={figure.key === 'passes' ? 0 : 2}
                min={figure.min}
                max={figure.max}
                step={figure.step}
                disabled={cutting}
                late
                value={knife[tool][figure.key]}
                onchange={(value) => {
                  knife[tool][figure.key] = value;
                  onkeep();
                }}
              />
            </label>
          {/if}
        {/each}
      </div>
    </fieldset>
  {/each}
  {#if wrong}<p class="text-error mt-1 text-xs" role="alert">{wrong}</p>{/if}
</section>
