<script lang="ts">
  import { onDestroy, untrack } from 'svelte';
  import { sizedFor, toRunPieces } from '$lib/run-pieces';
  import { TicketLayout } from './ticket-layout.svelte';
  import BleedLine from './ticket/BleedLine.svelte';
  import ChecksHere from './ticket/ChecksHere.svelte';
  import ColourLine from './ticket/ColourLine.svelte';
  import CopiesLine from './ticket/CopiesLine.svelte';
  import CutLine from './ticket/CutLine.svelte';
  import FinishingLine from './ticket/FinishingLine.svelte';
  import JigLine from './ticket/JigLine.svelte';
  import LayersLine from './ticket/LayersLine.svelte';
  import MediaLine from './ticket/MediaLine.svelte';
  import NamedColoursLine from './ticket/NamedColoursLine.svelte';
  import NoteLine from './ticket/NoteLine.svelte';
  import RecordsLine from './ticket/RecordsLine.svelte';
  import SizeLine from './ticket/SizeLine.svelte';
  import WallLine from './ticket/WallLine.svelte';
  import type { TicketChecks, TicketView } from './ticket/ticket';

  interface Props {
    view: TicketView;
    checks: TicketChecks;
    cropping: boolean;
    editing: string | null;
    picking: string | null;
    oncropping: (on: boolean) => void;
    onedit: (id: string) => void;
    onpick: (id: string) => void;
  }
  let { view, checks, cropping, editing, picking, oncropping, onedit, onpick }: Props = $props();

  const alone = new TicketLayout();
  onDestroy(() => alone.close());
  const question = $derived(
    view.stock && {
      stock: view.stock,
      rule: view.rule,
      pieces: sizedFor(
        view.stock,
        view.rule,
        toRunPieces({ ...view.docket, choices: view.choices }, { condition: view.condition })
      )
    }
  );
  $effect.pre(() => {
    const now = question;
    untrack(() => alone.ask(now));
  });
  const layout = $derived(alone.figures);
  const printed = $derived(view.inRun ? view.inRun.printed : layout?.printed);
</script>

<div class="space-y-4 p-4 text-[15px] leading-8">
  <div><SizeLine {view} {cropping} {oncropping} /><ChecksHere of="size" {checks} /></div>
  <div><WallLine {view} /><ChecksHere of="wall" {checks} /></div>
  <div><BleedLine {view} /><ChecksHere of="bleed" {checks} /></div>
  <CopiesLine {view} {layout} />
  <div><RecordsLine {view} /><ChecksHere of="records" {checks} /></div>
  <MediaLine {view} {layout} {printed} />
  <div><JigLine {view} /><ChecksHere of="jig" {checks} /></div>
  <div><ColourLine {view} /><NamedColoursLine {view} {picking} {onpick} /><ChecksHere of="colour" {checks} /></div>
  <div><LayersLine {view} {printed} {picking} {onpick} /><ChecksHere of="layers" {checks} /></div>
  {#if !view.choices.wall}<FinishingLine {view} />{/if}
  <div><CutLine {view} {editing} {picking} {onedit} {onpick} /><ChecksHere of="cut" {checks} /></div>
  <NoteLine {view} />
</div>
