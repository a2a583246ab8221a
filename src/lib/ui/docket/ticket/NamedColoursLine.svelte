<script lang="ts">
  import Trash from '@lucide/svelte/icons/trash-2';
  import type { ColourChange } from '$core/artwork/colour-changes';
  import { roleOf } from '$core/artwork/roles';
  import { readLab } from '$core/colour/named-colour';
  import { pageWithFields } from '$core/records/field-spots';
  import type { DocketFlat, DocketSpot, ShopColour } from '$lib/named-colours';
  import ColourPicker from '$lib/ui/colour/ColourPicker.svelte';
  import Swatches from '$lib/ui/colour/Swatches.svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import type { TicketView } from './ticket';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  /** Spot colours and flat colours that print in named colours of the shop. */
  let { view, picking, onpick }: { view: TicketView; picking: string | null; onpick: (id: string) => void } = $props();

  const { choices, docket, settings } = $derived(view);
  let known = $state.raw<{ spots: DocketSpot[]; flats: DocketFlat[] }>({ spots: [], flats: [] });
  let choosing = $state<string | null>(null);
  let typing = $state('');
  let isTyping = $state(false);

  const hasAny = $derived(
    pageWithFields(docket.artwork.facts, choices.records.fields).spots.length > 0 || choices.colours.length > 0
  );
  // What is saved is what the server knows of.
  $effect(() => {
    const { id, version } = docket;
    if (!hasAny) return;
    void [version, view.coloursVersion];
    let isLeft = false;
    let again: ReturnType<typeof setTimeout> | undefined;
    // A server that is busy or away is asked once more: what it said before is of other colours.
    const ask = async (): Promise<void> => {
      try {
        const of = await send<typeof known>('GET', `/api/dockets/${id}/colours`);
        if (!isLeft) known = of;
      } catch {
        if (!isLeft) again = setTimeout(() => void ask(), ASK_AGAIN_MS);
      }
    };
    void ask();
    return () => {
      isLeft = true;
      clearTimeout(again);
    };
  });
  const ASK_AGAIN_MS = 2000;

  const spots = $derived(
    known.spots.filter(({ name }) => (roleOf(name, settings.rules, choices.roles) ?? 'prints') === 'prints')
  );
  const flats = $derived(
    choices.colours.flatMap((change, at) => ('flat' in change.what ? [{ what: change.what, to: change.to, at }] : []))
  );
  const keyOf = (what: ColourChange['what']) => ('spot' in what ? `spot ${what.spot}` : `flat ${what.flat.join()}`);
  const saidOf = (name: string) => choices.colours.find(({ what }) => 'spot' in what && what.spot === name);

  function put(what: ColourChange['what'], to: number | null): void {
    const key = keyOf(what);
    const rest = choices.colours.filter((change) => keyOf(change.what) !== key);
    view.change({ colours: [...rest, { what, to }] });
    choosing = null;
  }
  const drop = (what: ColourChange['what']) =>
    view.change({ colours: choices.colours.filter((change) => keyOf(change.what) !== keyOf(what)) });
  function choose(spot: DocketSpot, value: string): void {
    const what = { spot: spot.name };
    if (value === 'name') drop(what);
    else if (value === 'file') put(what, null);
    else if (value === 'other') choosing = keyOf(what);
  }
  function pickFor(colour: ShopColour, what: ColourChange['what']): void {
    put(what, colour.id);
  }
  /** The file's own colour becomes the shop's, under its name. */
  const take = ({ name, file }: DocketSpot) =>
    attempt(
      () =>
        send('POST', '/api/colours', {
          name,
          lab: file,
          from: docket.customer,
          note: `From ${docket.artwork.name}`,
          collection: '',
          others: []
        }),
      `${name} is a colour of the shop now.`
    );
  function type(): void {
    const lab = readLab(typing);
    if (!lab) return;
    put({ flat: lab, within: 3 }, null);
    typing = '';
    isTyping = false;
  }
</script>

