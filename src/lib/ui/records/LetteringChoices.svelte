<script lang="ts">
  import { TOOLS, type Tool } from '$core/artwork/roles';
  import { ALONG, DOWN, type TextField, type TextShadow } from '$core/records/field';
  import type { LengthUnit } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import PercentBox from '$lib/ui/common/PercentBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import ColourChoice from './ColourChoice.svelte';

  interface Props {
    field: TextField;
    faces: readonly string[];
    unit: LengthUnit;
    onchange: (change: Partial<TextField>) => void;
  }
  let { field, faces, unit, onchange: text }: Props = $props();

  const SHADOW: TextShadow = { right: 0.5, down: 0.5, soft: 0.3, strength: 0.5, colour: { is: 'inks', inks: [0, 0, 0, 1] } };
  /** How the one line lies. */
  const lies = $derived(field.bend === 0 ? (field.wrap ? 'more' : 'one') : field.bend > 0 ? 'high' : 'low');
  function lie(how: string): void {
    const bend = Math.abs(field.bend) || 60;
    text({ wrap: how === 'more', bend: how === 'high' ? bend : how === 'low' ? -bend : 0 });
  }
  const SIZES = { fixed: 'always', largest: 'as large as fits', 'one for all': 'one size for all: as the longest fits' } as const;
</script>

<label class="flex items-center gap-2"
  >Font <select
    class="select select-sm grow"
    aria-label="Font of the lettering"
    value={field.font}
    onchange={(event) => text({ font: event.currentTarget.value })}
    >{#each faces as face (face)}<option>{face}</option>{/each}{#if !faces.includes(field.font)}<option disabled
        >{field.font}</option
      >{/if}</select
  ></label
>
<p>
  Size
  <select
    class="in-sentence"
    aria-label="Size of the lettering"
    value={field.size.is}
    onchange={(event) => {
      const is = event.currentTarget.value as TextField['size']['is'];
      text({ size: is === 'fixed' ? { is, pt: 18 } : { is } });
    }}
  >
    {#each Object.entries(SIZES) as [is, label] (is)}<option value={is}>{label}</option>{/each}
  </select>{#if field.size.is === 'fixed'}
    <FigureBox
      sentence
      label="Points"
      unit="pt"
      decimals={1}
      min={1}
      max={10_000}
      value={field.size.pt}
      onchange={(pt) => text({ size: { is: 'fixed', pt } })}
    /> pt{/if}, on
  <select class="in-sentence" aria-label="Lines" value={lies} onchange={(event) => lie(event.currentTarget.value)}
    ><option value="one">one line</option><option value="more">as many lines as it takes</option><option value="high"
      >an arc, high in the middle</option
    ><option value="low">an arc, low in the middle</option></select
  >{#if field.bend !== 0}
    of
    <FigureBox
      sentence
      label="Degrees of the arc"
      unit="°"
      decimals={1}
      min={5}
      max={180}
      value={Math.abs(field.bend)}
      onchange={(bend) => text({ bend: Math.sign(field.bend) * bend })}
    />°{/if},
  <select
    class="in-sentence"
    aria-label="Across"
    value={field.along}
    onchange={(event) => text({ along: event.currentTarget.value as TextField['along'] })}
    >{#each ALONG as along (along)}<option>{along}</option>{/each}</select
  >,
  <select
    class="in-sentence"
    aria-label="Down"
    value={field.down}
    onchange={(event) => text({ down: event.currentTarget.value as TextField['down'] })}
    >{#each DOWN as down (down)}<option>{down}</option>{/each}</select
  >; lines
  <PercentBox
    sentence
    label="Distance of lines, %"
    min={0.5}
    max={4}
    step={5}
    share={field.lineSpacing}
    onchange={(lineSpacing) => text({ lineSpacing })}
  />
  % apart, letters
  <PercentBox
    sentence
    label="Between letters, %"
    min={-0.2}
    max={2}
    share={field.letterSpacing}
    onchange={(letterSpacing) => text({ letterSpacing })}
  /> %.
</p>
<p class="flex flex-wrap items-center gap-2">
  <label class="flex items-center gap-1"
    ><input
      type="checkbox"
      class="checkbox checkbox-xs"
      checked={field.outline !== null}
      onchange={(event) =>
        text({ outline: event.currentTarget.checked ? { mm: 0.3, colour: { is: 'rgb', colour: '#ffffff' } } : null })}
    />outlined</label
  >
  {#if field.outline}
    {@const { outline } = field}
    <LengthBox
      sentence
      label="Width of the outline"
      {unit}
      value={outline.mm}
      min={0.01}
      max={50}
      onchange={(mm) => text({ outline: { ...outline, mm } })}
    />
    {unit}
    <ColourChoice
      label="Colour of the outline"
      colour={outline.colour}
      onchange={(colour) => text({ outline: { ...outline, colour } })}
    />
  {/if}
  <label class="flex items-center gap-1"
    ><input
      type="checkbox"
      class="checkbox checkbox-xs"
      checked={field.shadow !== null}
      onchange={(event) => text({ shadow: event.currentTarget.checked ? SHADOW : null })}
    />with a shadow</label
  >
</p>
{#if field.shadow}
  {@const { shadow } = field}
  {@const cast = (change: Partial<TextShadow>) => text({ shadow: { ...shadow, ...change } })}
  <p class="flex flex-wrap items-center gap-1">
    The shadow
    <LengthBox
      sentence
      label="Shadow to the right"
      {unit}
      value={shadow.right}
      min={-100}
      max={100}
      onchange={(right) => cast({ right })}
    />
    to the right,
    <LengthBox
      sentence
      label="Shadow downward"
      {unit}
      value={shadow.down}
      min={-100}
      max={100}
      onchange={(down) => cast({ down })}
    /> down, soft by <LengthBox
      sentence
      label="Softness of the shadow"
      {unit}
      value={shadow.soft}
      max={50}
      onchange={(soft) => cast({ soft })}
    />
    {unit},
    <PercentBox
      sentence
      label="Strength of the shadow, %"
      min={0.05}
      step={5}
      share={shadow.strength}
      onchange={(strength) => cast({ strength })}
    />
    % strong, in
    <ColourChoice label="Colour of the shadow" colour={shadow.colour} onchange={(colour) => cast({ colour })} />
  </p>
{/if}
<p>
  Each record’s letters are
  <select
    class="in-sentence"
    aria-label="How the letters are cut"
    value={field.cut?.tool ?? ''}
    onchange={(event) => {
      const tool = event.currentTarget.value as Tool | '';
      text({ cut: tool === '' ? null : { mm: 1, holes: false, ...field.cut, tool } });
    }}
  >
    <option value="">not cut</option>
    {#each TOOLS as tool (tool)}<option value={tool}>cut as {tool}</option>{/each}
  </select>{#if field.cut}
    {@const { cut } = field}
    <LengthBox
      sentence
      label="Distance of the line"
      {unit}
      value={cut.mm}
      min={-5}
      max={50}
      onchange={(mm) => text({ cut: { ...cut, mm } })}
    />
    {unit} around them,
    <select
      class="in-sentence"
      aria-label="Holes of the letters"
      value={cut.holes ? 'with' : 'without'}
      onchange={(event) => text({ cut: { ...cut, holes: event.currentTarget.value === 'with' } })}
      ><option value="without">without their holes</option><option value="with">with their holes</option></select
    >{/if}.
</p>
