<script lang="ts">
  import { CODE_KINDS, CORRECTIONS, type CodeKind, type Correction } from '$core/records/code-kinds';
  import type { CodeField } from '$core/records/field';
  import type { LengthUnit } from '$core/units/length';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  interface Props {
    field: CodeField;
    unit: LengthUnit;
    onchange: (change: Partial<CodeField>) => void;
  }
  let { field, unit, onchange: part }: Props = $props();

  /** Kinds of bars alone, which ink makes wider. */
  const BARS = new Set<CodeKind>(['Code 128', 'Code 39', 'EAN-13', 'EAN-8', 'UPC-A', 'ITF-14', 'GS1-128']);
</script>

<label class="flex items-center gap-2"
  >As <select
    class="select select-sm"
    aria-label="Kind of code"
    value={field.kind}
    onchange={(event) => part({ kind: event.currentTarget.value as typeof field.kind })}
    >{#each CODE_KINDS as kind (kind)}<option>{kind}</option>{/each}</select
  ></label
>
<p>
  {#if field.kind === 'QR'}
    With <select
      class="in-sentence"
      aria-label="Correction"
      value={field.correction}
      onchange={(event) => part({ correction: event.currentTarget.value as Correction })}
      >{#each CORRECTIONS as correction (correction)}<option>{correction}</option>{/each}</select
    > correction;
  {/if}
  <label
    ><input
      type="checkbox"
      class="checkbox checkbox-xs"
      checked={field.below}
      onchange={(event) => part({ below: event.currentTarget.checked })}
    /> what it says stands below it</label
  >{#if BARS.has(field.kind)}; bars
    <LengthBox
      sentence
      label="Bars thinner by"
      {unit}
      value={field.thinner}
      max={0.5}
      onchange={(thinner) => part({ thinner })}
    />
    {unit} thinner{/if}.
</p>
