<script lang="ts">
  import { untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { gridOf, Jig, JigError, pocketsOf, type Pocket } from '$core/layout/jig';
  import { faultsOf, faultWords } from '$core/layout/jig-faults';
  import type { LengthUnit } from '$core/units/length';
  import type { KeptJig } from '$lib/server/machines/jigs';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { follow } from '$lib/ui/common/follow.svelte';
  import SavesItself from '$lib/ui/common/SavesItself.svelte';
  import { jigEdits } from './jig-edits';
  import JigPicture from './JigPicture.svelte';
  import JigPhoto from './JigPhoto.svelte';
  import BedAndThing from './BedAndThing.svelte';
  import JigPlaces from './JigPlaces.svelte';
  import JigSheet from './JigSheet.svelte';
  import { shopUnit } from '$lib/ui/common/shop-unit';

  /** A jig as it is told: its bed, the thing, the grid; and each place's own small difference. */
  let { kept, unit, conditions }: { kept: KeptJig; unit: LengthUnit; conditions: readonly { id: number; words: string }[] } =
    $props();

  const keptEdits = untrack(() => jigEdits(kept));
  const { edits } = keptEdits;
  follow(
    () => kept,
    edits,
    (newest) => keptEdits.adopt(newest)
  );

  const jig = $derived(edits.current);
  const laid = $derived.by((): { pockets: Pocket[]; why: string } => {
    try {
      return { pockets: pocketsOf(jig), why: '' };
    } catch (error) {
      if (error instanceof JigError) return { pockets: [], why: error.message };
      throw error;
    }
  });
  const grid = $derived(laid.why ? { columns: 0, rows: 0 } : gridOf(jig));
  const faults = $derived(faultsOf(jig, laid.pockets));
  const numberOf = (key: string) => laid.pockets.find((pocket) => pocket.key === key)?.number ?? 0;
  const used = $derived(laid.pockets.filter(({ isOff }) => !isOff).length);

  /** What cannot be is said, and changes nothing. */
  function change(part: Partial<Jig>): void {
    const next = Jig.safeParse({ ...edits.current, ...part });
    if (!next.success) {
      toast.error(next.error.issues[0]?.message ?? 'This cannot be.', { id: 'jig' });
      return;
    }
    try {
      gridOf(next.data);
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error), { id: 'jig' });
      return;
    }
    edits.change(next.data);
  }
  let photo: JigPhoto;
  let chosen = $state<string>();
  let isEnlarged = $state(true);
  const pocket = $derived(laid.pockets.find(({ key }) => key === chosen));
  const nudge = $derived((chosen !== undefined && jig.nudges[chosen]) || { dx: 0, dy: 0, turn: 0 });
  function setNudge(key: string, next: { dx: number; dy: number; turn: number }): void {
    const round = (v: number) => Math.round(v * 1000) / 1000 + 0;
    const rounded = { dx: round(next.dx), dy: round(next.dy), turn: round(next.turn) };
    const others = Object.fromEntries(Object.entries(jig.nudges).filter(([other]) => other !== key));
    const isNone = rounded.dx === 0 && rounded.dy === 0 && rounded.turn === 0;
    change({ nudges: isNone ? others : { ...others, [key]: rounded } });
  }
  const within180 = (turn: number) => ((((turn + 180) % 360) + 360) % 360) - 180;
  const setOff = (key: string, isOff: boolean) =>
    change({ off: isOff ? [...jig.off, key] : jig.off.filter((other) => other !== key) });
</script>

