<script lang="ts">
  import { duration } from './client';

  interface Props {
    label: string;
    share: number;
    secondsLeft: number | null;
    oncancel?: () => void;
  }
  let { label, share, secondsLeft, oncancel }: Props = $props();
</script>

<div class="flex min-w-60 items-center gap-2" role="group" aria-label={label}>
  <div class="grow">
    <div class="flex justify-between text-xs">
      <span>{label} {Math.round(share * 100)} %</span>
      <span>{secondsLeft === null ? '' : `${duration(secondsLeft)} left`}</span>
    </div>
    <progress class="progress progress-primary h-2 w-full" value={share} max="1" aria-label={label}></progress>
  </div>
  {#if oncancel}<button class="btn btn-sm" onclick={oncancel}>Cancel</button>{/if}
</div>
