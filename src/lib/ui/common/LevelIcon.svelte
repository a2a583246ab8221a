<script lang="ts">
  import CircleCheck from '@lucide/svelte/icons/circle-check';
  import Eye from '@lucide/svelte/icons/eye';
  import OctagonX from '@lucide/svelte/icons/octagon-x';

  /** @prop bare without the word, where the sentence is told otherwise */
  let { level, bare = false }: { level: 'fine' | 'look' | 'stop'; bare?: boolean } = $props();
  const Icon = $derived({ fine: CircleCheck, look: Eye, stop: OctagonX }[level]);
</script>

<span
  class="inline-flex items-center gap-1 font-semibold"
  class:text-success={level === 'fine'}
  class:text-warning={level === 'look'}
  class:text-error={level === 'stop'}
>
  <Icon size={16} aria-hidden="true" />{bare ? '' : level}
</span>
