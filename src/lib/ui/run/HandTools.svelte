<script lang="ts">
  import type { Edge } from './by-hand';

  interface Props {
    count: number;
    pinned: boolean;
    mayTurn: boolean;
    onpin: (pinned: boolean) => void;
    onturn: () => void;
    onalign: (edge: Edge) => void;
    ondistribute: (along: boolean) => void;
  }
  let { count, pinned, mayTurn, onpin, onturn, onalign, ondistribute }: Props = $props();
</script>

<div
  class="bg-base-200 border-base-300 flex flex-wrap items-center gap-1 border-b px-4 py-1 text-sm"
  role="toolbar"
  aria-label="Selected copies"
>
  <span class="mr-2">{count === 1 ? 'One copy' : `${count} copies`}</span>
  <button class="btn btn-xs" onclick={() => onpin(!pinned)}>{pinned ? 'Unpin' : 'Pin here'}</button>
  <button class="btn btn-xs" disabled={!mayTurn} title={mayTurn ? '' : 'This docket stays upright'} onclick={onturn}
    >Turn by 90°</button
  >
  {#if count > 1}
    <span class="ml-2">Line up</span>
    <button class="btn btn-xs" onclick={() => onalign('left')}>left edges</button>
    <button class="btn btn-xs" onclick={() => onalign('right')}>right edges</button>
    <button class="btn btn-xs" onclick={() => onalign('start')}>starts</button>
    <button class="btn btn-xs" onclick={() => onalign('end')}>ends</button>
  {/if}
  {#if count > 2}
    <span class="ml-2">Equal gaps</span>
    <button class="btn btn-xs" onclick={() => ondistribute(false)}>across</button>
    <button class="btn btn-xs" onclick={() => ondistribute(true)}>along</button>
  {/if}
  <span class="text-base-content/70 ml-auto text-xs">Drag it to move it; Shift adds; arrows nudge by 1 mm</span>
</div>
