<script lang="ts">
  import { counted } from '$core/units/counted';
  import type { WaitingRoll } from '$lib/server/cutting/rolls';
  import type { Machine } from '$lib/server/machines/machines';
  import { attempt, send } from '$lib/ui/common/client';
  import { tape } from '$lib/ui/common/shop-unit';

  /** What one machine printed on one media and is not cut, as it comes from it. */
  let { roll, cutters }: { roll: WaitingRoll; cutters: Machine[] } = $props();

  let backwards = $state(false);
  let cutter = $state<number>();
  let busy = $state(false);
  let width = $state(900);
  const GAP_MM = 40;
  /** Of more the pictures would take longer than anybody looks. */
  const MOST_PICTURES = 24;

  const lengthMm = $derived(roll.prints.reduce((sum, { lengthMm }) => sum + lengthMm + GAP_MM, GAP_MM));
  const widthMm = $derived(Math.max(1, ...roll.prints.map((print) => print.widthMm)));
  const scale = $derived(Math.min((width - 2) / lengthMm, 170 / widthMm));
  const places = $derived(
    roll.prints.map((print, i) => ({
      print,
      at: GAP_MM + roll.prints.slice(0, i).reduce((sum, before) => sum + before.lengthMm + GAP_MM, 0)
    }))
  );
  const free = $derived(cutters.find((one) => !one.cutter?.roll && !one.cutter?.busy));
  const into = $derived(cutters.find(({ id }) => id === cutter) ?? free ?? cutters[0]);
  const why = $derived(
    !into
      ? 'No cutter of the shop cuts rolls by itself. Cut the prints one by one below.'
      : into.cutter?.busy
        ? `${into.name} is moving.`
        : into.cutter?.roll
          ? `A roll lies in ${into.name}. Take that out first.`
          : ''
  );
  const isSheets = $derived(roll.bed === 'flatbed');
  const uncoded = $derived(roll.prints.filter(({ hasCode }) => !hasCode).length);

  async function lay(): Promise<void> {
    busy = true;
    await attempt(() => send('PUT', `/api/cutters/${into!.id}/roll`, { tasks: roll.prints.map(({ id }) => id), backwards }));
    busy = false;
  }
</script>

<section aria-label="{roll.media} from {roll.printer}" class="space-y-2">
  <header class="flex flex-wrap items-center gap-3">
    <h3 class="font-semibold">{roll.media}</h3>
    <span class="text-base-content/70 text-sm"
      >from {roll.printer}: {counted(roll.prints.length, 'print')} to cut, {isSheets
        ? 'sheet by sheet'
        : `${tape(lengthMm)} of roll`}</span
    >
    {#if uncoded > 0 && !isSheets}<span class="text-warning text-sm"
        >{uncoded} without a code: {uncoded === 1 ? 'it is' : 'they are'} too narrow for one, and cut one by one below.</span
      >{/if}
    <div class="grow"></div>
    {#if !isSheets}
      <label class="flex items-center gap-1 text-sm"
        ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={backwards} />tail first</label
      >
      {#if cutters.length > 1}
        <select
          class="select select-sm w-36"
          aria-label="Cutter for {roll.media}"
          bind:value={() => into?.id, (id) => (cutter = id)}
        >
          {#each cutters as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
        </select>
      {/if}
      <button class="btn btn-sm btn-primary" disabled={busy || why !== ''} title={why || undefined} onclick={lay}>
        {#if busy}<span class="loading loading-spinner loading-xs"></span>{/if}Put it in {into?.name ?? 'a cutter'}
      </button>
    {/if}
  </header>
  {#if why && !isSheets}<p class="text-base-content/70 text-sm">{why}</p>{/if}
  <div class="flex flex-wrap items-start gap-4" bind:clientWidth={width}>
    <svg
      width={lengthMm * scale}
      height={widthMm * scale}
      viewBox="0 0 {lengthMm} {widthMm}"
      role="img"
      aria-label="{isSheets ? 'The sheets side by side' : 'The roll lying on its side'}: {roll.prints
        .map(({ names }) => names)
        .join('; ')}"
    >
      {#if !isSheets}<rect width={lengthMm} height={widthMm} fill="#fff" stroke="#888" vector-effect="non-scaling-stroke" />{/if}
      {#each places as { print, at }, i (print.id)}
        {#if i < MOST_PICTURES}
          <!-- The head of a print lies at the left: its picture is turned by a quarter. -->
          <image
            href="/api/prints/{print.printId}/output"
            width={print.widthMm}
            height={print.lengthMm}
            preserveAspectRatio="none"
            transform="matrix(0 -1 1 0 {at} {print.widthMm})"
          />
        {/if}
        <rect
          x={at}
          y="0"
          width={print.lengthMm}
          height={print.widthMm}
          fill="none"
          stroke="#888"
          vector-effect="non-scaling-stroke"><title>{print.code}: {print.names}</title></rect
        >
      {/each}
    </svg>
    <ol class="max-h-44 min-w-[28rem] grow basis-0 overflow-auto text-sm" aria-label="Prints of {roll.media}, in their order">
      {#each roll.prints as print, i (print.id)}
        <li class="border-base-300 flex gap-3 border-b py-1">
          <span class="w-6 text-right">{i + 1}</span>
          <a class="link w-36 shrink-0" href="/cutting/{print.id}">{print.code}</a>
          <span class="min-w-0 grow truncate" title={print.reason ?? print.names}
            >{print.names}{#if print.reason}<span class="text-warning">: {print.reason}</span>{/if}</span
          >
          <span class="shrink-0">{tape(print.lengthMm)}</span>
        </li>
      {/each}
    </ol>
  </div>
</section>
