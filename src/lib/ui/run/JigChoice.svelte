<script lang="ts">
  import { emptyIn } from '$core/layout/in-pockets';
  import { isJig, type Placement, type PocketRule, type Stock } from '$core/layout/placement';
  import { turnedSize } from '$core/geometry/matrix';
  import { counted } from '$core/units/counted';
  import type { LengthUnit } from '$core/units/length';
  import ChoiceBox from '$lib/ui/common/ChoiceBox.svelte';
  import PocketSentence from '$lib/ui/jig/PocketSentence.svelte';
  import SquareUp from './SquareUp.svelte';
  import { lengthOf, sizeOf } from '$lib/ui/common/shop-unit';

  /** What a run on a flatbed is placed in: the sheet, or a jig and how pieces lie in its pockets. */
  let {
    stock,
    rule,
    layout,
    pieces,
    otherwise,
    mostThingMm,
    jigs,
    unit,
    disabled,
    onjig,
    onchange
  }: {
    stock: Stock;
    rule: PocketRule;
    layout: Placement;
    /** Their finished sizes, and times that in their pockets. */
    pieces: readonly { name: string; widthMm: number; heightMm: number; scale: number }[];
    /** Names of dockets whose tickets say that they lie otherwise. */
    otherwise: readonly string[];
    /** How high things may stand on this machine's bed; 0 where it does not say. */
    mostThingMm: number;
    jigs: readonly { id: number; name: string }[];
    unit: LengthUnit;
    disabled: boolean;
    onjig: (id: number | null) => void;
    onchange: (part: Partial<PocketRule>) => void;
  } = $props();

  const SHARING = [['in order', 'docket after docket'], ['by rows', 'each row one docket’s'], ['in turn', 'dockets in turn'], ['by hand', 'by hand']] as const; // prettier-ignore
  const jig = $derived(isJig(stock) ? stock.jig : undefined);
  const last = $derived(layout.parts.at(-1));
  const empty = $derived(isJig(stock) && last ? emptyIn(stock, last) : []);
  /** Numbers in a row as one: 3–9, 12. */
  function spans(numbers: readonly number[]): string {
    const said: [number, number][] = [];
    for (const n of [...numbers].sort((p, q) => p - q)) {
      const before = said.at(-1);
      if (before && n === before[1] + 1) before[1] = n;
      else said.push([n, n]);
    }
    const words = said.map(([from, to]) => (from === to ? String(from) : `${from}–${to}`));
    return words.length > 12 ? `${words.slice(0, 12).join(', ')} …` : words.join(', ');
  }
  const loads = $derived.by(() => {
    const counts = layout.parts.map(({ copies }) => copies.length);
    const [first, rest] = [counts[0] ?? 0, counts.at(-1) ?? 0];
    if (counts.length < 2) return `1 load: ${first}`;
    if (first === rest) return `${counts.length} loads of ${first}`;
    return `${counts.length} loads: ${first}${counts.length > 2 ? ' each' : ''}, then ${rest}`;
  });
  /** Pieces of which an edge is lost; bleed is there to be. */
  const lost = $derived.by(() => {
    if (!jig || rule.edge !== 'cut off' || rule.size !== 'own') return [];
    const { width, height } = jig.thing;
    return pieces.filter(({ widthMm, heightMm }) => {
      const size = turnedSize(widthMm, heightMm, rule.turn);
      return size.width > width + ALIKE_MM || size.height > height + ALIKE_MM;
    });
  });
  const ALIKE_MM = 0.1;
</script>

<section aria-label="Jig">
  <h2 class="panel-title mb-1">Jig</h2>
  <fieldset {disabled} class="leading-9">
    Placed on
    <select
      class="in-sentence"
      aria-label="Placed on"
      value={String(jig?.id ?? '')}
      onchange={(event) => onjig(event.currentTarget.value === '' ? null : Number(event.currentTarget.value))}
    >
      <option value="">the sheet</option>
      {#each jigs as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
    </select>{#if !jig}.
      <a class="link text-sm" href="/shop/jigs">{jigs.length === 0 ? 'Make a jig for things that lie in places' : 'Jigs'}</a>
    {:else}
      (<a class="link text-sm" href="/shop/jigs/{jig.id}">its places</a>).
      <PocketSentence {rule} {unit} {onchange} /> Pockets are filled
      <ChoiceBox label="Pockets are filled" value={rule.sharing} words={SHARING} onchange={(sharing) => onchange({ sharing })} />.
    {/if}
  </fieldset>
  {#each otherwise as name, i (i)}
    <p class="text-warning" role="status">
      ! The ticket of {name} says that it lies otherwise. It is printed as it is said here.
    </p>
  {/each}
  {#if jig}
    <fieldset {disabled}>
      {#if isJig(stock)}<SquareUp {stock} touched={rule.touched} {unit} onchange={(touched) => onchange({ touched })} />{/if}
    </fieldset>
    {#if jig.thicknessMm === null}
      <p class="text-warning" role="status">
        ! How high its things stand is not said: the head is set for the sheet alone. <a class="link" href="/shop/jigs/{jig.id}"
          >Say it</a
        >.
      </p>
    {:else if mostThingMm > 0 && jig.thicknessMm > mostThingMm}
      <p class="text-error" role="status">
        ✕ Its things stand {lengthOf(jig.thicknessMm)} high; this machine takes {lengthOf(mostThingMm)}.
      </p>
    {/if}
    {#each pieces.filter(({ scale }) => Math.abs(scale - 1) > 0.002) as { name, scale }, i (i)}
      <p class="text-sm">{name} prints at {(scale * 100).toFixed(1)} % of its size.</p>
    {/each}
    {#each lost as { name, widthMm, heightMm }, i (i)}
      <p class="text-warning" role="status">
        ! {name} is {sizeOf(widthMm, heightMm)} and a pocket {sizeOf(jig.thing.width, jig.thing.height)}: what is beyond its edge
        is lost.
      </p>
    {/each}
  {/if}
  {#if jig && last}
    <p>
      <span class="font-semibold">{loads}</span>{#if empty.length > 0 && last.copies.length > 0}. {layout.parts.length > 1
          ? 'The last fills'
          : 'It fills'}
        {spans(last.copies.flatMap(({ pocket }) => pocket ?? []))}; {counted(empty.length, 'pocket stays', 'pockets stay')} empty{/if}.
    </p>
    <p class="text-base-content/70 text-sm">
      What lies in a jig is not cut: cut lines of its dockets are left alone, and no marks are printed beside it.
    </p>
  {/if}
</section>
