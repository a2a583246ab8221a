<script lang="ts">
  import type { Press } from '$core/media/press';

  interface Props {
    printId: number;
    media: Press['media'];
    /** Whether something of it is varnished. */
    varnished: boolean;
    onclose: () => void;
  }
  let { printId, media, varnished, onclose }: Props = $props();

  type Side = 'front' | 'behind' | 'gloss';
  let from = $state<Side>('front');
  let backing = $state('#ffffff');
  const seesThrough = $derived(media.body === 'clear' || media.body === 'translucent');
  const SIDES = $derived<[Side, string][]>([
    ['front', 'from the front'],
    ...(seesThrough ? [['behind', 'from behind'] satisfies [Side, string]] : []),
    ...(varnished ? [['gloss', 'by how it shines'] satisfies [Side, string]] : [])
  ]);
  const address = $derived(`/api/prints/${printId}/output?from=${from}&backing=${encodeURIComponent(backing)}`);
  let dialog: HTMLDialogElement;
  $effect(() => dialog.showModal());
</script>

<dialog class="modal" bind:this={dialog} aria-label="What came out" {onclose}>
  <div class="modal-box max-w-5xl">
    <h2 class="mb-2 text-lg font-semibold">What came out of the machine, print {printId}</h2>
    {#if SIDES.length > 1}
      <p class="mb-2 flex items-center gap-2 text-sm">
        Seen
        <select class="in-sentence" aria-label="Seen" bind:value={from}>
          {#each SIDES as [side, words] (side)}<option value={side}>{words}</option>{/each}
        </select>
        {#if seesThrough && from !== 'gloss'}<label class="flex items-center gap-1"
            >over <input
              type="color"
              class="h-5 w-7 cursor-pointer"
              aria-label="What is behind it"
              value={backing}
              onchange={(event) => (backing = event.currentTarget.value)}
            /></label
          >{/if}
      </p>
    {/if}
    <div class="bg-base-300 max-h-[70vh] overflow-auto p-3">
      <img src={address} alt="What came out of the machine" class="mx-auto" style="max-width: 100%" />
    </div>
    <div class="modal-action">
      <a class="btn btn-sm" href={address} target="_blank" rel="noreferrer">At full size</a>
      <button class="btn btn-sm" onclick={() => dialog.close()}>Close</button>
    </div>
  </div>
</dialog>
