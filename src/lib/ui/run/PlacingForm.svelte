<script lang="ts">
  import { page } from '$app/state';
  import { CORNERS, EFFORTS } from '$core/layout/placement';
  import { cuttingRoom } from '$core/layout/run-layout';
  import { MARK_SHAPES, MARKS_SAID } from '$core/marks/print-list';
  import { HALFTONES, HALFTONE_WORDS, type RunRule } from '$lib/run-rule';
  import type { ShopSettings } from '$lib/shop-settings';
  import type { Machine } from '$lib/server/machines/machines';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { lengthOf } from '$lib/ui/common/shop-unit';

  interface Props {
    rule: RunRule;
    sheet: boolean;
    /** It is placed in a jig, which says where. */
    jig?: boolean;
    unit: ShopSettings['unit'];
    disabled: boolean;
    /** What a millimetre of the roll costs, with its currency; nothing where that is not known. */
    costAMm?: { cost: number; currency: string } | undefined;
    onchange: (part: Partial<RunRule>) => void;
    /** Where there are lines, and no plates yet. */
    oncut?: (() => void) | undefined;
  }
  let { rule, sheet, jig = false, unit, disabled, costAMm, onchange, oncut }: Props = $props();

  const CODE_WORDS = { datamatrix: 'Data Matrix', qrcode: 'QR code' };
  const cutters = $derived((page.data['machines'] as Machine[]).filter(({ cutter }) => cutter !== null));
  /** What the first cutter says of itself: the one that lines go to where no other is chosen. */
  const able = $derived(cutters[0]?.cutter?.abilities);
  const look = $derived(able?.moves.look ?? 0);
  const blindTo = (shape: RunRule['marks']['shape']) => able !== undefined && !able.marks.includes(shape);
  const cannotRead = (code: 'datamatrix' | 'qrcode') => able !== undefined && !able.codes.includes(code);
  const filmCost = $derived(costAMm ? `, ${costAMm.currency}${(2 * cuttingRoom(rule.marks) * costAMm.cost).toFixed(2)}` : '');

  const MOST_SLIDER_MM = 60;
  const gap = (which: 'gapX' | 'gapY', mm: number) => onchange(rule.linked ? { gapX: mm, gapY: mm } : { [which]: mm });
  const EFFORT_WORDS = { quick: 'quick', normal: 'normal, some seconds', thorough: 'thorough, half a minute' };
  const STEP_WORDS: Record<RunRule['turnStep'], string> = {
    0: 'not turned',
    180: 'turned by half',
    90: 'turned by quarters',
    45: 'turned by 45°',
    15: 'turned by 15°'
  };
  const lengths: [keyof RunRule & ('margin' | 'lead' | 'tail'), string, number][] = $derived([
    ['margin', sheet ? 'Margin on all sides' : 'Margin at the edges', 500],
    ...(sheet
      ? []
      : ([
          ['lead', 'Lead before', 2000],
          ['tail', 'Tail after', 2000]
        ] as ['lead' | 'tail', string, number][]))
  ]);
</script>