{#snippet left(made: DocketSpot['made'])}
  {#if made}<span class="ml-auto text-xs whitespace-nowrap {made.isInReach ? '' : 'text-warning'}"
      >ΔE00 {made.deltaE.toFixed(1)}{made.isInReach ? '' : ', out of reach'}</span
    >{/if}
{/snippet}

<section aria-label="Colours by name">
  {#if spots.length > 0}
    <h3 class="panel-title mt-2 leading-4">Colours by name</h3>
    <ul class="space-y-1 text-sm leading-6">
      {#each spots as spot (spot.name)}
        {@const said = saidOf(spot.name)}
        {@const value = said === undefined ? 'name' : said.to === null ? 'file' : 'chosen'}
        <li>
          <div class="flex flex-wrap items-center gap-2">
            {#if spot.prints}<Swatches asked={spot.prints.lab} reached={spot.made?.reached} />{:else if spot.file}<Swatches
                asked={spot.file}
              />{/if}
            {#if spot.prints}<a class="link min-w-0 truncate font-semibold" href="/colour/named/{spot.prints.id}">{spot.name}</a
              >{:else}<span class="min-w-0 truncate font-semibold">{spot.name}</span>{/if}
            <select
              class="in-sentence"
              aria-label="{spot.name} prints"
              {value}
              onchange={(event) => {
                choose(spot, event.currentTarget.value);
                event.currentTarget.value = value;
              }}
            >
              {#if spot.match.colour}<option value="name">{spot.match.colour.name} of the shop</option><option value="file"
                  >as the file shows it</option
                >{:else}<option value="name">as the file shows it</option>{/if}
              {#if value === 'chosen'}<option value="chosen">{spot.prints?.name ?? 'a colour that is gone'}</option>{/if}
              {#if value === 'file' && !spot.match.colour}<option value="file">as the file shows it, whatever its name</option
                >{/if}
              <option value="other">another colour…</option>
            </select>
            {@render left(spot.made)}
          </div>
          {#if !spot.prints && value === 'name'}
            <p class="flex flex-wrap gap-2 text-xs">
              {#each spot.match.near as near (near.id)}<button
                  class="btn btn-xs"
                  onclick={() => pickFor(near, { spot: spot.name })}>Is it {near.name}?</button
                >{/each}
              {#if spot.file}<button class="btn btn-xs" onclick={() => take(spot)}>Add it to the shop’s colours</button>{:else}<a
                  class="btn btn-xs"
                  href="/colour/named?name={encodeURIComponent(spot.name)}">Give it a colour</a
                >{/if}
            </p>
          {/if}
          {#if choosing === keyOf({ spot: spot.name })}
            <ColourPicker label="Colour for {spot.name}" onpick={(colour) => pickFor(colour, { spot: spot.name })} />
          {/if}
        </li>
      {/each}
    </ul>
  {/if}
  <ul class="space-y-1 text-sm leading-6">
    {#each flats as { what, to, at } (at)}
      {@const prints = known.flats[flats.findIndex((one) => one.at === at)]}
      <li>
        <div class="flex flex-wrap items-center gap-2">
          <Swatches asked={what.flat} reached={prints?.prints?.lab} />
          Flat colours within ΔE00
          <FigureBox
            sentence
            label="Tolerance"
            decimals={1}
            max={20}
            step={0.5}
            value={what.within}
            onchange={(within) => put({ ...what, within }, to)}
          />
          print
          <button class="btn btn-xs" onclick={() => (choosing = choosing === keyOf(what) ? null : keyOf(what))}
            >{prints?.prints ? `as ${prints.prints.name}` : 'as they are: choose a colour'}</button
          >
          {@render left(prints?.made ?? null)}
          <button
            class="btn btn-xs btn-ghost btn-square ml-auto"
            aria-label="Leave this flat colour as it is"
            onclick={() => drop(what)}><Trash size={14} /></button
          >
        </div>
        {#if choosing === keyOf(what)}<ColourPicker label="Colour for it" onpick={(colour) => pickFor(colour, what)} />{/if}
      </li>
    {/each}
  </ul>
  <p class="flex flex-wrap items-center gap-2 text-sm">
    <button class="btn btn-xs" aria-pressed={picking === 'colour'} onclick={() => onpick('colour')}
      >{picking === 'colour' ? 'Click it on the artwork' : 'Print a flat colour as a named one'}</button
    >
    {#if isTyping}
      <input
        class="input input-xs w-40"
        aria-label="Its L*, a*, b*"
        placeholder="48.5, 62.1, −33"
        bind:value={typing}
        onkeydown={(event) => event.key === 'Enter' && type()}
      /><button class="btn btn-xs" disabled={!readLab(typing)} onclick={type}>Add</button>
    {:else}<button class="link text-xs" onclick={() => (isTyping = true)}>or type its L*a*b*</button>{/if}
  </p>
</section>
