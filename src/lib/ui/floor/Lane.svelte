<script lang="ts">
  import { isJig } from '$core/layout/placement';
  import type { FloorRun } from '$lib/server/app/floor';
  import type { Lane } from '$lib/server/production/lanes';
  import { attempt, send } from '$lib/ui/common/client';
  import { goesOn, type PrintProgress } from '$lib/ui/common/live.svelte';
  import Copies from '$lib/ui/run/Copies.svelte';
  import { endOf, sizeInWords, tapeMarks, toCome, type Place } from './paying-out';
  import { shopUnit, sheetOf, tape, widthOf } from '$lib/ui/common/shop-unit';

  interface Props {
    lane: Lane;
    loaded: boolean;
    /** Of the roll that is loaded, or sheets; in words. */
    left: string;
    /** Of the roll that is loaded, mm; nothing for sheets. */
    leftMm: number | null;
    places: readonly Place[];
    prints: readonly PrintProgress[];
    /** Pixels a mm, of all lanes. */
    scale: number;
    width: number;
    /** Something is dragged, and what it would come to here; nothing while that is looked for. */
    dropping: boolean;
    offer: string;
    ondragrun: (run: FloorRun | null) => void;
    onmoverun: (run: FloorRun) => void;
    onover: () => void;
    ondrop: () => void;
    onsettings: () => void;
    onload: () => void;
  }
  let {
    lane,
    loaded,
    left,
    leftMm,
    places,
    prints,
    scale,
    width,
    dropping,
    offer,
    ondragrun,
    onmoverun,
    onover,
    ondrop,
    onsettings,
    onload
  }: Props = $props();

  let over = $state(false);

  const across = $derived(lane.condition.rollWidthMm);
  const WORDS: Record<FloorRun['state'], string> = {
    printed: 'printed',
    printing: 'printing',
    ripped: 'RIPped',
    ripping: 'at the RIP',
    'laying out': 'laying out'
  };
  const words = (run: FloorRun) =>
    run.hindrance && canMove(run)
      ? 'stop: it cannot be printed as it is'
      : run.state !== 'ripped'
        ? WORDS[run.state]
        : run.releasedAt !== null
          ? isJig(run.stock)
            ? 'released, to be laid in'
            : 'released'
          : run.stale
            ? 'changed since it was RIPped'
            : 'RIPped';
  const waiting = $derived(
    places
      .map(({ run }) => run)
      .filter((run) => (run.state === 'laying out' || run.state === 'ripped') && run.releasedAt === null && run.laid.length > 0)
  );
  const canMove = (run: FloorRun) => run.came === 0 && (run.state === 'laying out' || run.state === 'ripped');
  const printedOf = (run: FloorRun): number => {
    if (run.state === 'printed') return run.lengthMm;
    // Those that ended are told still.
    const print = run.state === 'printing' ? prints.find((print) => print.runId === run.id && goesOn(print)) : undefined;
    return print ? print.fromMm + print.printedMm : 0;
  };
  /** Under each run what it is. Where runs are too short for that it stands in two lines, makes way to the right, and a line leads to it. */
  const isTight = $derived(isDisplaced(labelled(({ run }) => `Run ${run.id}, ${words(run)}, ${sizeInWords(run, shopUnit())}`)));
  const labels = $derived(
    labelled(({ run }) =>
      isTight ? `${words(run)}, ${sizeInWords(run, shopUnit())}` : `Run ${run.id}, ${words(run)}, ${sizeInWords(run, shopUnit())}`
    )
  );
  const leadPx = $derived(isTight && isDisplaced(labels) ? 10 : 0);
  function labelled(textOf: (place: (typeof places)[number]) => string): { x: number; text: string }[] {
    let end = 0;
    return places.map((place) => {
      const text = textOf(place);
      const x = Math.max(place.start * scale, end);
      end = x + text.length * 6.6 + 16;
      return { x, text };
    });
  }
  function isDisplaced(of: readonly { x: number }[]): boolean {
    return of.some(({ x }, i) => x > places[i]!.start * scale + 1);
  }
  const paid = $derived(endOf(places));
  /** What is left of the roll once all that waits has come out; below 0 where it does not last. */
  const overMm = $derived(leftMm === null ? null : leftMm - toCome(places.map(({ run }) => run), printedOf)); // prettier-ignore
  /** As long as the roll is with what was printed on it, as far as there is room; one that is longer is broken off. */
  const rollPx = $derived(overMm === null ? paid * scale + 40 : Math.max(0, (paid + overMm) * scale));
  const broken = $derived(loaded && overMm !== null && rollPx > width);
  const short = $derived(loaded && overMm !== null && overMm < 0);
  const RELEASES: Record<Lane['release']['kind'], (lane: Lane) => string> = {
    hand: () => 'released by hand',
    quiet: ({ release }) => (release.kind === 'quiet' ? `releases after ${release.minutes} min of quiet` : ''),
    full: ({ release, condition }) =>
      release.kind !== 'full'
        ? ''
        : condition.sheetMm === null
          ? `releases at ${tape(release.lengthMm)}`
          : `releases when a sheet is ${Math.round(release.share * 100)} % full`,
    at: ({ release }) => (release.kind === 'at' ? `releases at ${release.time}` : '')
  };
  async function release(): Promise<void> {
    await attempt(async () => {
      const { refused } = await send<{ refused: string[] }>('POST', `/api/lanes/${lane.id}/release`);
      if (refused.length > 0) throw new Error(refused.join(' '));
    });
  }