<section aria-label="Placing">
  <h2 class="panel-title mb-1">Placing</h2>
  <fieldset {disabled} class="grid grid-cols-[1fr_auto] items-center gap-x-3 gap-y-1.5 text-sm">
    {#if !jig}
      {#each [['gapX', 'across'], ['gapY', 'along']] as const as [which, words] (which)}
        <span>Gap {words}, {unit}</span>
        <span class="flex items-center gap-2">
          <input
            type="range"
            class="range range-xs w-20"
            min="0"
            max={MOST_SLIDER_MM}
            step="0.5"
            aria-label="Gap {words} the {sheet ? 'sheet' : 'roll'}, by dragging"
            value={rule[which]}
            oninput={(event) => gap(which, Number(event.currentTarget.value))}
          />
          <LengthBox
            label="Gap {words} the {sheet ? 'sheet' : 'roll'}"
            {unit}
            value={rule[which]}
            max={500}
            onchange={(mm) => gap(which, mm)}
          />
        </span>
      {/each}
      <span></span>
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="checkbox checkbox-sm"
          checked={rule.linked}
          onchange={(event) =>
            onchange({ linked: event.currentTarget.checked, ...(event.currentTarget.checked && { gapY: rule.gapX }) })}
        />both gaps together</label
      >
      {#each lengths as [key, words, max] (key)}
        <span>{words}, {unit}</span>
        <LengthBox label={words} {unit} value={rule[key]} {max} onchange={(mm) => onchange({ [key]: mm })} />
      {/each}
      {#if !sheet}
        <label for="longest">Longest run, {unit}</label>
        <span class="flex items-center gap-2">
          <input
            type="checkbox"
            class="checkbox checkbox-sm"
            aria-label="Limit the length of a run"
            checked={rule.longest !== null}
            onchange={(event) => onchange({ longest: event.currentTarget.checked ? 5000 : null })}
          />
          {#if rule.longest !== null}
            <LengthBox
              label="Longest run"
              {unit}
              value={rule.longest}
              min={100}
              max={1e6}
              onchange={(longest) => onchange({ longest })}
            />
          {:else}<span class="w-24">no limit</span>{/if}
        </span>
      {/if}
      {#if sheet}
        <label for="corner">First corner</label>
        <select
          id="corner"
          class="select select-sm w-48"
          value={rule.corner}
          onchange={(event) => onchange({ corner: event.currentTarget.value as RunRule['corner'] })}
        >
          {#each CORNERS as corner (corner)}<option value={corner}>{corner}</option>{/each}
        </select>
      {/if}
      <label for="align">On the {sheet ? 'sheet' : 'roll'}</label>
      <select
        id="align"
        class="select select-sm w-48"
        value={rule.align}
        onchange={(event) => onchange({ align: event.currentTarget.value as RunRule['align'] })}
      >
        <option value="left">at the left edge</option><option value="centre">centred</option><option value="right"
          >at the right edge</option
        >
      </select>
      <label for="single">In order, copies are</label>
      <select
        id="single"
        class="select select-sm w-48"
        value={rule.single ? 'one' : 'beside'}
        onchange={(event) => onchange({ single: event.currentTarget.value === 'one' })}
      >
        <option value="beside">side by side</option><option value="one">one a row</option>
      </select>
      <label for="fill">Spare copies</label>
      <select
        id="fill"
        class="select select-sm w-48"
        value={rule.fill}
        onchange={(event) => onchange({ fill: event.currentTarget.value as RunRule['fill'] })}
      >
        <option value="none">claimed ones only</option>
        <option value="row">fill the row</option>
        <option value="all">fill the {sheet ? 'sheet' : 'run'}</option>
      </select>
      <label for="turns">In true shape</label>
      <select
        id="turns"
        class="select select-sm w-48"
        value={String(rule.turnStep)}
        onchange={(event) => onchange({ turnStep: Number(event.currentTarget.value) as RunRule['turnStep'] })}
      >
        {#each [0, 180, 90, 45, 15] as const as step (step)}<option value={String(step)}>{STEP_WORDS[step]}</option>{/each}
      </select>
      <label for="effort">Effort</label>
      <select
        id="effort"
        class="select select-sm w-48"
        value={rule.effort}
        onchange={(event) => onchange({ effort: event.currentTarget.value as RunRule['effort'] })}
      >
        {#each EFFORTS as effort (effort)}<option value={effort}>{EFFORT_WORDS[effort]}</option>{/each}
      </select>
      <label for="marks">Marks for the cutter</label>
      <select
        id="marks"
        class="select select-sm w-48"
        value={rule.marks.shape}
        onchange={(event) =>
          onchange({ marks: { ...rule.marks, shape: event.currentTarget.value as RunRule['marks']['shape'] } })}
      >
        {#each MARK_SHAPES as shape (shape)}<option value={shape} disabled={blindTo(shape)}
            >{MARKS_SAID[shape]} of {lengthOf(rule.marks.diameter)}{blindTo(shape)
              ? `, which ${cutters[0]?.name} does not see`
              : ''}</option
          >{/each}
      </select>
      <label for="code">Code for the cutter</label>
      <select
        id="code"
        class="select select-sm w-48"
        value={rule.marks.code ?? 'datamatrix'}
        onchange={(event) => onchange({ marks: { ...rule.marks, code: event.currentTarget.value as 'datamatrix' | 'qrcode' } })}
      >
        {#each ['datamatrix', 'qrcode'] as const as code (code)}<option value={code} disabled={cannotRead(code)}
            >{CODE_WORDS[code]}{cannotRead(code) ? `, which ${cutters[0]?.name} does not read` : ''}</option
          >{/each}
      </select>
      <p class="text-base-content/70 col-span-2 text-xs">
        Where something is cut, marks and codes take {lengthOf(cuttingRoom(rule.marks))} on each side{sheet
          ? ''
          : `: ${lengthOf(2 * cuttingRoom(rule.marks))} of the roll${filmCost}`}. {cutters[0]
          ? `${cutters[0].name} looks at each mark for about ${look} s.`
          : ''}
      </p>
      <label for="along">Cut</label>
      <select
        id="along"
        class="select select-sm w-48"
        value={rule.cutAlong ?? 'lines'}
        onchange={(event) => onchange({ cutAlong: event.currentTarget.value as 'lines' | 'pieces' })}
      >
        <option value="lines">along the dockets’ lines</option><option value="pieces">straight, by pieces</option>
      </select>
      {#if oncut}
        <span></span>
        <button class="btn btn-sm w-48" title="Its lines go to a cutter with plain film; nothing is printed" onclick={oncut}
          >Cut it without printing</button
        >
      {/if}
      <label for="bar">Colour bar</label>
      <select
        id="bar"
        class="select select-sm w-48"
        value={rule.colourBar ? 'yes' : 'no'}
        onchange={(event) => onchange({ colourBar: event.currentTarget.value === 'yes' })}
      >
        <option value="no">none</option><option value="yes">before the first piece</option>
      </select>
    {/if}
    <label for="method">Halftone</label>
    <select
      id="method"
      class="select select-sm w-48"
      value={rule.method}
      onchange={(event) => onchange({ method: event.currentTarget.value as RunRule['method'] })}
    >
      {#each HALFTONES as one (one)}<option value={one}>{HALFTONE_WORDS[one]}</option>{/each}
    </select>
  </fieldset>
</section>
