<script lang="ts">
  import Pencil from '@lucide/svelte/icons/pencil';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { onDestroy } from 'svelte';
  import { TOOLS, type Tool } from '$core/artwork/roles';
  import type { LineSource, MadeLine } from '$core/artwork/cut-choices';
  import { formatFigure, type LengthUnit } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { isAlike } from '$lib/ui/common/together';
  import { traceCoarse, traceFine } from '../tracing';

  interface Props {
    docketId: number;
    version: number;
    line: MadeLine;
    number: number;
    unit: LengthUnit;
    /** Nodes and length of the line as it is. */
    nodes: number;
    editing: boolean;
    picking: boolean;
    onchange: (line: MadeLine) => void;
    onedit: () => void;
    onpick: () => void;
    onremove: () => void;
  }
  let { docketId, version, line, number, unit, nodes, editing, picking, onchange, onedit, onpick, onremove }: Props = $props();

  type Found = Extract<LineSource, { kind: 'found' }>;
  const found = $derived(line.from.kind === 'found' ? line.from : null);
  const page = $derived(line.from.kind === 'page' ? line.from : null);
  const set = (part: Partial<MadeLine>) => onchange({ ...line, ...part });
  let tracing = $state<'' | 'coarse' | 'fine'>('');
  let wrong = $state('');
  let timer: ReturnType<typeof setTimeout> | undefined;
  let turn = 0;
  onDestroy(() => clearTimeout(timer));

  /** Coarse at once, so that the line follows the slider; fine when it rests. */
  async function find(from: Found): Promise<void> {
    const mine = ++turn;
    clearTimeout(timer);
    wrong = '';
    tracing = 'coarse';
    const before = line.from;
    try {
      const coarse = { ...from, outline: await traceCoarse(docketId, version, from) };
      if (!isMine(mine, before)) return;
      onchange({ ...line, from: coarse });
      tracing = 'fine';
      timer = setTimeout(() => void refine(coarse, mine), 350);
    } catch (error) {
      tell(error, mine);
    }
  }
  async function refine(from: Found, mine: number): Promise<void> {
    try {
      const outline = await traceFine(docketId, from);
      if (!isMine(mine, from)) return;
      onchange({ ...line, from: { ...from, outline } });
      tracing = '';
    } catch (error) {
      tell(error, mine);
    }
  }
  /** Nothing else was asked for, and what was drawn by hand or given another background meanwhile stays. */
  function isMine(mine: number, before: LineSource): boolean {
    if (mine !== turn) return false;
    if (isAlike(line.from, before)) return true;
    tracing = '';
    return false;
  }
  function tell(error: unknown, mine: number): void {
    if (mine !== turn) return;
    tracing = '';
    wrong = error instanceof Error ? error.message : String(error);
  }

  const WAYS: [string, string][] = [
    ['page/rectangle', 'the page, square'],
    ['page/rounded', 'the page, rounded'],
    ['page/ellipse', 'an ellipse in the page'],
    ['found/opaque', 'what is opaque'],
    ['found/background', 'what is not background'],
    ['found/shapes', 'the shapes drawn']
  ];
  const way = $derived(page ? `page/${page.shape}` : found ? `found/${found.how}` : 'drawn');
  function setWay(next: string): void {
    const [kind, how] = next.split('/');
    // What is still being traced for the way before comes too late.
    turn++;
    clearTimeout(timer);
    tracing = '';
    if (kind === 'page') set({ from: { kind: 'page', shape: how as 'rectangle', radiusMm: page?.radiusMm ?? 5 } });
    else if (kind === 'found') {
      const threshold = how === 'background' ? 12 : 0.5;
      void find({ kind: 'found', how: how as Found['how'], threshold, background: null, outline: found?.outline ?? '' });
    }
  }
  const rgb = (colour: readonly number[]) => `#${colour.map((v) => Math.round(v).toString(16).padStart(2, '0')).join('')}`;
</script>

