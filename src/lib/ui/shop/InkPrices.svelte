<script lang="ts">
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import { attempt, send } from '$lib/ui/common/client';

  /** What a ml of each ink of a printer costs: what the shop pays for any, until it says otherwise of one. */
  interface Props {
    machine: { id: number; name: string };
    inks: readonly { name: string; colour: string; price: number | null }[];
    usual: number;
    currency: string;
  }
  let { machine, inks, usual, currency }: Props = $props();

  const own = $derived(inks.filter(({ price }) => price !== null));
  const inWords = $derived(
    own.length === 0
      ? `${inks.length} inks, ${currency}${usual} a ml`
      : `${inks.length} inks, ${own.length} at ${own.length === 1 ? 'a price of its own' : 'prices of their own'}`
  );
  const set = (name: string, price: number | null) =>
    attempt(() => send('PUT', `/api/machines/${machine.id}`, { inkPrices: { [name]: price } }));
</script>

<details class="basis-full">
  <summary class="cursor-pointer py-0.5">{inWords}</summary>
  <ul class="flex flex-wrap gap-x-4 gap-y-1 py-1" aria-label="Inks of {machine.name}">
    {#each inks as { name, colour, price } (name)}
      <li>
        <label class="flex items-center gap-1"
          ><span class="border-base-content/40 inline-block h-4 w-4 border" style="background: {colour}"></span>
          <span class="w-24">{name}</span>
          <FigureBox
            class="input input-sm w-20 text-right"
            label="{name} of {machine.name}, a ml"
            decimals={4}
            max={1000}
            step={0.01}
            late
            placeholder={String(usual)}
            title="Empty: what the shop pays for any ink"
            value={price}
            onchange={(value) => set(name, value)}
            onempty={() => set(name, null)}
          />{currency} a ml</label
        >
      </li>
    {/each}
  </ul>
</details>
