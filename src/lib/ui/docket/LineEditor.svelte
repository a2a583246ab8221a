<script lang="ts">
  import { pathData } from '$core/geometry/path';
  import type { Point } from '$core/geometry/matrix';
  import {
    addNode,
    fromNodes,
    mapLine,
    moveHandle,
    moveNode,
    nearestOn,
    snap,
    withLine,
    type NodeLine
  } from '$core/cutting/nodes';
  import { formatClosely } from '$core/units/length';
  import { follow, pointIn } from './drag';
  import type { Chosen } from './line-editing';
  import { shopUnit } from '$lib/ui/common/shop-unit';

  interface Props {
    lines: readonly NodeLine[];
    chosen: Chosen | null;
    /** Of the finished size, mm: its edges and middle are snapped to. */
    widthMm: number;
    heightMm: number;
    scale: number;
    onchoose: (chosen: Chosen | null) => void;
    onchange: (lines: NodeLine[]) => void;
    onkeys: (event: KeyboardEvent) => void;
  }
  let { lines, chosen, widthMm, heightMm, scale, onchoose, onchange, onkeys }: Props = $props();

  let group: SVGGElement;
  /** What is dragged now, not yet kept. */
  let live = $state.raw<NodeLine[] | null>(null);
  let told = $state<{ at: Point; text: string } | null>(null);
  let snapped = $state<Point | null>(null);
  const shown = $derived(live ?? lines);
  const px = $derived(1 / scale);
  const SNAP_PX = 7;
  const guides = $derived({ x: [0, widthMm / 2, widthMm], y: [0, heightMm / 2, heightMm] });

  const closely = (mm: number) => formatClosely(mm, shopUnit());
  const distance = (from: Point, to: Point) =>
    `${closely(Math.hypot(to.x - from.x, to.y - from.y))}  (${closely(to.x - from.x)}, ${closely(to.y - from.y)})`;

  function drag(event: PointerEvent, start: Point, apply: (to: Point) => NodeLine[], others: readonly Point[]): void {
    if (event.button !== 0) return;
    const grabbed = pointIn(group, event);
    follow(
      event,
      (e) => {
        const p = pointIn(group, e);
        let to = { x: start.x + p.x - grabbed.x, y: start.y + p.y - grabbed.y };
        // With Shift only across, only along, or slantwise.
        if (e.shiftKey) {
          const angle = (Math.round(Math.atan2(to.y - start.y, to.x - start.x) / (Math.PI / 4)) * Math.PI) / 4;
          const length = Math.hypot(to.x - start.x, to.y - start.y);
          to = { x: start.x + Math.cos(angle) * length, y: start.y + Math.sin(angle) * length };
        } else if (!e.altKey) {
          const found = snap(to, others, guides, SNAP_PX * px);
          to = found.at;
          snapped = found.snapped ? found.at : null;
        }
        live = apply(to);
        told = { at: to, text: distance(start, to) };
      },
      () => {
        const result = live;
        live = null;
        told = null;
        snapped = null;
        if (result) onchange(result);
      }
    );
  }

  const nodesBut = (l: number, i: number) =>
    lines.flatMap((line, ll) => line.nodes.filter((_, ii) => ll !== l || ii !== i).map((node) => node.at));

  function dragNode(event: PointerEvent, l: number, i: number): void {
    onchoose({ line: l, node: i });
    const from = lines[l]?.nodes[i]?.at;
    if (from) drag(event, from, (to) => withLine(lines, l, (line) => moveNode(line, i, to)), nodesBut(l, i));
  }
  function dragHandle(event: PointerEvent, l: number, i: number, which: 'before' | 'after'): void {
    const from = lines[l]?.nodes[i]?.[which];
    if (from) drag(event, from, (to) => withLine(lines, l, (line) => moveHandle(line, i, which, to)), []);
  }
  function dragLine(event: PointerEvent, l: number): void {
    const line = lines[l];
    const start = pointIn(group, event);
    if (!line) return;
    onchoose({ line: l, node: null });
    drag(
      event,
      start,
      (to) => withLine(lines, l, (one) => mapLine(one, (p) => ({ x: p.x + to.x - start.x, y: p.y + to.y - start.y }))),
      []
    );
  }
  function addAt(event: MouseEvent, l: number): void {
    event.stopPropagation();
    const line = lines[l];
    if (!line) return;
    const { index, t } = nearestOn(line, pointIn(group, event));
    onchange(withLine(lines, l, (one) => addNode(one, index, t)));
    onchoose({ line: l, node: index + 1 });
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<g bind:this={group} data-tool role="group" aria-label="Line being edited" onkeydown={onkeys}>
  {#each shown as line, l (l)}
    {@const d = pathData(fromNodes([line]), 4)}
    <path {d} fill="none" stroke="#fff" stroke-width="4" vector-effect="non-scaling-stroke" />
    <path {d} fill="none" class="stroke-primary" stroke-width="1.8" vector-effect="non-scaling-stroke" />
    <!-- Wide and unseen, so that the line is easily met. -->
    <path
      {d}
      fill="none"
      stroke="transparent"
      stroke-width="14"
      vector-effect="non-scaling-stroke"
      class="cursor-move"
      role="button"
      tabindex="-1"
      aria-label="Line {l + 1}: drag to move it, double click to add a node"
      onpointerdown={(event) => dragLine(event, l)}
      ondblclick={(event) => addAt(event, l)}
    />
  {/each}
  {#each shown as line, l (l)}
    {#each line.nodes as node, i (i)}
      {@const active = chosen?.line === l && chosen.node === i}
      {#if active || (chosen?.line === l && chosen.node !== null && Math.abs(chosen.node - i) === 1)}
        {#each ['before', 'after'] as const as which (which)}
          {@const at = node[which]}
          {#if at}
            <line
              x1={node.at.x}
              y1={node.at.y}
              x2={at.x}
              y2={at.y}
              stroke="#555"
              stroke-width="1"
              vector-effect="non-scaling-stroke"
            />
            <circle
              cx={at.x}
              cy={at.y}
              r={4.5 * px}
              class="fill-base-100 cursor-move"
              stroke="#333"
              stroke-width="1.5"
              vector-effect="non-scaling-stroke"
              role="button"
              tabindex="-1"
              aria-label="Handle of node {i + 1}"
              onpointerdown={(event) => dragHandle(event, l, i, which)}
            />
          {/if}
        {/each}
      {/if}
      <rect
        x={node.at.x - 4.5 * px}
        y={node.at.y - 4.5 * px}
        width={9 * px}
        height={9 * px}
        rx={node.before && node.after ? 4.5 * px : 0}
        class="cursor-move outline-none {active ? 'fill-primary' : 'fill-base-100'}"
        stroke="#222"
        stroke-width={i === 0 ? 3 : 1.5}
        vector-effect="non-scaling-stroke"
        role="button"
        tabindex="0"
        aria-label="Node {i + 1} of line {l + 1}{i === 0 ? ', the start' : ''}"
        aria-pressed={active}
        onfocus={() => onchoose({ line: l, node: i })}
        onpointerdown={(event) => dragNode(event, l, i)}
      />
    {/each}
  {/each}
  {#if snapped}<circle
      cx={snapped.x}
      cy={snapped.y}
      r={9 * px}
      fill="none"
      class="stroke-primary"
      stroke-width="1.5"
      vector-effect="non-scaling-stroke"
    />{/if}
  {#if told}
    <g transform="translate({told.at.x} {told.at.y - 16 * px}) scale({px})">
      <text text-anchor="middle" font-size="13" fill="#111" stroke="#fff" stroke-width="4" paint-order="stroke">{told.text}</text>
    </g>
  {/if}
</g>
