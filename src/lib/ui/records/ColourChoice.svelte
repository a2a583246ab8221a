<script lang="ts">
  import type { FieldColour } from '$core/records/field';
  import type { NameMatch, ShopColour } from '$lib/named-colours';
  import ColourPicker from '$lib/ui/colour/ColourPicker.svelte';
  import Swatches from '$lib/ui/colour/Swatches.svelte';
  import { send } from '$lib/ui/common/client';
  import PercentBox from '$lib/ui/common/PercentBox.svelte';

  interface Props {
    label: string;
    colour: FieldColour;
    onchange: (colour: FieldColour) => void;
  }
  let { label, colour, onchange }: Props = $props();

  const BLACK: FieldColour = { is: 'inks', inks: [0, 0, 0, 1] };
  const PROCESS = ['Cyan', 'Magenta', 'Yellow', 'Black'];
  const STARTS: Record<string, FieldColour> = {
    black: BLACK,
    rgb: { is: 'rgb', colour: '#1a3a8a' },
    inks: { is: 'inks', inks: [1, 0.6, 0, 0] },
    spot: { is: 'spot', name: '', inks: [1, 0.6, 0, 0] }
  };
  const kind = $derived(colour.is !== 'inks' ? colour.is : JSON.stringify(colour) === JSON.stringify(BLACK) ? 'black' : 'inks');

  const spot = $derived(colour.is === 'spot' ? colour : null);
  const name = $derived(spot?.name ?? '');
  let isChoosing = $state(false);
  /** What the shop knows of the name, once it has said. */
  let match = $state.raw<NameMatch | null>(null);
  $effect(() => {
    const asked = name;
    match = null;
    if (asked === '') return;
    const asking = new AbortController();
    // A server that is away leaves the name as it is: what it prints in, the ticket says.
    send<NameMatch[]>('POST', '/api/colours/match', { names: [asked] }, asking.signal)
      .then(([found]) => asking.signal.aborted || (match = found ?? null))
      .catch(() => undefined);
    return () => asking.abort();
  });
  const isNamed = $derived(match?.name === name && match.colour !== null);

  function take({ name }: ShopColour): void {
    isChoosing = false;
    if (spot) onchange({ ...spot, name });
  }
</script>

<select class="in-sentence" aria-label={label} value={kind} onchange={(event) => onchange(STARTS[event.currentTarget.value]!)}>
  <option value="black">black alone</option><option value="rgb">a colour</option><option value="inks">inks</option><option
    value="spot">a named colour</option
  >
</select>
{#if colour.is === 'rgb'}
  <input
    type="color"
    class="h-6 w-9 cursor-pointer"
    aria-label="{label}: which"
    value={colour.colour}
    onchange={(event) => onchange({ is: 'rgb', colour: event.currentTarget.value })}
  />
{:else if kind !== 'black'}
  {#if colour.is === 'spot'}
    {#if match?.colour}<Swatches asked={match.colour.lab} />{/if}
    <input
      class="in-sentence min-w-24"
      aria-label="{label}: its name"
      placeholder="its name"
      maxlength="100"
      value={colour.name}
      onchange={(event) => onchange({ ...colour, name: event.currentTarget.value.trim() })}
    />
    <button class="btn btn-xs" aria-label="{label}: choose of the shop’s" onclick={() => (isChoosing = !isChoosing)}
      >of the shop’s…</button
    >
  {/if}
  {#if !isNamed}
    {#if match && name !== ''}<span>is none of the shop’s colours: unless it has a role, it prints in</span>{/if}
    {#each PROCESS as ink, i (ink)}
      <label class="flex items-center gap-0.5" title={ink}
        >{ink[0] === 'B' ? 'K' : ink[0]}<PercentBox
          sentence
          label="{label}: {ink}, %"
          decimals={1}
          share={colour.inks[i]!}
          onchange={(share) =>
            onchange({ ...colour, inks: colour.inks.map((v, k) => (k === i ? share : v)) as typeof colour.inks })}
        /></label
      >
    {/each}
    {#each match?.near ?? [] as near (near.id)}<button class="btn btn-xs" onclick={() => take(near)}>Is it {near.name}?</button
      >{/each}
  {:else if match?.colour && match.colour.name !== name}
    <span>{match.colour.name} of the shop</span>
  {/if}
  {#if isChoosing}<div class="w-full"><ColourPicker label="{label}: find it" onpick={take} /></div>{/if}
{/if}
