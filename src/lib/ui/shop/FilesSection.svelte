<script lang="ts">
  import { toast } from 'svelte-sonner';
  import { counted } from '$core/units/counted';
  import type { ShopSettings } from '$lib/shop-settings';
  import { attempt, fileSize, send } from '$lib/ui/common/client';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  /** What files may take, those that come in and the plates that are made. */
  let {
    settings,
    plates,
    onchange
  }: {
    settings: ShopSettings;
    /** Bytes that they take. */
    plates: Promise<{ all: number; printed: number; printedRuns: number }>;
    onchange: (part: Partial<ShopSettings>) => void;
  } = $props();

  const clearPlates = () =>
    attempt(async () => {
      const { runs, bytes } = await send<{ runs: number; bytes: number }>('DELETE', '/api/plates');
      toast.success(`Plates of ${counted(runs, 'run')} are deleted: ${fileSize(bytes)} are free again.`);
    });
</script>

<section aria-label="Files that come in" class="space-y-2">
  <h2 class="text-lg font-semibold">Files that come in</h2>
  <p class="text-sm leading-7">
    Looking at a file may take
    <FigureBox
      class="input input-sm w-18 text-right"
      late
      label="Seconds for a file"
      unit="s"
      min={5}
      max={600}
      step={5}
      value={settings.intake.seconds}
      onchange={(seconds) => onchange({ intake: { ...settings.intake, seconds } })}
    />
    s and
    <FigureBox
      late
      label="Memory for a file, MB"
      unit="MB"
      min={300}
      max={64_000}
      step={100}
      value={settings.intake.megabytes}
      onchange={(megabytes) => onchange({ intake: { ...settings.intake, megabytes } })}
    /> MB of memory, and what its pixels need. More is refused, so that one file holds nobody up.
  </p>
</section>
<section aria-label="Plates" class="space-y-2">
  <h2 class="text-lg font-semibold">Plates</h2>
  {#await plates then room}
    <p class="text-sm">
      They take <span class="font-semibold">{fileSize(room.all)}</span>; of it
      <span class="font-semibold">{fileSize(room.printed)}</span>
      those of {room.printedRuns.toLocaleString('en-GB')} printed {room.printedRuns === 1 ? 'run' : 'runs'}.
    </p>
    <p class="text-sm">
      Plates of printed runs go
      <select
        class="in-sentence"
        aria-label="When plates of printed runs go"
        value={settings.platesDays === null ? 'never' : 'after'}
        onchange={(event) => onchange({ platesDays: event.currentTarget.value === 'never' ? null : 30 })}
        ><option value="never">never by themselves</option><option value="after">after</option></select
      >{#if settings.platesDays !== null}
        <FigureBox
          sentence
          late
          label="Days that plates are kept"
          min={1}
          max={3650}
          value={settings.platesDays}
          onchange={(platesDays) => onchange({ platesDays })}
        /> days{/if}, unless the ticket of a docket says otherwise. What was printed, and when, stays; such a run is printed again
      by RIPping its copies anew.
    </p>
    {#if room.printedRuns > 0}<button class="btn btn-sm" onclick={clearPlates}>Delete those of printed runs now</button>{/if}
  {/await}
</section>
