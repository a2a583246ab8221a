<script lang="ts">
  import type { Override } from '$core/records/choices';

  interface Props {
    /** The record that is shown. */
    record: number;
    /** What it has otherwise than the others in this field. */
    own: Override | undefined;
    /** Changes are of this record alone. */
    alone: boolean;
    /** What the field says of it as of all others. */
    others: string;
    onsay: (text: string | null) => void;
    onback: () => void;
  }
  let { record, own, alone = $bindable(), others, onsay, onback }: Props = $props();

  const what = $derived(
    own
      ? [own.text !== null && 'text', own.size !== null && 'size', own.place !== null && 'place'].filter(Boolean).join(', ')
      : ''
  );
</script>

<label class="mb-2 flex items-center gap-1 text-sm"
  ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={alone} />Change record {record} alone</label
>
{#if alone || own}
  <div class="bg-base-200 mb-2 space-y-1 p-2 text-sm">
    <label class="block"
      >Record {record} says
      <input
        class="input input-sm w-full"
        maxlength="2000"
        placeholder={others}
        value={own?.text ?? ''}
        onchange={(event) => onsay(event.currentTarget.value === '' ? null : event.currentTarget.value)}
      /></label
    >
    {#if own}<p>It has {what} of its own. <button class="btn btn-xs" onclick={onback}>As all others</button></p>{/if}
  </div>
{/if}
