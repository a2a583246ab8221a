<script lang="ts">
  import { BLACK_CHOICES } from '$core/colour/black';
  import type { BlackSetting } from '$lib/calibration';
  import Plot from '$lib/ui/common/Plot.svelte';
  import { send } from '$lib/ui/common/client';
  import { INK_LINES, percent } from './show';

  /** How much black greys are made with, and what that makes of them. */
  let { conditionId, black = $bindable() }: { conditionId: number; black: BlackSetting } = $props();

  const WORDS: Record<BlackSetting['choice'], string> = {
    none: 'none: black only where colours cannot be dark enough',
    light: 'light: from the dark tones on',
    medium: 'medium: from the mid tones on',
    heavy: 'heavy: greys mostly of black; colours may fall in them',
    own: 'own curve'
  };
  type Neutrals = { lightness: number; inks: number[] }[];
  let neutrals = $state<Neutrals>([]);
  let failed = $state('');
  let asked = 0;

  $effect(() => {
    const setting = $state.snapshot(black) as BlackSetting;
    const mine = ++asked;
    const timer = setTimeout(() => {
      send<Neutrals>('POST', `/api/conditions/${conditionId}/neutrals`, setting).then(
        (answer) => {
          if (mine === asked) [neutrals, failed] = [answer, ''];
        },
        (error: Error) => {
          if (mine === asked) failed = error.message;
        }
      );
    }, 150);
    return () => clearTimeout(timer);
  });

  function choose(choice: BlackSetting['choice']): void {
    if (choice === 'own') {
      const from = black.choice === 'own' ? black : BLACK_CHOICES[black.choice];
      black = { choice, steady: from.steady, curve: from.curve.map(([d, s]) => [d, s]) };
    } else black = { choice, steady: BLACK_CHOICES[choice].steady, curve: BLACK_CHOICES[choice].curve.map(([d, s]) => [d, s]) };
  }
</script>

<section aria-label="Black generation" class="space-y-2">
  <h3 class="font-semibold">Black generation</h3>
  <div class="grid grid-cols-[20rem_1fr] gap-6">
    <div class="space-y-2 text-sm">
      {#each Object.entries(WORDS) as [choice, words] (choice)}
        <label class="flex items-start gap-2"
          ><input
            type="radio"
            class="radio radio-sm"
            name="black"
            value={choice}
            checked={black.choice === choice}
            onchange={() => choose(choice as BlackSetting['choice'])}
          />{words}</label
        >
      {/each}
      {#if black.choice === 'own'}
        <table class="w-full text-right">
          <thead
            ><tr
              ><th scope="col" class="text-left font-normal">At darkness</th><th scope="col" class="font-normal"
                >of the possible black</th
              ></tr
            ></thead
          >
          <tbody>
            {#each black.curve as point, i (i)}
              <tr>
                <td class="text-left">{percent(point[0])}</td>
                <td
                  ><input
                    type="range"
                    class="range range-xs w-36"
                    min="0"
                    max="1"
                    step="0.02"
                    aria-label="Share of black at {percent(point[0])} darkness"
                    bind:value={point[1]}
                  /></td
                >
              </tr>
            {/each}
          </tbody>
        </table>
        <label class="flex items-center gap-2"
          ><input type="checkbox" class="checkbox checkbox-sm" bind:checked={black.steady} />colour inks never fall while greys
          darken</label
        >
      {/if}
    </div>
    <div>
      {#if failed}<p class="text-error text-sm">{failed}</p>{/if}
      <Plot
        label="Inks of a grey ramp from the media to the darkest, as this choice of black makes it"
        height={230}
        data={['cyan', 'magenta', 'yellow', 'black'].map((name, ink) => ({
          x: neutrals.map(({ lightness }) => 100 - lightness),
          y: neutrals.map(({ inks }) => (inks[ink] ?? 0) * 100),
          mode: 'lines' as const,
          line: { color: INK_LINES[name as 'cyan'], width: name === 'black' ? 3 : 2 },
          name
        }))}
        layout={{
          xaxis: { title: { text: 'darkness of a grey (100 − L*)' } },
          yaxis: { title: { text: 'value, %' }, range: [0, 102] }
        }}
      />
    </div>
  </div>
</section>
