<script lang="ts">
  import type { Check } from '$core/checks/check';
  import LevelIcon from '$lib/ui/common/LevelIcon.svelte';

  interface Props {
    /** The worst first. */
    checks: readonly Check[];
    shown: string | null;
    /** What is still being measured, in words. */
    waiting: string;
    /** On to the next that is not fine. */
    onnext: () => void;
  }
  let { checks, shown, waiting, onnext }: Props = $props();

  const count = (level: Check['level']) => checks.filter((check) => check.level === level).length;
  const counts = $derived([
    { level: 'stop' as const, n: count('stop'), words: ['stop', 'stops'] },
    { level: 'look' as const, n: count('look'), words: ['look', 'looks'] },
    { level: 'fine' as const, n: count('fine'), words: ['is fine', 'are fine'] }
  ]);
  const open = $derived(checks.filter((check) => check.level !== 'fine'));
  const at = $derived(open.findIndex((check) => check.id === shown));
</script>

<!-- In sight wherever the ticket is scrolled to; each check itself stands at its sentence. -->
<section
  class="border-base-300 bg-base-100 sticky top-0 z-10 flex min-h-11 shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b px-4 py-2 text-sm"
  aria-label="Checks in all"
>
  {#each counts.filter(({ n }) => n > 0) as { level, n, words } (level)}
    <span class="inline-flex items-center gap-1"><LevelIcon {level} bare />{n} {n === 1 ? words[0] : words[1]}</span>
  {/each}
  {#if waiting}<span class="text-base-content/70"
      ><span class="loading loading-spinner loading-xs align-middle"></span> {waiting}</span
    >{/if}
  {#if open.length > 0}
    <button class="btn btn-xs ml-auto" onclick={onnext} aria-keyshortcuts="n"
      >{at < 0 ? 'First' : 'Next'} one{at < 0 ? '' : `, ${at + 1} of ${open.length}`}<kbd class="kbd kbd-xs">N</kbd></button
    >
  {/if}
</section>