<div class="flex h-full min-h-0">
  <div class="min-h-0 min-w-0 grow">
    <JigPicture
      {jig}
      pockets={laid.pockets}
      {faults}
      {chosen}
      enlarged={isEnlarged ? 20 : 1}
      onchoose={(key) => (chosen = key)}
      onnudge={(dx, dy, turn) =>
        chosen !== undefined && setNudge(chosen, { dx: nudge.dx + dx, dy: nudge.dy + dy, turn: within180(nudge.turn + turn) })}
    />
  </div>
  <aside class="border-base-300 w-96 shrink-0 space-y-5 overflow-y-auto border-l p-4">
    <header>
      <p class="flex items-center gap-3">
        <a class="link grow text-sm" href="/shop/jigs">All jigs</a>
        <SavesItself {edits} />
      </p>
      <input
        class="input input-sm mt-1 w-full text-base font-semibold"
        aria-label="Name of the jig"
        maxlength="80"
        value={jig.name}
        onchange={(event) => change({ name: event.currentTarget.value })}
      />
      <p class="mt-2">
        <span class="measure">{used}</span>
        {used === 1 ? 'pocket' : 'pockets'}, {grid.columns} across and {grid.rows} along{jig.off.length > 0
          ? `, ${laid.pockets.length - used} switched off`
          : ''}.
      </p>
      {#if laid.why}<p class="text-error" role="status">{laid.why}</p>{/if}
      {#if faults.length > 0}
        <div class="text-error" role="status">
          <p class="font-semibold">✕ Not to be printed as it is</p>
          {#each faults.slice(0, 4) as fault (`${fault.key} ${fault.kind} ${fault.on ?? ''}`)}
            <p class="text-sm">{faultWords(fault, numberOf, shopUnit())}</p>
          {/each}
          {#if faults.length > 4}<p class="text-sm">And {faults.length - 4} more.</p>{/if}
        </div>
      {/if}
      {#if kept.runs.length > 0}
        <p class="text-sm">
          Placed in it: {#each kept.runs as run, i (run)}{i > 0 ? ', ' : ''}<a class="link" href="/runs/{run}">run {run}</a
            >{/each}. What is changed here moves there.
        </p>
      {/if}
    </header>

    <BedAndThing {jig} {unit} onchange={change} />
    <JigPlaces {jig} {grid} {unit} onchange={change} />
    <button
      class="btn btn-sm"
      onclick={async () => {
        await edits.flush();
        photo.open();
      }}>Find its places in a photo</button
    >

    <section aria-label="One pocket" class="space-y-1">
      <h2 class="panel-title">One pocket</h2>
      {#if pocket}
        <p class="leading-9">
          {pocket.isOff ? 'The place' : `Pocket ${pocket.number}`} in column {pocket.column}, row {pocket.row} is moved by
          <LengthBox
            sentence
            label="Moved across"
            {unit}
            value={nudge.dx}
            min={-10_000}
            max={10_000}
            onchange={(dx) => setNudge(pocket.key, { ...nudge, dx })}
          /> across and
          <LengthBox
            sentence
            label="Moved along"
            {unit}
            value={nudge.dy}
            min={-10_000}
            max={10_000}
            onchange={(dy) => setNudge(pocket.key, { ...nudge, dy })}
          /> along, and turned by
          <FigureBox
            sentence
            label="Turned by"
            unit="°"
            decimals={2}
            min={-180}
            max={180}
            value={nudge.turn}
            onchange={(turn) => setNudge(pocket.key, { ...nudge, turn })}
          />°.
        </p>
        <p class="flex flex-wrap gap-2">
          <button class="btn btn-sm" onclick={() => setOff(pocket.key, !pocket.isOff)}
            >{pocket.isOff ? 'Switch it on' : 'Switch it off'}</button
          >
          <button
            class="btn btn-sm"
            disabled={!jig.nudges[pocket.key]}
            onclick={() => setNudge(pocket.key, { dx: 0, dy: 0, turn: 0 })}>Back into the grid</button
          >
        </p>
      {:else}
        <p class="text-base-content/70 text-sm">
          Click on one, or press ] with the picture in focus; Alt and arrows move it by 0.1 mm, with Shift by 1 mm; , and . turn
          it by 0.1°, with Shift by 1°. With the mouse it is dragged, and turned by its ring.
        </p>
      {/if}
      {#if Object.keys(jig.nudges).length > 0}
        <p class="flex flex-wrap items-center gap-2 text-sm">
          <label
            ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={isEnlarged} /> offsets drawn 20 times as long</label
          >
          <button class="btn btn-xs" onclick={() => change({ nudges: {} })}
            >All {Object.keys(jig.nudges).length} back into the grid</button
          >
        </p>
      {/if}
    </section>

    <JigSheet id={kept.id} {unit} {conditions} />
    <section aria-label="Files" class="flex flex-wrap gap-2">
      <a class="btn btn-sm" href="/api/jigs/{kept.id}/file" download>Save it as a file</a>
      <a class="btn btn-sm" href="/api/jigs/{kept.id}/file?as=svg" download>Its outlines as SVG</a>
    </section>
    <label class="block text-sm"
      >Note<textarea
        class="textarea textarea-sm w-full"
        maxlength="2000"
        value={jig.note}
        onchange={(event) => change({ note: event.currentTarget.value })}></textarea></label
    >
  </aside>
</div>
<JigPhoto
  bind:this={photo}
  id={kept.id}
  {jig}
  ontake={(found) => {
    chosen = undefined;
    change(found);
  }}
/>
