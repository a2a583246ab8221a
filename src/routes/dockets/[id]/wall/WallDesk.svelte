<script lang="ts">
  import ArrowLeft from '@lucide/svelte/icons/arrow-left';
  import { untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { prepare } from '$core/artwork/choices';
  import type { Mend } from '$core/checks/check';
  import { pageToFinished } from '$core/artwork/preparation';
  import { boxAround, type Box } from '$core/geometry/box';
  import { apply } from '$core/geometry/matrix';
  import type { Axis } from '$core/panels/panels';
  import { newWall, type Seam, type Wall, type WallPhoto } from '$core/panels/wall';
  import { hasRecords } from '$core/records/choices';
  import { formatLength, longUnit } from '$core/units/length';
  import { compareFilms, filmNow, onFilm, type WidthLine } from '$lib/film-widths';
  import type { DocketChoices } from '$lib/docket-choices';
  import { plannedWall, wallLook } from '$lib/panels';
  import { attempt, send } from '$lib/ui/common/client';
  import { once } from '$lib/ui/common/once';
  import StepButtons from '$lib/ui/common/StepButtons.svelte';
  import { DocketEdits } from '$lib/ui/docket/docket-edits.svelte';
  import DocketSaving from '$lib/ui/docket/DocketSaving.svelte';
  import OtherWindow from '$lib/ui/docket/OtherWindow.svelte';
  import ChecksHere from '$lib/ui/docket/ticket/ChecksHere.svelte';
  import Hanging from '$lib/ui/wall/Hanging.svelte';
  import Openings from '$lib/ui/wall/Openings.svelte';
  import PhotoLine from '$lib/ui/wall/PhotoLine.svelte';
  import SeamList from '$lib/ui/wall/SeamList.svelte';
  import { wallChecks } from '$lib/ui/wall/wall-checks';
  import { busyUnder, calmed, WallDetail } from '$lib/ui/wall/wall-detail.svelte';
  import WallOnPhoto from '$lib/ui/wall/WallOnPhoto.svelte';
  import WallPicture from '$lib/ui/wall/WallPicture.svelte';
  import WallSentences from '$lib/ui/wall/WallSentences.svelte';
  import WidthsTable from '$lib/ui/wall/WidthsTable.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();

  const edits = new DocketEdits(untrack(() => data.docket));

  const docket = $derived({ ...edits.docket, ...edits.current });
  const { choices } = $derived(edits.current);
  const { unit, currency } = $derived(data.settings);
  const condition = $derived(data.conditions.find(({ id }) => id === choices.conditionId));
  const preparation = $derived(prepare(choices, docket.artwork.facts, data.lines, data.settings.rules));
  /** While a seam is dragged: the wall as it would be. */
  let draft = $state.raw<Wall | null>(null);
  const wall = $derived(draft ?? choices.wall);
  const planned = $derived(wall ? plannedWall({ ...choices, wall }, condition) : undefined);

  const changeChoices = (part: Partial<DocketChoices>) => edits.change({ ...edits.current, choices: { ...choices, ...part } });
  function change(part: Partial<Wall>): void {
    if (!choices.wall) return;
    const next = { ...choices.wall, ...part };
    const { left, top, right, bottom } = next.bleed;
    // Pictures show the bleed all round: as far as it goes at its widest.
    changeChoices({ wall: next, bleedMm: Math.min(200, Math.max(left, top, right, bottom)) });
  }
  const begin = () => {
    const made = newWall();
    changeChoices({
      wall: made,
      bleedMm: made.bleed.left,
      bleedFrom: choices.bleedFrom === 'page' ? 'mirror' : choices.bleedFrom,
      cut: false
    });
  };

  // Seams.
  const sorted = (seams: Seam[]): Seam[] => [...seams].sort((p, q) => p.at - q.at);
  function moved(axis: Axis, index: number, at: number): Wall {
    const seams = planned![axis].map((seam, i) => (i === index ? { ...seam, at } : seam));
    return { ...choices.wall!, [axis]: { ...choices.wall![axis], seams } };
  }
  const seam = (axis: Axis, index: number, at: number) => (draft = moved(axis, index, Math.round(at * 10) / 10));
  function settle(): void {
    const to = draft;
    draft = null;
    if (to) change({ columns: to.columns, rows: to.rows });
  }
  const seamTyped = (axis: Axis, index: number, at: number) => {
    const to = moved(axis, index, at);
    change({ [axis]: { ...to[axis], seams: sorted(to[axis].seams ?? []) } });
  };

  const look = new WallDetail();
  const drawnFrom = $derived(
    JSON.stringify([
      docket.artworkId,
      docket.page,
      choices.widthMm,
      choices.heightMm,
      choices.box,
      choices.crop,
      choices.turn,
      choices.mirror,
      choices.roles,
      choices.layersOff
    ])
  );
  $effect(() => {
    const [version, ready] = [drawnFrom, !edits.unsaved && !edits.saving];
    if (ready && edits.current.choices.wall) untrack(() => void look.load(docket, version));
  });
  const busy = $derived({
    columns: look.detail && planned ? busyUnder(look.detail, planned, 'columns') : [],
    rows: look.detail && planned ? busyUnder(look.detail, planned, 'rows') : []
  });
  const mean = (of: typeof busy) => {
    const all = [...of.columns, ...of.rows];
    return all.length > 0 ? all.reduce((sum, one) => sum + one.mean, 0) / all.length : null;
  };
  /** How busy it was before the last search, as long as seams are where that put them. */
  let searched = $state.raw<{ before: number | null; seams: string } | null>(null);
  const seamsNow = (of: Wall) => JSON.stringify([of.columns.seams, of.rows.seams]);
  const before = $derived(choices.wall && searched?.seams === seamsNow(choices.wall) ? searched.before : null);
  function calm(): void {
    if (!look.detail || !wall || !planned) return;
    const was = mean(busy);
    const onWall = pageToFinished(preparation, choices);
    const lettering = docket.artwork.facts.text.flatMap(
      ({ place: { x, y, width, height } }) =>
        boxAround([[apply(onWall, { x, y }), apply(onWall, { x: x + width, y: y + height })]]) ?? []
    );
    const found = (['columns', 'rows'] as const).map((axis) => calmed(look.detail!, wall, planned, axis, lettering));
    if (found.some((seams) => seams === undefined)) {
      toast.error('No places within this range keep every panel on the film. Take more panels, a wider film or a wider range.', {
        id: 'calm'
      });
      return;
    }
    const [columns, rows] = found;
    const to = {
      ...(columns!.length > 0 && { columns: { ...wall.columns, seams: columns! } }),
      ...(rows!.length > 0 && { rows: { ...wall.rows, seams: rows! } })
    };
    searched = { before: was, seams: seamsNow({ ...wall, ...to }) };
    change(to);
  }

  // Openings and places to spare.
  let drawing = $state<'opening' | 'spared' | null>(null);
  let chosen = $state<number | null>(null);
  function drawn(box: Box): void {
    const what = drawing;
    drawing = null;
    if (!choices.wall) return;
    if (what === 'spared') change({ spared: [...choices.wall.spared, box] });
    else {
      chosen = choices.wall.openings.length;
      change({ openings: [...choices.wall.openings, { name: '', ...box, shape: 'rectangle', outline: [], leftOut: true }] });
    }
  }

  // Films.
  const films = $derived(
    choices.wall
      ? compareFilms(
          { id: docket.id, name: docket.name, customer: docket.customer, choices },
          data.conditions.filter(({ id, family }) => id === choices.conditionId || family === condition?.family),
          data.machines
        )
      : []
  );
  /** The one that it is on, with its seams as they are, also while one is dragged. */
  const compared = $derived.by(() => {
    if (!condition || !wall || condition.sheetMm !== null) return films;
    const widthMm = wall.filmMm ?? condition.rollWidthMm;
    const now = filmNow(
      { id: docket.id, name: docket.name, customer: docket.customer, choices: { ...choices, wall } },
      condition,
      data.machines
    );
    return films.map((line) =>
      line.conditionId === condition.id && line.film === wall.film && Math.abs(line.widthMm - widthMm) < 1 ? now : line
    );
  });
  function take(line: WidthLine): void {
    if (!choices.wall) return;
    const own = data.conditions.find(({ id }) => id === line.conditionId);
    const filmMm = own && Math.abs(own.rollWidthMm - line.widthMm) < 1 ? null : line.widthMm;
    changeChoices({ conditionId: line.conditionId, wall: onFilm(choices.wall, line.film, filmMm) });
  }

  // Checks.
  let shownCheck = $state<string | null>(null);
  const found = $derived.by(() => {
    const told = wallLook({ ...choices, wall }, condition, data.machines, look.detail && busy);
    return told ? wallChecks(docket, choices, preparation, data.settings, condition, told) : [];
  });
  const checks = $derived({
    all: found.map((check) => ({ ...check, about: 'wall' as const })),
    shown: shownCheck,
    show: (check: { id: string } | null) => (shownCheck = check?.id ?? null),
    mend: ({ change: part }: Mend) => (part.wall ? change(part.wall) : changeChoices(part))
  });

  // The map, and the photo.
  const isLaidOut = $derived(docket.runId !== null && (docket.runState === 'laying out' || docket.runState === 'ripped'));
  let printing = $state(false);
  const printMap = once(async () => {
    // What is refused was said; the map is not of something else.
    if (!(await edits.flush())) return;
    printing = true;
    await attempt(async () => {
      const { run, inWaste } = await send<{ run: number; inWaste: boolean }>('POST', `/api/dockets/${docket.id}/panel-map`);
      toast.success(
        inWaste
          ? `The map lies in the waste of run ${run}.`
          : `The map is in run ${run}: it has no waste that takes it, and a little film is added.`
      );
    });
    printing = false;
  });
  let onPhoto = $state(false);
  const changePhoto = (photo: WallPhoto) => change({ photo });
  function takePhoto(photo: WallPhoto): void {
    changePhoto(photo);
    onPhoto = true;
  }

  function keys(event: KeyboardEvent): void {
    if (event.key === 'Escape' && drawing) drawing = null;
  }
</script>

<svelte:head><title>Wall of {edits.current.name}</title></svelte:head>
<svelte:window onkeydown={keys} />
<DocketSaving {edits} loaded={data.docket} />

<div class="flex h-full max-lg:flex-col max-lg:overflow-auto">
  <section class="relative flex min-w-0 grow flex-col max-lg:h-[42rem] max-lg:shrink-0" aria-label="The wall to scale">
    {#if wall && planned}
      {#if wall.photo}
        <div class="bg-base-100 border-base-300 flex gap-1 border-b px-2 py-1" role="group" aria-label="How the wall is seen">
          <button class="btn btn-xs" aria-pressed={!onPhoto} class:btn-active={!onPhoto} onclick={() => (onPhoto = false)}
            >Flat</button
          >
          <button class="btn btn-xs" aria-pressed={onPhoto} class:btn-active={onPhoto} onclick={() => (onPhoto = true)}
            >On its photo</button
          >
        </div>
      {/if}
      <div class="min-h-0 grow">
        {#if wall.photo && onPhoto}
          <WallOnPhoto
            {docket}
            {wall}
            {planned}
            photo={wall.photo}
            bleedMm={docket.choices.bleedMm}
            {unit}
            onchange={changePhoto}
            onremove={() => {
              onPhoto = false;
              change({ photo: null });
            }}
          />
        {:else}
          <WallPicture
            {docket}
            {wall}
            {planned}
            bleedMm={docket.choices.bleedMm}
            {unit}
            detail={look.detail}
            {busy}
            {drawing}
            {chosen}
            onseam={seam}
            onsettle={settle}
            onopening={(index, at) =>
              change({ openings: choices.wall!.openings.map((one, i) => (i === index ? { ...one, ...at } : one)) })}
            ondraw={drawn}
            onchoose={(index) => (chosen = index)}
          />
        {/if}
      </div>
      <div class="bg-base-100 border-base-300 max-h-64 shrink-0 overflow-auto border-t px-3 py-2">
        <h2 class="panel-title leading-4">Which film</h2>
        {#if films.length > 0}
          <WidthsTable
            lines={compared}
            now={{ conditionId: choices.conditionId, widthMm: wall.filmMm ?? condition?.rollWidthMm ?? 0, film: wall.film }}
            {currency}
            ontake={take}
          />
        {:else}<p class="text-sm">Choose a media for the docket: then every width of it in stock is compared here.</p>{/if}
      </div>
    {:else}
      <div class="m-auto max-w-md p-6 text-center">
        <h1 class="text-lg font-semibold">A wall in panels</h1>
        <p class="mt-2">
          A graphic that is wider than the film is divided into panels that meet on the wall: {formatLength(
            choices.widthMm,
            longUnit(data.settings.unit)
          )} ×
          {formatLength(choices.heightMm, longUnit(data.settings.unit))} now, with {edits.current.name} on it.
        </p>
        {#if hasRecords(choices.records)}
          <p class="mt-3">This docket is printed in records. Take its table or its fields out first.</p>
        {:else}<button class="btn btn-primary mt-4" onclick={begin}>Make it a wall</button>{/if}
      </div>
    {/if}
  </section>
  <aside
    class="border-base-300 bg-base-100 w-[30rem] shrink-0 overflow-auto border-l max-lg:w-full max-lg:overflow-visible max-lg:border-t max-lg:border-l-0 2xl:w-[36rem]"
    aria-label="Wall"
  >
    <header class="border-base-300 flex items-center gap-1 border-b p-3">
      <a class="btn btn-ghost btn-sm btn-square" href="/dockets/{docket.id}" aria-label="Back to the docket"
        ><ArrowLeft size={18} /></a
      >
      <h1 class="min-w-0 grow truncate text-lg font-semibold">{edits.current.name}</h1>
      <span class="text-base-content/70 text-sm" role="status">{edits.saving || edits.unsaved ? 'Saving…' : 'Saved'}</span>
      <StepButtons {edits} onstep={(by) => attempt(() => edits.step(by))} />
    </header>
    {#if edits.other}
      <OtherWindow other={edits.other} onmine={() => edits.useMine()} onclose={() => (edits.other = null)} />
    {/if}
    {#if wall && planned}
      <div class="space-y-4 p-4 text-[15px] leading-8">
        <WallSentences
          {wall}
          {planned}
          size={choices}
          {unit}
          family={condition?.family}
          cut={choices.cut}
          onchange={change}
          onsize={changeChoices}
          oncut={(cut) => changeChoices({ cut })}
        />
        <ChecksHere of="wall" {checks} />
        <SeamList
          {wall}
          {planned}
          {unit}
          {busy}
          {before}
          wrong={look.wrong}
          {drawing}
          onchange={change}
          onseam={seamTyped}
          oncalm={calm}
          ondrawing={(what) => (drawing = what)}
        />
        <Openings
          {wall}
          {unit}
          {chosen}
          {drawing}
          onchange={change}
          onchoose={(index) => (chosen = index)}
          ondrawing={(what) => (drawing = what)}
        />
        <Hanging {docket} {wall} {planned} {unit} {isLaidOut} {printing} onchange={change} onprint={() => void printMap()} />
        <PhotoLine photo={wall.photo} size={planned.size} ontaken={takePhoto} />
        <p>
          <button class="btn btn-sm" onclick={() => changeChoices({ wall: null })}>No wall any more: print it in one piece</button
          >
        </p>
      </div>
    {/if}
  </aside>
</div>
