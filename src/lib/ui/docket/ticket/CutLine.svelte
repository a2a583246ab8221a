<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import { layersOf, type PageLine } from '$core/artwork/facts';
  import { isTool, roleOf, toolOf } from '$core/artwork/roles';
  import { pageLine } from '$core/checks/cut-lines';
  import type { CutChoices, MadeLine } from '$core/artwork/cut-choices';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import MadeLineRow from './MadeLineRow.svelte';
  import type { TicketView } from './ticket';
  import { lengthOf } from '$lib/ui/common/shop-unit';

  interface Props {
    view: TicketView;
    /** The line whose nodes are edited, and the one whose background is picked. */
    editing: string | null;
    picking: string | null;
    onedit: (id: string) => void;
    onpick: (id: string) => void;
  }
  let { view, editing, picking, onedit, onpick }: Props = $props();

  const { choices } = $derived(view);
  const { unit } = $derived(view.settings);
  const { lines } = $derived(choices);
  const roleIn = (name: string) => roleOf(name, view.settings.rules, choices.roles);
  const customers = $derived(view.pageLines.filter((line) => toolOf(line, roleIn)));
  /** The spot colour or layer that makes a line a tool's. */
  const named = (line: PageLine) => [line.spot ?? '', ...layersOf(line)].find((name) => isTool(roleIn(name))) ?? '';
  const names = $derived([...new Set(customers.map(named))].join(', '));

  const set = (part: Partial<CutChoices>) => view.change({ lines: { ...lines, ...part } });
  const setLine = (line: MadeLine) => set({ made: lines.made.map((one) => (one.id === line.id ? line : one)) });
  function add(): void {
    const taken = new Set(lines.made.map((line) => line.id));
    const number = Array.from({ length: 21 }, (_, i) => i + 1).find((n) => !taken.has(`line-${n}`)) ?? 1;
    view.change({ cut: true, lines: { ...lines, made: [...lines.made, { ...pageLine(), id: `line-${number}` }] } });
  }
  const nodesOf = (id: string) =>
    view.finished
      .filter((line) => line.id === id)
      .reduce((sum, line) => sum + line.outline.filter((s) => s.kind !== 'close').length, 0);
  const hasKiss = $derived(view.finished.some((line) => line.tool === 'kiss cut' && line.id !== 'weed'));
  const hasThrough = $derived(view.finished.some((line) => line.tool === 'through cut'));
  const hasPerforation = $derived(view.finished.some((line) => line.tool === 'perforation'));
</script>

<section aria-label="Cut">
  <h2 class="panel-title leading-4">Cut</h2>
  <p>
    <select
      class="in-sentence"
      aria-label="Cutting"
      value={choices.cut ? 'cut' : 'not'}
      onchange={(event) => view.change({ cut: event.currentTarget.value === 'cut' })}
    >
      <option value="cut">Cut</option>
      <option value="not">Not cut</option>
    </select>{#if choices.wall}{choices.cut
        ? ': panels along their own edges.'
        : ': panels are trimmed by hand.'}{:else if !choices.cut}.{:else if customers.length > 0},
      <select
        class="in-sentence"
        aria-label="Customer’s lines"
        value={lines.customer.use ? 'use' : 'leave'}
        onchange={(event) => set({ customer: { ...lines.customer, use: event.currentTarget.value === 'use' } })}
      >
        <option value="use">on the customer’s {customers.length === 1 ? 'line' : `${customers.length} lines`}</option>
        <option value="leave">not on the customer’s {customers.length === 1 ? 'line' : 'lines'}</option>
      </select>
      ({names}){#if lines.customer.use},
        <LengthBox
          sentence
          label="Offset of the customer’s lines"
          {unit}
          value={lines.customer.offsetMm}
          min={-50}
          max={50}
          onchange={(offsetMm) => set({ customer: { ...lines.customer, offsetMm } })}
        />
        {unit}
        {lines.customer.offsetMm < 0 ? 'inside' : 'outside'}{/if}.
    {:else}. The artwork has no cut line of its own.{/if}
    {#if choices.cut}<span class="text-base-content/70">Registration marks of {lengthOf(6)} go around.</span>{/if}
  </p>
  {#if choices.cut && !choices.wall}
    <ol class="my-1 space-y-2">
      {#each lines.made as line, i (line.id)}
        <MadeLineRow
          docketId={view.docket.id}
          version={view.docket.version}
          {line}
          number={i + 1}
          {unit}
          nodes={nodesOf(line.id)}
          editing={editing === line.id}
          picking={picking === line.id}
          onchange={setLine}
          onedit={() => onedit(line.id)}
          onpick={() => onpick(line.id)}
          onremove={() => set({ made: lines.made.filter((one) => one.id !== line.id) })}
        />
      {/each}
    </ol>
  {/if}
  {#if !choices.wall}<p class="flex flex-wrap gap-2">
      <button class="btn btn-xs" disabled={lines.made.length >= 20} onclick={add}
        ><Plus size={14} aria-hidden="true" />Add a cut line</button
      >
      {#if choices.cut && customers.length > 0 && lines.customer.use}
        <button class="btn btn-xs" onclick={() => onedit('customer')}>Edit the customer’s nodes</button>
      {/if}
    </p>{/if}
  {#if hasKiss}
    <p>
      Weeding with
      <select
        class="in-sentence"
        aria-label="Weed border"
        value={lines.weed.border ? 'border' : 'none'}
        onchange={(event) => set({ weed: { ...lines.weed, border: event.currentTarget.value === 'border' } })}
      >
        <option value="none">no border</option><option value="border">a border</option>
      </select>{#if lines.weed.border}
        <LengthBox
          sentence
          label="Weed margin"
          {unit}
          value={lines.weed.marginMm}
          max={100}
          onchange={(marginMm) => set({ weed: { ...lines.weed, marginMm } })}
        />
        {unit} around{/if}, {lines.weed.everyMm > 0 ? 'lines every' : 'no lines; every'}
      <LengthBox
        sentence
        label="Weed lines every"
        {unit}
        value={lines.weed.everyMm}
        max={5000}
        onchange={(everyMm) => set({ weed: { ...lines.weed, everyMm } })}
      />
      {unit}.
    </p>
  {/if}
  {#if hasThrough}
    <p>
      The through cut is held by
      <FigureBox
        sentence
        label="Tabs"
        min={0}
        max={50}
        value={lines.tabs.count}
        onchange={(count) => set({ tabs: { ...lines.tabs, count } })}
      />
      tabs{#if lines.tabs.count > 0}&nbsp;of
        <LengthBox
          sentence
          label="Length of a tab"
          unit="mm"
          min={0.1}
          max={20}
          value={lines.tabs.lengthMm}
          onchange={(lengthMm) => set({ tabs: { ...lines.tabs, lengthMm } })}
        /> mm{/if}.
    </p>
  {/if}
  {#if hasPerforation}
    <p>
      Perforated:
      <LengthBox
        sentence
        label="Cut length"
        unit="mm"
        min={0.2}
        max={100}
        value={lines.perforation.cutMm}
        onchange={(cutMm) => set({ perforation: { ...lines.perforation, cutMm } })}
      />
      mm cut,
      <LengthBox
        sentence
        label="Skip length"
        unit="mm"
        min={0.1}
        max={100}
        value={lines.perforation.skipMm}
        onchange={(skipMm) => set({ perforation: { ...lines.perforation, skipMm } })}
      />
      mm skipped.
    </p>
  {/if}
</section>
