<script lang="ts">
  import { formatClosely, type LengthUnit } from '$core/units/length';
  import { parseLength } from '$core/units/typed';
  import TypedBox from './TypedBox.svelte';

  interface Props {
    label: string;
    /** mm; null where there is none. */
    value: number | null;
    unit?: LengthUnit;
    min?: number;
    max?: number;
    onchange: (mm: number) => void;
    onempty?: () => void;
    sentence?: boolean;
    block?: boolean;
    disabled?: boolean;
    late?: boolean;
    placeholder?: string;
    title?: string;
    class?: string;
  }
  let { label, value, unit = 'mm', min = 0, max = 100_000, onchange, ...looks }: Props = $props();
</script>

<TypedBox
  {label}
  {value}
  read={(text) => parseLength(text, unit)}
  show={(mm) => formatClosely(mm, unit).replace(` ${unit}`, '')}
  understood={(mm) => formatClosely(mm, unit)}
  {min}
  {max}
  {onchange}
  {...looks}
/>