<li class="border-base-300 border-l-2 pl-2">
  <div class="flex items-center gap-1">
    <span class="grow">
      {number}.
      <select
        class="in-sentence"
        aria-label="Tool of line {number}"
        value={line.tool}
        onchange={(event) => set({ tool: event.currentTarget.value as Tool })}
      >
        {#each TOOLS as tool (tool)}<option>{tool}</option>{/each}
      </select>
      around
      <select
        class="in-sentence"
        aria-label="Line {number} around"
        value={way}
        onchange={(event) => setWay(event.currentTarget.value)}
      >
        {#each WAYS as [value, words] (value)}<option {value}>{words}</option>{/each}
        {#if way === 'drawn'}<option value="drawn">what was drawn by hand</option>{/if}
      </select>
    </span>
    <button class="btn btn-xs" class:btn-active={editing} aria-pressed={editing} onclick={onedit}
      ><Pencil size={13} aria-hidden="true" />{editing ? 'Done' : 'Edit nodes'}</button
    >
    <button class="btn btn-xs btn-ghost btn-square" aria-label="Remove line {number}" onclick={onremove}
      ><Trash size={14} /></button
    >
  </div>
  <div class="text-sm leading-7">
    {#if page?.shape === 'rounded'}
      corners of <LengthBox
        sentence
        label="Corner radius"
        {unit}
        value={page.radiusMm}
        max={1000}
        onchange={(radiusMm) => set({ from: { ...page, radiusMm } })}
      />
      {unit},
    {/if}
    {#if found?.how === 'opaque'}
      <label class="flex items-center gap-2"
        >opaque from <input
          class="range range-xs w-32"
          type="range"
          min="0.02"
          max="1"
          step="0.01"
          aria-label="Opacity threshold"
          value={found.threshold}
          oninput={(event) => void find({ ...found, threshold: Number(event.currentTarget.value) })}
        /><span class="w-12 font-semibold">{Math.round(found.threshold * 100)} %</span></label
      >
    {:else if found?.how === 'background'}
      <label class="flex items-center gap-2"
        ><span class="whitespace-nowrap">from ΔE00</span>
        <input
          class="range range-xs w-32"
          type="range"
          min="1"
          max="60"
          step="0.5"
          aria-label="Distance from the background"
          value={found.threshold}
          oninput={(event) => void find({ ...found, threshold: Number(event.currentTarget.value) })}
        /><span class="w-10 font-semibold">{found.threshold}</span>
        {#if found.background}<span class="inline-block h-4 w-4 border" style="background: {rgb(found.background)}"></span>{/if}
        <button class="btn btn-xs" class:btn-active={picking} aria-pressed={picking} onclick={onpick}
          >{picking ? 'Click the background' : found.background ? 'Other background' : 'Pick the background'}</button
        ></label
      >
    {/if}
    <LengthBox
      sentence
      label="Offset of line {number}"
      {unit}
      value={line.offsetMm}
      min={-200}
      max={200}
      onchange={(offsetMm) => set({ offsetMm })}
    />
    {unit}
    {line.offsetMm < 0 ? 'inside' : 'outside'}, corners
    <select
      class="in-sentence"
      aria-label="Corners of line {number}"
      value={line.corners}
      onchange={(event) => set({ corners: event.currentTarget.value as MadeLine['corners'] })}
    >
      <option>round</option><option>sharp</option>
    </select>{#if found},
      <select
        class="in-sentence"
        aria-label="Holes of line {number}"
        value={line.holes ? 'with' : 'without'}
        onchange={(event) => set({ holes: event.currentTarget.value === 'with' })}
      >
        <option value="with">with holes</option><option value="without">outside only</option>
      </select>, smooth to
      <LengthBox
        sentence
        label="Smoothing of line {number}"
        unit="mm"
        value={line.smoothMm}
        min={0.005}
        max={10}
        onchange={(smoothMm) => set({ smoothMm })}
      /> mm, nothing under
      <FigureBox
        sentence
        label="Smallest area of line {number}, mm²"
        unit="mm²"
        decimals={2}
        max={1e6}
        value={line.smallestMm2}
        onchange={(smallestMm2) => set({ smallestMm2 })}
      />
      mm², bridges
      <LengthBox
        sentence
        label="Bridges of line {number}"
        unit="mm"
        value={line.bridgeMm}
        max={100}
        onchange={(bridgeMm) => set({ bridgeMm })}
      /> mm wide{/if}.
    <span class="text-base-content/70"
      >{formatFigure(nodes, 0)} nodes{tracing === 'fine'
        ? ', being traced finely…'
        : tracing === 'coarse'
          ? ', being traced…'
          : ''}</span
    >
    {#if wrong}<span class="text-error block text-xs" role="alert">{wrong}</span>{/if}
  </div>
</li>
