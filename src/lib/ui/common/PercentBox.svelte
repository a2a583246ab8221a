<script lang="ts">
  import FigureBox from './FigureBox.svelte';

  /** A share, shown and typed in per cent. */
  interface Props {
    label: string;
    /** 1 is all; its bounds likewise. */
    share: number | null;
    min?: number;
    max?: number;
    /** Per cent. */
    decimals?: number;
    step?: number;
    onchange: (share: number) => void;
    onempty?: () => void;
    late?: boolean;
    sentence?: boolean;
    block?: boolean;
    disabled?: boolean;
    placeholder?: string;
    class?: string;
  }
  let { share, min = 0, max = 1, onchange, ...looks }: Props = $props();

  /** Without what binary fractions add. */
  const percent = (of: number) => Number((of * 100).toFixed(6));
</script>

<FigureBox
  unit="%"
  value={share === null ? null : percent(share)}
  min={percent(min)}
  max={percent(max)}
  onchange={(figure) => onchange(figure / 100)}
  {...looks}
/>
