<script lang="ts">
  import Redo from '@lucide/svelte/icons/redo-2';
  import Undo from '@lucide/svelte/icons/undo-2';

  /** Takes back, and makes again what was taken back. */
  interface Props {
    edits: { readonly canUndo: boolean; readonly canRedo: boolean };
    onstep: (by: -1 | 1) => unknown;
  }
  const { edits, onstep }: Props = $props();
  const steps = $derived([
    { by: -1 as const, label: 'Take back the last change', Icon: Undo, may: edits.canUndo },
    { by: 1 as const, label: 'Make it again', Icon: Redo, may: edits.canRedo }
  ]);
</script>

{#each steps as { by, label, Icon, may } (by)}
  <button class="btn btn-sm btn-ghost btn-square" disabled={!may} onclick={() => onstep(by)} aria-label={label} title={label}
    ><Icon size={16} /></button
  >
{/each}
