<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import CircleAlert from '@lucide/svelte/icons/circle-alert';
  import CirclePlay from '@lucide/svelte/icons/circle-play';
  import SkipForward from '@lucide/svelte/icons/skip-forward';
  import { counted } from '$core/units/counted';
  import type { Machine } from '$lib/server/machines/machines';
  import type { CutterRoll, RollPlace } from '$protocol/cutter';
  import { attempt, send } from '$lib/ui/common/client';
  import { rollSounds } from './sounds';
  import { tape } from '$lib/ui/common/shop-unit';

  /** A roll as it lies in a cutter, to scale, and what became of each print of it. */
  let { machine, roll }: { machine: Machine; roll: CutterRoll } = $props();

  let busy = $state('');
  let width = $state(900);
  const numbers = $state<Record<number, string>>({});
  const sounds = rollSounds();

  const isRunning = $derived(roll.state === 'looking' || roll.state === 'cutting');
  const scale = $derived(Math.min((width - 2) / Math.max(1, roll.lengthMm), 190 / Math.max(1, roll.widthMm)));
  const refused = $derived(roll.places.filter(({ state }) => state === 'refused' || state === 'skipped'));
  const cut = $derived(roll.places.filter(({ state }) => state === 'cut'));
  const isBegun = $derived(roll.places.length > 0);
  const says = $derived(
    {
      lies: `The roll lies in ${machine.name}; nothing of it has been looked at.`,
      looking: 'Looking for the next print.',
      cutting: `Cutting ${roll.places.find(({ state }) => state === 'cutting')?.name ?? ''}.`,
      stopped: roll.reason ?? 'Stopped.',
      done: `Cut to its end: ${counted(cut.length, 'print')} cut, ${refused.length} not.`
    }[roll.state]
  );
  $effect(() => sounds.heard(roll));

  const WORDS = { looking: 'looked at', cutting: 'under the knife', cut: 'cut', refused: 'refused', skipped: 'skipped' } as const;
  const pictureOf = ({ n, state }: RollPlace) => `/api/cutters/${machine.id}/places/${n}?of=${roll.id}&state=${state}`;

  async function act(name: 'start' | 'stop' | 'skip' | 'unload'): Promise<void> {
    busy = name;
    await attempt(() => send('POST', `/api/cutters/${machine.id}/roll`, { act: name }));
    busy = '';
  }
  /** Looked at closely. */
  let shown = $state<RollPlace>();
  let closely: HTMLDialogElement;
  /** How often its picture was asked for in vain. */
  let vain = $state(0);
  const MOST_VAIN = 3;
  const ASK_AGAIN_MS = 1000;
  function show(place: RollPlace): void {
    shown = place;
    vain = 0;
    closely.showModal();
  }
  /** A busy cutter's answer may be lost: it is asked again by itself, and then by a person. */
  function askAgain(): void {
    const of = shown;
    if (vain < MOST_VAIN) setTimeout(() => shown === of && vain++, ASK_AGAIN_MS);
    else vain++;
  }

  async function again(n: number, how: object): Promise<void> {
    busy = `again ${n}`;
    await attempt(() => send('POST', `/api/cutters/${machine.id}/again`, { place: n, ...how }));
    busy = '';
  }
  const newBlade = () => attempt(() => send('POST', `/api/cutters/${machine.id}/blade`), 'The new blade is written down.');
</script>

