<script lang="ts">
  import ChevronLeft from '@lucide/svelte/icons/chevron-left';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import { toast } from 'svelte-sonner';

  import type { RecordPrinted } from '$lib/server/printing/print';
  import { day } from '$lib/ui/colour/show';

  interface Props {
    /** The record that is shown. */
    record: number;
    /** Of all that are printed, in their order. */
    numbers: readonly number[];
    /** When it was printed, the newest first. */
    prints: readonly RecordPrinted[];
    onshow: (record: number) => void;
  }
  let { record, numbers, prints, onshow }: Props = $props();

  const place = $derived(numbers.indexOf(record));
  const step = (by: number) => onshow(numbers[place + by] ?? record);
  function typed(event: Event & { currentTarget: HTMLInputElement }): void {
    const text = event.currentTarget.value.trim();
    if (numbers.includes(Number(text))) return onshow(Number(text));
    event.currentTarget.value = String(record);
    toast.error(`${text === '' ? 'That' : `“${text}”`} is no record that is printed here.`);
  }
</script>

<div class="ml-auto flex flex-wrap items-center justify-end gap-1">
  {#if prints[0]}
    {@const [{ runId, endedAt }] = prints}
    <span class="mr-2 text-sm whitespace-nowrap"
      >printed {day(endedAt)}, <a class="link" href="/runs/{runId}">run {runId}</a>{prints.length > 1
        ? ` and ${prints.length - 1} more`
        : ''}</span
    >
  {/if}
  <span class="flex items-center gap-1">
    <button class="btn btn-sm btn-square" disabled={place <= 0} aria-label="The record before" onclick={() => step(-1)}
      ><ChevronLeft size={16} /></button
    >
    <label class="text-sm whitespace-nowrap"
      >Record <input
        class="input input-sm w-20 text-right"
        inputmode="numeric"
        aria-label="Record that is shown"
        value={record}
        onchange={typed}
      />
      ({(place + 1).toLocaleString('en-GB')} of {numbers.length.toLocaleString('en-GB')})</label
    >
    <button
      class="btn btn-sm btn-square"
      disabled={place >= numbers.length - 1}
      aria-label="The next record"
      onclick={() => step(1)}><ChevronRight size={16} /></button
    >
  </span>
</div>