</script>

<div
  id="lane-{lane.id}"
  class="outline-2 {loaded || places.length > 0 || dropping ? 'mb-3 w-full' : ''} {over && dropping
    ? 'outline-primary'
    : 'outline-transparent'}"
  role="group"
  aria-label="Lane of {lane.media}"
  ondragover={(event) => {
    if (!dropping) return;
    event.preventDefault();
    if (!over) onover();
    over = true;
  }}
  ondragleave={(event) => {
    if (!(event.relatedTarget instanceof Node) || !event.currentTarget.contains(event.relatedTarget)) over = false;
  }}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    ondrop();
  }}
>
  <div class="flex flex-wrap items-center gap-2 text-sm" class:mb-1={loaded || places.length > 0}>
    <span class="font-semibold">{lane.media}</span>
    <!-- An empty lane that is not loaded is a short line. -->
    <span class="text-base-content/70" class:hidden={!loaded && places.length === 0}
      >{lane.condition.sheetMm === null ? widthOf(across) : sheetOf(across, lane.condition.sheetMm)}, {lane.condition.mode
        .name}</span
    >
    {#if loaded}<span class={short ? 'text-warning font-semibold' : ''}>loaded, {left}</span>{:else}<span
        class="text-base-content/70">not loaded</span
      >
      <button class="btn btn-xs" onclick={onload} aria-label="Load {lane.media}">Load it</button>{/if}
    {#if lane.condition.sheetMm !== null && (loaded || places.length > 0)}<a class="link text-xs" href="/shop/jigs">jigs</a>{/if}
    <button class="link text-xs" onclick={onsettings} aria-label="Settings of the lane of {lane.media}"
      >{RELEASES[lane.release.kind](lane)}</button
    >
    {#if over && dropping}<span class="text-primary font-semibold" role="status">{offer}</span>{/if}
    {#if waiting.length > 0}
      <button class="btn btn-xs ml-auto" onclick={release} aria-label="Release the lane of {lane.media}"
        >Release {waiting.length === 1 ? `run ${waiting[0]?.id}` : `${waiting.length} runs`}</button
      >
    {/if}
  </div>
  {#if loaded || places.length > 0 || dropping}
    <div class="relative">
      <svg {width} height={across * scale + (isTight ? 50 : 34) + leadPx} aria-hidden="true" class="block">
        <g transform="translate(0 12)">
          <rect
            x="0"
            y="0"
            width={loaded ? Math.min(width, rollPx) : places.length === 0 ? width : Math.min(width, paid * scale + 40)}
            height={across * scale}
            fill={loaded ? '#fff' : '#ffffff80'}
            stroke="#888"
          />
          {#each tapeMarks(width / scale, scale, shopUnit()) as { mm, words } (mm)}
            <line x1={mm * scale} x2={mm * scale} y1="-4" y2="0" stroke="#777" />
            {#if mm > 0 && mm * scale + 30 < width}<text class="fill-base-content/70 text-[10px]" x={mm * scale + 2} y="-2"
                >{words}</text
              >{/if}
          {/each}
          {#if loaded}<rect x="0" y="-2" width={Math.min(14, 50 * scale)} height={across * scale + 4} rx="3" fill="#666" />{/if}
          {#if broken}
            <!-- The roll goes on beyond the picture. -->
            <path
              d="M{width - 10} 0l5 {(across * scale) / 4}l-8 {(across * scale) / 4}l8 {(across * scale) / 4}l-5 {(across *
                scale) /
                4}h12v{-across * scale}z"
              class="fill-base-100"
              stroke="#888"
            />
          {/if}
          {#each places as { run, parts, start } (run.id)}
            {@const printed = printedOf(run)}
            <g transform="matrix(0 {-scale} {scale} 0 {start * scale} {across * scale})">
              {#each run.parts as part, n (n)}
                <g transform="translate(0 {parts[n]})">
                  <rect
                    x="0"
                    y="0"
                    width={run.stock.width}
                    height={part.length}
                    fill="#00000008"
                    stroke="#999"
                    stroke-dasharray="3 3"
                    vector-effect="non-scaling-stroke"
                  />
                  <Copies
                    name="run-{run.id}-{n}"
                    copies={part.copies}
                    dockets={run.dockets}
                    laid={run.laid}
                    {scale}
                    byShape={run.byShape}
                    opacity={run.state === 'printed' || run.state === 'printing' ? 1 : 0.75}
                  />
                </g>
              {/each}
              {#if printed > 0 && run.state === 'printing'}<line
                  x1="0"
                  x2={across}
                  y1={printed}
                  y2={printed}
                  stroke="#000"
                  stroke-width="3"
                  vector-effect="non-scaling-stroke"
                />{/if}
            </g>
          {/each}
          {#if leadPx > 0}
            {#each places as { run, start, length }, i (run.id)}
              {@const to = labels[i]!.x + 8}
              {@const from = Math.max(start * scale + 2, Math.min(to, (start + length) * scale - 2))}
              <path
                d="M{from} {across * scale + 1}v3L{to} {across * scale + leadPx}v4"
                fill="none"
                class="stroke-base-content/60"
              />
            {/each}
          {/if}
          {#if places.length === 0}
            <text class="text-xs" x="24" y={(across * scale) / 2 + 4} fill="#555"
              >Nothing waits here. Drag dockets from the tray.</text
            >
          {/if}
        </g>
      </svg>
      <!-- All of a run can be pressed and dragged, the gaps between its sheets too. -->
      {#each places as { run, start, length }, i (run.id)}
        <a
          href="/runs/{run.id}"
          class="absolute block"
          style="left: {start * scale}px; top: 12px; width: {Math.max(8, length * scale)}px; height: {across * scale}px"
          aria-hidden="true"
          tabindex="-1"
          title="Run {run.id}, {words(run)}, {sizeInWords(run, shopUnit())}"
          draggable={canMove(run)}
          ondragstart={() => ondragrun(run)}
          ondragend={() => ondragrun(null)}
        ></a>
        <a
          href="/runs/{run.id}"
          class="absolute min-h-6 text-xs whitespace-nowrap hover:underline"
          style="left: {labels[i]?.x ?? 0}px; top: {across * scale + 14 + leadPx}px"
          aria-label="Run {run.id}, {words(run)}, {sizeInWords(run, shopUnit())}"
          aria-keyshortcuts={canMove(run) ? 'm' : undefined}
          title={canMove(run) ? 'Drag it to another lane, or press M' : undefined}
          draggable={canMove(run)}
          ondragstart={() => ondragrun(run)}
          ondragend={() => ondragrun(null)}
          onkeydown={(event) => {
            if (event.key.toLowerCase() !== 'm' || event.ctrlKey || event.metaKey || event.altKey || !canMove(run)) return;
            event.preventDefault();
            onmoverun(run);
          }}
          >{#if isTight}Run {run.id}<br />{/if}{labels[i]?.text}</a
        >
      {/each}
    </div>
  {/if}
</div>
