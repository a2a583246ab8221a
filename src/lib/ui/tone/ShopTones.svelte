<script lang="ts">
  import { isPlainTone, type Tone } from '$core/colour/tone';
  import { attempt } from '$lib/ui/common/client';
  import { changeSettings } from '$lib/ui/shop/change-settings';

  /** Curves that the shop keeps by name: taken by a click, kept, forgotten. */
  let { tone, tones, onchange }: { tone: Tone; tones: readonly { name: string; tone: Tone }[]; onchange: (tone: Tone) => void } =
    $props();

  let name = $state('');
  function keep(): Promise<unknown> {
    const kept = { name: name.trim(), tone };
    return attempt(async () => {
      await changeSettings((now) => ({ tones: [...now.tones.filter((one) => one.name !== kept.name), kept] }));
      name = '';
    }, `The curves are kept as ${kept.name}.`);
  }
  const forget = (which: string) =>
    attempt(() => changeSettings((now) => ({ tones: now.tones.filter((one) => one.name !== which) })), `${which} is forgotten.`);
</script>

{#if tones.length > 0}
  <ul class="text-sm" aria-label="Tones of the shop">
    {#each tones as one (one.name)}
      <li class="flex items-center gap-2">
        <button class="link grow text-left" onclick={() => onchange(one.tone)}>{one.name}</button>
        <button class="btn btn-xs btn-ghost" aria-label="Forget {one.name}" onclick={() => forget(one.name)}>forget</button>
      </li>
    {/each}
  </ul>
{/if}
{#if !isPlainTone(tone)}
  <form
    class="flex gap-2"
    onsubmit={(event) => {
      event.preventDefault();
      if (name.trim() !== '') void keep();
    }}
  >
    <input
      class="input input-sm grow"
      aria-label="Keep these curves as"
      placeholder="Keep these curves as"
      maxlength="60"
      bind:value={name}
    />
    <button class="btn btn-sm" disabled={name.trim() === ''}>Keep</button>
  </form>
{/if}
