<script lang="ts">
  import type { FieldColour } from '$core/records/field';

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
</script>

<select class="in-sentence" aria-label={label} value={kind} onchange={(event) => onchange(STARTS[event.currentTarget.value]!)}>
  <option value="black">black alone</option><option value="rgb">a colour</option><option value="inks">inks</option><option
    value="spot">a spot colour</option
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
    <input
      class="in-sentence min-w-24"
      aria-label="{label}: name of the spot colour"
      placeholder="its name"
      maxlength="100"
      value={colour.name}
      onchange={(event) => onchange({ ...colour, name: event.currentTarget.value.trim() })}
    />, else in
  {/if}
  {#each PROCESS as ink, i (ink)}
    <label class="flex items-center gap-0.5" title={ink}
      >{ink[0] === 'B' ? 'K' : ink[0]}<input
        class="in-sentence w-12 text-center"
        type="number"
        min="0"
        max="100"
        aria-label="{label}: {ink}, %"
        value={Math.round(colour.inks[i]! * 100)}
        onchange={(event) => {
          const share = Math.max(0, Math.min(1, Number(event.currentTarget.value) / 100 || 0));
          onchange({ ...colour, inks: colour.inks.map((v, k) => (k === i ? share : v)) as typeof colour.inks });
        }}
      /></label
    >
  {/each}
{/if}
