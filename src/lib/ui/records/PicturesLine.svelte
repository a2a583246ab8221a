<script lang="ts">
  import type { PicturesRef } from '$core/records/choices';
  import { counted } from '$core/units/counted';
  import { early } from '$lib/ui/common/early';
  import type { PicturesReply } from './send-table';

  interface Props {
    pictures: PicturesRef | null;
    /** What came last. */
    taken: PicturesReply | null;
    busy: boolean;
    onfile: (file: File) => void;
  }
  let { pictures, taken, busy, onfile }: Props = $props();
</script>

<section aria-label="Pictures" class="space-y-2">
  <h2 class="panel-title">Pictures</h2>
  <p class="text-base-content/80 text-sm">
    {#if pictures}<span class="text-base-content text-base"
        ><span class="font-semibold">{counted(pictures.count, 'picture')}</span> from
        <em class="break-all">{pictures.name}</em>.</span
      >
    {/if}
    A field shows the picture whose name it says, with its ending or without; one that is not {pictures
      ? 'in there'
      : 'in a zip that you give'} is looked for among the artwork.
  </p>
  <p class="flex flex-wrap gap-2">
    <label class="btn btn-sm {busy ? 'btn-disabled' : ''}"
      >{pictures ? 'Another zip' : 'Take a zip of pictures'}<input
        type="file"
        {@attach early}
        class="sr-only"
        accept=".zip"
        disabled={busy}
        onchange={(event) => {
          const [file] = event.currentTarget.files ?? [];
          if (file) onfile(file);
          event.currentTarget.value = '';
        }}
      /></label
    >
    {#if busy}<span class="loading loading-spinner loading-sm" role="status" aria-label="The pictures are unpacked"></span>{/if}
  </p>
  {#if taken && taken.leftOutCount > 0}
    <details class="text-sm">
      <summary class="cursor-pointer py-1">{counted(taken.leftOutCount, 'file')} of the zip left out</summary>
      <ul>
        {#each taken.leftOut as { name, why } (name)}<li class="break-all"><em>{name}</em>: {why}.</li>{/each}
        {#if taken.leftOutCount > taken.leftOut.length}<li>…</li>{/if}
      </ul>
    </details>
  {/if}
</section>
