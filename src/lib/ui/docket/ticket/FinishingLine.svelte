<script lang="ts">
  import { DEFAULT_CROP, DEFAULT_EYELETS, EDGES, eyeletPlaces } from '$core/marks/finishing';
  import type { Eyelets, Finishing } from '$core/marks/finishing-choice';
  import { formatLength } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import type { TicketView } from './ticket';

  let { view }: { view: TicketView } = $props();

  const { finishing, widthMm, heightMm } = $derived(view.choices);
  const { unit } = $derived(view.settings);
  const change = (part: Partial<Finishing>) => view.change({ finishing: { ...finishing, ...part } });
  const eyelets = (part: Partial<Eyelets>) => change({ eyelets: { ...(finishing.eyelets ?? DEFAULT_EYELETS), ...part } });
  const places = $derived(finishing.eyelets ? eyeletPlaces({ widthMm, heightMm }, finishing.eyelets).length : 0);
  const pocketed = $derived(EDGES.filter((edge) => finishing.pockets[edge] > 0));
  const marked = $derived(
    finishing.crop ||
      finishing.centre ||
      finishing.outline ||
      finishing.eyelets ||
      finishing.folds.length > 0 ||
      pocketed.length > 0 ||
      finishing.hem > 0
  );
  const TURNS: Record<Finishing['turn'], string> = {
    0: 'as it is',
    90: 'turned right',
    180: 'turned over its head',
    270: 'turned left'
  };
</script>

