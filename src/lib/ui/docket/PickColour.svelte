<script lang="ts">
  import type { Preparation } from '$core/artwork/preparation';
  import { labOfRgb, type Triple } from '$core/colour/lab';
  import type { Point } from '$core/geometry/matrix';
  import { MOST_PICKED, type Layer, type Stack } from '$core/inks/stack';
  import type { DocketChoices } from '$lib/docket-choices';
  import type { Docket } from '$lib/server/dockets/dockets';
  import { attempt, send } from '$lib/ui/common/client';
  import { pointIn } from './drag';
  import { colourAt } from './picking';
  import { traceFine } from './tracing';

  /** A click takes a colour from the picture: of a background, for a layer of ink, or one that is to print as a named one. */
  interface Props {
    docket: Docket;
    choices: DocketChoices;
    preparation: Preparation;
    stack: Stack;
    conditionId: number | null;
    /** What it is for: a layer, a line that is made, or *colour*. */
    what: string;
    onpicked: () => void;
    change: (part: Partial<DocketChoices>) => void;
  }
  const { docket, choices, preparation, stack, conditionId, what, onpicked, change }: Props = $props();

  /** How far from what was picked a flat colour may be, to be meant, until somebody says otherwise. */
  const USUAL_WITHIN = 3;

  let place: SVGGElement;

  async function pick(event: MouseEvent): Promise<void> {
    event.stopPropagation();
    const at = pointIn(place, event);
    // This is gone, and what it is for forgotten, as soon as it was clicked.
    const wanted = what;
    const ofLayer = () => stack.layers.find(({ id }) => wanted === `layer-${id}`);
    onpicked();
    await attempt(async () => {
      if (wanted === 'colour') return pickFlat(at);
      const rgb = await colourAt(docket, preparation, ofLayer() ? { conditionId } : null, at);
      // As it is now: another colour may have been picked while this one was looked at.
      const layer = ofLayer();
      if (layer) pickForLayer(layer, rgb);
      else await traceAround(wanted, rgb);
    });
  }

  /** A flat colour that is to print in a named one, which is chosen next. */
  async function pickFlat(at: Point): Promise<void> {
    const { lab } = await send<{ lab: Triple }>('POST', `/api/dockets/${docket.id}/colours`, at);
    const flat = lab.map((v) => Math.round(v * 10) / 10) as Triple;
    change({ colours: [...choices.colours, { what: { flat, within: USUAL_WITHIN }, to: null }] });
  }

  /** One more colour, and the first gives way; black alone is what a layer has before any was picked. */
  function pickForLayer(layer: Layer, rgb: Triple): void {
    if (layer.cover.is !== 'colours') return;
    const { picked } = layer.cover;
    const before = picked.length === 1 && picked[0]!.every((part) => part === 0) ? [] : picked;
    const cover = { ...layer.cover, picked: [...before, labOfRgb(...rgb)].slice(-MOST_PICKED) };
    change({ stack: { ...stack, layers: stack.layers.map((one) => (one.id === layer.id ? { ...one, cover } : one)) } });
  }

  /** A line around what is not of a background’s colour. */
  async function traceAround(id: string, background: Triple): Promise<void> {
    const from = choices.lines.made.find((one) => one.id === id)?.from;
    if (from?.kind !== 'found') return;
    const found = { ...from, background };
    const outline = await traceFine(docket.id, found);
    // All else of it is as it is now.
    const made = choices.lines.made.map((one) => (one.id === id ? { ...one, from: { ...found, outline } } : one));
    change({ lines: { ...choices.lines, made } });
  }
</script>

<g bind:this={place} data-tool>
  <!-- svelte-ignore a11y_click_events_have_key_events -->
  <rect
    x={-choices.bleedMm}
    y={-choices.bleedMm}
    width={choices.widthMm + 2 * choices.bleedMm}
    height={choices.heightMm + 2 * choices.bleedMm}
    fill="transparent"
    class="cursor-crosshair"
    role="button"
    tabindex="-1"
    aria-label="Click a colour of the artwork"
    onclick={pick}
  />
</g>
