<script lang="ts">
  import { bounds, flatten } from '$core/geometry/path';
  import { fitInto, fromNodes, toNodes, type NodeLine } from '$core/cutting/nodes';
  import { closedRings } from '$core/cutting/docket-lines';
  import { fitRing } from '$core/cutting/fit';
  import { counted } from '$core/units/counted';
  import type { LengthUnit } from '$core/units/length';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { act, type Chosen, type LineAction } from './line-editing';

  interface Props {
    lines: readonly NodeLine[];
    chosen: Chosen | null;
    unit: LengthUnit;
    onchange: (lines: NodeLine[]) => void;
    ondone: () => void;
  }
  let { lines, chosen, unit, onchange, ondone }: Props = $props();

  const box = $derived(bounds(flatten(fromNodes(lines), 0.05)) ?? { x: 0, y: 0, width: 0, height: 0 });
  const nodes = $derived(lines.reduce((sum, line) => sum + line.nodes.length, 0));
  let simplifyMm = $state(0.1);
  const BUTTONS: [LineAction, string, boolean][] = [
    ['add', 'Add a node after', true],
    ['remove', 'Delete', false],
    ['smooth', 'Smooth', true],
    ['straight', 'Straight', true],
    ['start', 'Start here', true],
    ['reverse', 'Reverse', false]
  ];
  const place = (part: Partial<typeof box>) => {
    const to = { ...box, ...part };
    if (to.width > 0 && to.height > 0) onchange(fitInto(lines, box, to));
  };
  function simplify(): void {
    const path = fromNodes(lines);
    const open = lines.filter((line) => !line.closed);
    onchange([...toNodes(closedRings(path).flatMap((ring) => fitRing(ring, simplifyMm))), ...open]);
  }
</script>

<div
  class="bg-base-100 border-base-content/30 sticky top-0 z-10 border-b p-4 py-3 text-sm"
  role="region"
  aria-label="Edit the line"
>
  <div class="flex items-center justify-between">
    <span class="font-semibold">{nodes} nodes in {counted(lines.length, 'line')}</span>
    <button class="btn btn-sm btn-primary" onclick={ondone}>Done</button>
  </div>
  <div class="my-2 flex flex-wrap gap-1">
    {#each BUTTONS as [action, words, needsNode] (action)}
      <button
        class="btn btn-xs"
        disabled={chosen === null || (needsNode && chosen.node === null)}
        title={chosen === null ? 'Choose a node or a line first' : ''}
        onclick={() => chosen && onchange(act(lines, chosen, action))}>{words}</button
      >
    {/each}
  </div>
  <p class="leading-7">
    All of it at <LengthBox
      sentence
      label="Left of the line"
      {unit}
      value={box.x}
      min={-50_000}
      onchange={(x) => place({ x })}
    />,
    <LengthBox sentence label="Top of the line" {unit} value={box.y} min={-50_000} onchange={(y) => place({ y })} />, in size
    <LengthBox
      sentence
      label="Width of the line"
      {unit}
      value={box.width}
      min={0.1}
      onchange={(width) => place({ width, height: (box.height * width) / box.width })}
    />
    × <LengthBox
      sentence
      label="Height of the line"
      {unit}
      value={box.height}
      min={0.1}
      onchange={(height) => place({ height })}
    />
    {unit}.
  </p>
  <p class="leading-7">
    <button class="btn btn-xs" onclick={simplify}>Simplify</button> to
    <LengthBox
      sentence
      label="Simplify to"
      unit="mm"
      value={simplifyMm}
      min={0.01}
      max={10}
      onchange={(mm) => (simplifyMm = mm)}
    /> mm.
  </p>
  <p class="text-base-content/70 mt-1 text-xs">
    Drag nodes, handles or the line; double click adds a node. Arrows move by 0.1 mm (Shift 1 mm), A adds, S smooth or straight,
    Delete removes. Shift keeps the direction, Alt does not snap.
  </p>
</div>
