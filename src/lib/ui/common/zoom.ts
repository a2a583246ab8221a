import { select } from 'd3-selection';
import { zoom, zoomIdentity, type ZoomBehavior, type ZoomTransform } from 'd3-zoom';

export interface ZoomHandle {
  fit: () => void;
  by: (factor: number) => void;
  /** A scale, and where the origin goes, pixels. */
  to: (k: number, x: number, y: number) => void;
  destroy: () => void;
}

/** Wheel, drag and pinch on an SVG; `onchange` is told the transform. Arrow keys and + − do the same from the keyboard. Tools in the picture carry `data-tool`. */
export function makeZoom(node: SVGSVGElement, onchange: (transform: ZoomTransform) => void, most = 60): ZoomHandle {
  const behaviour: ZoomBehavior<SVGSVGElement, unknown> = zoom<SVGSVGElement, unknown>()
    .scaleExtent([0.5, most])
    // What is drawn over the picture to be dragged itself is marked so; the wheel zooms there too.
    .filter((event: MouseEvent) => event.type === 'wheel' || (!event.button && !(event.target as Element).closest('[data-tool]')))
    .on('zoom', ({ transform }: { transform: ZoomTransform }) => onchange(transform));
  const selection = select<SVGSVGElement, unknown>(node).call(behaviour);
  const keys = (event: KeyboardEvent) => {
    // A tool that has the focus takes the arrows for itself.
    if (event.target !== node) return;
    const step = 40;
    const move: Record<string, [number, number]> = {
      ArrowLeft: [step, 0],
      ArrowRight: [-step, 0],
      ArrowUp: [0, step],
      ArrowDown: [0, -step]
    };
    const by = move[event.key];
    if (by) behaviour.translateBy(selection, by[0], by[1]);
    else if (event.key === '+' || event.key === '=') behaviour.scaleBy(selection, 1.3);
    else if (event.key === '-') behaviour.scaleBy(selection, 1 / 1.3);
    else if (event.key === '0') behaviour.transform(selection, zoomIdentity);
    else return;
    event.preventDefault();
  };
  node.addEventListener('keydown', keys);
  return {
    fit: () => behaviour.transform(selection, zoomIdentity),
    by: (factor) => behaviour.scaleBy(selection, factor),
    to: (k, x, y) => behaviour.transform(selection, zoomIdentity.translate(x, y).scale(k)),
    destroy: () => {
      selection.on('.zoom', null);
      node.removeEventListener('keydown', keys);
    }
  };
}

/** Round steps for a ruler: about `pixels` apart at a scale of pixels a mm. */
export function rulerStep(pixelsPerMm: number, pixels = 70): number {
  const wanted = pixels / pixelsPerMm;
  const power = 10 ** Math.floor(Math.log10(wanted));
  return power * ([1, 2, 5, 10].find((n) => n * power >= wanted) ?? 10);
}

/** Places of ruler ticks between two lengths. */
export function ticks(from: number, to: number, step: number): number[] {
  const first = Math.ceil(from / step);
  const count = Math.min(400, Math.max(0, Math.floor(to / step) - first + 1));
  return Array.from({ length: count }, (_, i) => (first + i) * step);
}

export { zoomIdentity, type ZoomTransform };
