<script lang="ts">
  import { formatFigure } from '$core/units/length';
  import { FigureError, parseFigure } from '$core/units/typed';
  import TypedBox from './TypedBox.svelte';

  /** A figure: how many, degrees, money, or what has a unit of its own beside it. */
  interface Props {
    label: string;
    value: number | null;
    min?: number;
    max: number;
    /** Places after the point that are shown; 0 takes whole numbers alone. */
    decimals?: number;
    /** What stands beside it, which may be typed too. */
    unit?: string;
    step?: number;
    onchange: (value: number) => void;
    onempty?: (() => void) | undefined;
    late?: boolean;
    sentence?: boolean;
    block?: boolean;
    disabled?: boolean;
    placeholder?: string;
    title?: string;
    class?: string;
  }
  let { label, value, min = 0, max, decimals = 0, unit = '', step = 1, onchange, ...looks }: Props = $props();

  function read(text: string): number {
    const figure = parseFigure(text, unit);
    if (decimals > 0 || Number.isInteger(figure)) return figure;
    throw new FigureError(`${label}: a whole number from ${understood(min)} to ${understood(max)}.`);
  }
  const understood = (figure: number): string => {
    const words = Math.abs(figure) < 10_000 ? formatFigure(figure, Math.max(2, decimals)) : figure.toLocaleString('en-GB');
    return unit === '' ? words : unit === '°' ? `${words}°` : `${words} ${unit}`;
  };
</script>

<TypedBox
  {label}
  {value}
  {read}
  show={(figure) => formatFigure(figure, decimals)}
  {understood}
  {min}
  {max}
  {step}
  {onchange}
  {...looks}
/>
