<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    /** What is shown whole again: run, page, sheet. */
    whole: string;
    onzoom: (factor: number) => void;
    onfit: () => void;
    disabled?: boolean;
    children?: Snippet;
  }
  let { whole, onzoom, onfit, disabled = false, children }: Props = $props();
</script>

<div class="absolute right-2 bottom-2 flex items-center gap-1">
  {@render children?.()}
  <button class="btn btn-xs" {disabled} onclick={() => onzoom(1.6)} aria-label="Zoom in">+</button>
  <button class="btn btn-xs" {disabled} onclick={() => onzoom(1 / 1.6)} aria-label="Zoom out">−</button>
  <button class="btn btn-xs" {disabled} onclick={onfit}>Whole {whole}</button>
</div>