<section aria-label="Finishing">
  <h2 class="panel-title leading-4">Finishing</h2>
  <p>
    <select
      class="in-sentence"
      aria-label="Crop marks"
      value={finishing.crop ? 'yes' : 'no'}
      onchange={(event) => change({ crop: event.currentTarget.value === 'yes' ? DEFAULT_CROP : null })}
    >
      <option value="no">No crop marks</option><option value="yes">Crop marks</option>
    </select>{#if finishing.crop}
      of <LengthBox
        sentence
        label="Length of crop marks"
        {unit}
        value={finishing.crop.length}
        min={1}
        max={50}
        onchange={(length) => finishing.crop && change({ crop: { ...finishing.crop, length } })}
      />
      {unit},
      <LengthBox
        sentence
        label="Offset of crop marks"
        {unit}
        value={finishing.crop.offset}
        max={50}
        onchange={(offset) => finishing.crop && change({ crop: { ...finishing.crop, offset } })}
      />
      {unit} off, <LengthBox
        sentence
        label="Weight of crop marks"
        {unit}
        value={finishing.crop.weight}
        min={0.05}
        max={2}
        onchange={(weight) => finishing.crop && change({ crop: { ...finishing.crop, weight } })}
      />
      {unit} thick{/if},
    <select
      class="in-sentence"
      aria-label="Centre marks"
      value={finishing.centre ? 'yes' : 'no'}
      onchange={(event) => change({ centre: event.currentTarget.value === 'yes' })}
    >
      <option value="no">no centre marks</option><option value="yes">centre marks</option>
    </select>,
    <select
      class="in-sentence"
      aria-label="Outline"
      value={finishing.outline ? 'yes' : 'no'}
      onchange={(event) => change({ outline: event.currentTarget.value === 'yes' })}
    >
      <option value="no">no outline</option><option value="yes">an outline</option>
    </select>;
    <select
      class="in-sentence"
      aria-label="Eyelets"
      value={finishing.eyelets?.by ?? 'no'}
      onchange={(event) => {
        const by = event.currentTarget.value;
        if (by === 'no') change({ eyelets: null });
        else eyelets({ by: by as Eyelets['by'] });
      }}
    >
      <option value="no">no eyelets</option>
      <option value="spacing">eyelets by spacing</option>
      <option value="count">eyelets by number</option>
    </select>{#if finishing.eyelets}{#if finishing.eyelets.by === 'spacing'}, at most
        <LengthBox
          sentence
          label="Spacing of eyelets"
          {unit}
          value={finishing.eyelets.spacing}
          min={20}
          max={5000}
          onchange={(spacing) => eyelets({ spacing })}
        />
        {unit} apart{:else},
        <FigureBox
          sentence
          label="Eyelets across"
          min={0}
          max={500}
          value={finishing.eyelets.across}
          onchange={(across) => eyelets({ across })}
        />
        across and
        <FigureBox
          sentence
          label="Eyelets down"
          min={0}
          max={500}
          value={finishing.eyelets.down}
          onchange={(down) => eyelets({ down })}
        />
        down{/if},
      <LengthBox
        sentence
        label="Inset of eyelets"
        {unit}
        value={finishing.eyelets.inset}
        max={1000}
        onchange={(inset) => eyelets({ inset })}
      />
      {unit} in, as
      <select
        class="in-sentence"
        aria-label="Look of eyelets"
        value={finishing.eyelets.look}
        onchange={(event) => eyelets({ look: event.currentTarget.value as Eyelets['look'] })}
      >
        <option value="mark">crosses</option><option value="ring">printed rings</option>
      </select>
      of <LengthBox
        sentence
        label="Diameter of eyelets"
        {unit}
        value={finishing.eyelets.diameter}
        min={2}
        max={100}
        onchange={(diameter) => eyelets({ diameter })}
      />
      {unit}: <span class="measure" data-testid="eyelets">{places}</span> in all{/if}.
    {#if marked}
      All in
      <select
        class="in-sentence"
        aria-label="Ink of marks"
        value={finishing.ink}
        onchange={(event) => change({ ink: event.currentTarget.value as Finishing['ink'] })}
      >
        <option value="registration">every ink</option><option value="black">black alone</option>
      </select>.
    {/if}
  </p>
  <div>
    <LengthBox sentence label="Hem" {unit} value={finishing.hem} max={500} onchange={(hem) => change({ hem })} />
    {unit} of hem;
    <details class="inline-block align-top">
      <summary class="cursor-pointer list-none"
        ><span class="link"
          >{pocketed.length === 0
            ? 'no pole pockets'
            : `pole pockets ${pocketed.map((edge) => `${edge} ${formatLength(finishing.pockets[edge], unit)}`).join(', ')}`}</span
        >;</summary
      >
      <span class="flex flex-wrap gap-x-3">
        {#each EDGES as edge (edge)}<span
            >{edge}
            <LengthBox
              sentence
              label="Pocket at the {edge}"
              {unit}
              value={finishing.pockets[edge]}
              max={1000}
              onchange={(mm) => change({ pockets: { ...finishing.pockets, [edge]: mm } })}
            /></span
          >{/each}
      </span>
    </details>
    {#each finishing.folds as fold, i (i)}
      fold at <LengthBox
        sentence
        label="Fold {i + 1}"
        {unit}
        value={fold}
        max={60_000}
        onchange={(mm) => change({ folds: finishing.folds.map((one, j) => (j === i ? mm : one)) })}
      />
      {unit} from the top
      <button
        class="link text-sm"
        onclick={() => change({ folds: finishing.folds.filter((_, j) => j !== i) })}
        aria-label="Remove fold {i + 1}">remove</button
      >,
    {/each}
    <button
      class="link text-sm"
      disabled={finishing.folds.length >= 20}
      onclick={() => change({ folds: [...finishing.folds, Math.round(heightMm / 2)] })}>add a fold</button
    >.
  </div>
  <p>
    <select
      class="in-sentence"
      aria-label="Caption"
      value={finishing.caption ? 'caption' : finishing.numbered ? 'number' : 'no'}
      onchange={(event) =>
        change({ caption: event.currentTarget.value === 'caption', numbered: event.currentTarget.value === 'number' })}
    >
      <option value="no">Nothing written beside it</option>
      <option value="number">Each copy numbered beside it</option>
      <option value="caption">Docket, customer, media and number beside it</option>
    </select>; on the {view.condition && view.condition.sheetMm !== null ? 'sheet' : 'roll'}
    <select
      class="in-sentence"
      aria-label="All copies are"
      value={String(finishing.turn)}
      onchange={(event) => change({ turn: Number(event.currentTarget.value) as Finishing['turn'] })}
    >
      {#each [0, 90, 180, 270] as const as turn (turn)}<option value={String(turn)}>{TURNS[turn]}</option>{/each}
    </select>.
  </p>
</section>
