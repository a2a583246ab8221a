<script lang="ts">
  import { pieceOf } from '$core/layout/pieces';
  import type { PlacedCopy, StockJig } from '$core/layout/placement';
  import type { RunPiece } from '$core/layout/run-piece';
  import AgainTools from './AgainTools.svelte';
  import HandTools from './HandTools.svelte';
  import PocketTools from './PocketTools.svelte';
  import type { Hand } from './hand.svelte';

  /** What may be done with the copies that are chosen on a run’s picture; nothing while none are. */
  interface Props {
    hand: Hand;
    dockets: readonly { id: number; name: string }[];
    pieces: ReadonlyMap<string, RunPiece>;
    /** Where it lies in one. */
    jig: StockJig | undefined;
    byHand: boolean;
    /** It is still being laid out. */
    open: boolean;
    /** What was RIPped can be printed once more. */
    onagain?: ((copies: readonly PlacedCopy[]) => void) | undefined;
    /** Panels can be put into a run of their own. */
    onapart?: ((copies: readonly PlacedCopy[]) => void) | undefined;
  }
  let { hand, dockets, pieces, jig, byHand, open, onagain, onapart }: Props = $props();

  const { found } = $derived(hand);
  const copies = $derived(found.map(({ copy }) => copy));
  const records = $derived(copies.flatMap(({ record }) => record ?? []));
  const names = $derived([
    ...new Set(
      copies.map(({ id }) => {
        const name = dockets.find((docket) => String(docket.id) === pieceOf(id).docket)?.name ?? '';
        const { panel } = pieces.get(id) ?? {};
        return panel ? `${name}, panel ${panel.number}` : name;
      })
    )
  ]);
  const arePanels = $derived(copies.every(({ id }) => pieces.get(id)?.panel));
</script>

{#if copies.length > 0}
  {#if open && jig}
    <PocketTools {copies} pockets={jig.pockets} {byHand} onto={(pocket) => hand.toPocket(pocket)} />
  {:else if open}
    <HandTools
      count={copies.length}
      pinned={copies.every(({ pinned }) => pinned)}
      mayTurn={hand.mayTurn}
      onpin={(on) => hand.hold(on)}
      onturn={() => hand.turn()}
      onalign={(edge) => hand.align(edge)}
      ondistribute={(along) => hand.distribute(along)}
    />
  {/if}
  {#if !open || records.length > 0 || arePanels}
    <AgainTools
      {copies}
      {records}
      {names}
      onagain={onagain && (() => onagain(copies))}
      onapart={onapart && arePanels ? () => onapart(copies) : undefined}
    />
  {/if}
{/if}
