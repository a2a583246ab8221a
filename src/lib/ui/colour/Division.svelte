<script lang="ts">
  import type { ToneGrain } from '$core/calibration/tone-grain';
  import { inkCurves } from '$core/inks/divide';
  import { PROCESS_CHANNELS, type InkSet } from '$core/inks/ink-set';
  import Plot from '$lib/ui/common/Plot.svelte';
  import { INK_LINES } from './show';

  /** How each channel with a light ink is divided between that and its dark one. */
  interface Props {
    inks: InkSet;
    curves: readonly (readonly number[])[];
    grain: Promise<ToneGrain[]>;
  }
  let { inks, curves, grain }: Props = $props();

  const divided = $derived(inkCurves(inks, Object.fromEntries(PROCESS_CHANNELS.map((name, i) => [name, curves[i] ?? []]))));
  const channels = $derived(
    PROCESS_CHANNELS.filter((channel) => inks.some((ink) => ink.channel === channel && ink.role === 'light')).map((channel) => {
      const own = inks.flatMap((ink, i) => (ink.channel === channel ? [{ ink, curve: divided[i]! }] : []));
      const dark = own.find(({ ink }) => ink.role !== 'light')?.curve;
      /** From where on the dark ink stands in for the light one. */
      const from = dark ? dark.findIndex((share) => share > 0.005) : -1;
      return { channel, own, from };
    })
  );
  const line = (channel: string) => INK_LINES[channel.toLowerCase() as keyof typeof INK_LINES];
</script>

<section aria-label="Light inks">
  <h3 class="font-semibold">How channels are divided between their light and dark inks</h3>
  <div class="grid grid-cols-3 gap-4">
    {#each channels as { channel, own, from } (channel)}
      <Plot
        height={200}
        label="{channel}: {own.map(({ ink }) => ink.name).join(' and ')}; {channel.toLowerCase()} itself begins at {Math.round(
          (from / 255) * 100
        )} %"
        data={own.map(({ ink, curve }) => ({
          x: Array.from(curve, (_, v) => (v / 255) * 100),
          y: Array.from(curve, (share) => share * 100),
          mode: 'lines' as const,
          line: { color: line(channel), dash: ink.role === 'light' ? ('dash' as const) : ('solid' as const) },
          name: ink.name
        }))}
        layout={{ xaxis: { title: { text: `${channel.toLowerCase()}, value %` } }, yaxis: { title: { text: 'drops, %' } } }}
      />
    {/each}
  </div>
  {#await grain then found}
    {#if found.length > 0}
      <p class="text-sm">
        Grain at 25 %, ΔL* within a millimetre:
        {#each found as one, i (one.channel)}{i > 0 ? '; ' : ''}{one.channel.toLowerCase()}
          <span class="measure">{one.with.toFixed(2)}</span>, {one.without.toFixed(2)} without its light ink{/each}.
      </p>
    {/if}
  {/await}
</section>