<section aria-label="Roll in {machine.name}" class="space-y-3">
  <header class="flex flex-wrap items-center gap-3">
    <h2 class="panel-title">Roll in {machine.name}</h2>
    <p role="status" class={roll.state === 'stopped' ? 'text-warning font-semibold' : ''}>{says}</p>
    {#if !machine.online}<p class="text-warning text-sm">It does not answer; this is what it said last.</p>{/if}
    <span class="text-base-content/70 text-sm"
      >{tape(roll.positionMm)} of {tape(roll.lengthMm)}; blade {tape((machine.cutter?.bladeM ?? 0) * 1000)}</span
    >
    <div class="grow"></div>
    <label class="flex items-center gap-1 text-sm"
      ><input type="checkbox" class="checkbox checkbox-xs" checked={sounds.on} onchange={sounds.turn} />Sounds</label
    >
    {#if roll.reason?.startsWith('The blade')}<button class="btn btn-sm" onclick={newBlade}>A new blade is in</button>{/if}
    {#if isRunning}
      <button class="btn btn-sm" disabled={roll.state !== 'cutting' || busy !== ''} onclick={() => act('skip')}
        ><SkipForward size={16} />Skip this print</button
      >
      <button class="btn btn-sm btn-primary" disabled={busy !== ''} onclick={() => act('stop')}>Stop</button>
    {:else}
      <button class="btn btn-sm" disabled={busy !== ''} onclick={() => act('unload')}>Take the roll out</button>
      {#if roll.state !== 'done'}
        <button class="btn btn-sm btn-primary" disabled={busy !== ''} onclick={() => act('start')}
          ><CirclePlay size={16} />{isBegun ? 'Go on' : 'Cut the roll'}</button
        >
      {/if}
    {/if}
  </header>
  <div class="flex flex-wrap items-start gap-4" bind:clientWidth={width}>
    <svg
      width={roll.lengthMm * scale}
      height={roll.widthMm * scale}
      viewBox="0 0 {roll.lengthMm} {roll.widthMm}"
      role="img"
      aria-label="The roll lying on its side, {tape(roll.lengthMm)} long, the knife at {tape(roll.positionMm)}"
    >
      <rect width={roll.lengthMm} height={roll.widthMm} class="fill-base-300" />
      {#each roll.places as place (place.n)}
        {@const w = Math.max(1, place.toMm - place.fromMm)}
        <image href={pictureOf(place)} x={place.fromMm} y="0" width={w} height={roll.widthMm} preserveAspectRatio="none" />
        <rect
          x={place.fromMm}
          y="0"
          width={w}
          height={roll.widthMm}
          fill="none"
          class={place.state === 'refused' || place.state === 'skipped'
            ? 'stroke-error'
            : place.state === 'cut'
              ? 'stroke-success'
              : 'stroke-primary'}
          stroke-width="3"
          stroke-dasharray={place.state === 'refused' ? '8 5' : undefined}
          vector-effect="non-scaling-stroke"
        />
        <text
          x={place.fromMm + 6 / scale}
          y={16 / scale}
          font-size={13 / scale}
          class="fill-black font-semibold"
          stroke="#fff"
          stroke-width={3 / scale}
          paint-order="stroke">{place.n}</text
        >
      {/each}
      <line
        x1={roll.positionMm}
        x2={roll.positionMm}
        y1="0"
        y2={roll.widthMm}
        class="stroke-primary"
        stroke-width="2"
        vector-effect="non-scaling-stroke"
      />
    </svg>
    {#if isBegun}
      <div class="min-w-[40rem] grow basis-0">
        <table class="table-sm table">
          <thead
            ><tr
              ><th class="w-10">No.</th><th class="w-40">Print</th><th class="w-36">Along the roll</th><th class="w-40"
                >What became of it</th
              ><th>Why</th></tr
            ></thead
          >
          <tbody>
            {#each roll.places as place (place.n)}
              <tr>
                <td>{place.n}</td>
                <td class="font-semibold"
                  >{#if place.task}<a class="link" href="/cutting/{place.task}">{place.name}</a>{:else}{place.code ??
                      'not known'}{/if}</td
                >
                <td>{tape(place.fromMm)} – {tape(place.toMm)}</td>
                <td>
                  <span class="flex items-center gap-1">
                    {#if place.state === 'cut'}<Check size={15} class="text-success" aria-hidden="true" />
                    {:else if place.state === 'refused' || place.state === 'skipped'}<CircleAlert
                        size={15}
                        class="text-error"
                        aria-hidden="true"
                      />{/if}{place.refused === 'failed' ? 'stopped' : WORDS[place.state]}{place.isTurned ? ', tail first' : ''}
                  </span>
                </td>
                <td>
                  <div class="flex flex-wrap items-center gap-2">
                    {#if place.reason}<span>{place.reason}</span>{/if}
                    {#if place.state === 'refused' || place.state === 'skipped'}
                      <button class="btn btn-sm" onclick={() => show(place)}>Camera’s picture</button>
                      {#if place.refused === 'unread' || place.refused === 'unknown'}
                        <form
                          class="flex flex-wrap items-center gap-1"
                          onsubmit={(event) => {
                            event.preventDefault();
                            void again(place.n, { code: numbers[place.n] ?? '' });
                          }}
                        >
                          <input
                            class="input input-sm w-36"
                            aria-label="Number of print {place.n}"
                            placeholder="its number"
                            maxlength="20"
                            bind:value={numbers[place.n]}
                          />
                          <button class="btn btn-sm" disabled={busy !== '' || !numbers[place.n]}>Cut it by its number</button>
                        </form>
                      {:else if place.refused === 'cut' || place.refused === 'changed' || place.refused === 'broken'}
                        <button class="btn btn-sm" disabled={busy !== ''} onclick={() => again(place.n, { allSame: true })}
                          >Cut all the same</button
                        >
                      {:else if place.refused === 'half cut'}
                        <button class="btn btn-sm" disabled={busy !== ''} onclick={() => again(place.n, { isHalfCut: true })}
                          >It is the one cut in part</button
                        >
                        <button class="btn btn-sm" disabled={busy !== ''} onclick={() => again(place.n, { isHalfCut: false })}
                          >It is a whole one</button
                        >
                      {:else}
                        <button class="btn btn-sm" disabled={busy !== ''} onclick={() => again(place.n, {})}
                          >{place.refused === 'failed' ? 'Cut the rest' : 'Look again'}</button
                        >
                      {/if}
                    {:else if place.state === 'cut' && !isRunning}
                      <button
                        class="btn btn-xs btn-ghost"
                        disabled={busy !== ''}
                        onclick={() => again(place.n, { allSame: true })}>Cut once more</button
                      >
                    {/if}
                  </div>
                </td>
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
    {/if}
  </div>
</section>

<dialog bind:this={closely} class="modal" aria-label="Camera’s picture">
  <div class="modal-box max-w-4xl">
    {#if shown}
      <h2 class="mb-2 font-semibold">
        No. {shown.n}, {tape(shown.fromMm)} – {tape(shown.toMm)}
      </h2>
      <p class="mb-2 text-sm">{shown.reason ?? ''}</p>
      {#if vain > MOST_VAIN}
        <p role="status">
          The camera’s picture does not come. <button class="btn btn-sm" onclick={() => (vain = 0)}>Ask for it again</button>
        </p>
      {:else}
        <img
          class="max-h-[65vh] max-w-full"
          src="{pictureOf(shown)}&asked={vain}"
          alt="Place {shown.n} of the roll as the camera sees it"
          onerror={askAgain}
        />
      {/if}
    {/if}
    <form method="dialog" class="modal-action"><button class="btn btn-sm">Close</button></form>
  </div>
  <form method="dialog" class="modal-backdrop"><button>Close</button></form>
</dialog>
