import { boxAround } from '../geometry/box';
import { apply } from '../geometry/matrix';
import type { InkSet } from '../inks/ink-set';
import type { LaidLayer } from '../inks/stack';
import type { Flat } from '../marks/print-list';
import { whiteAlone } from '../marks/white-grounds';
import type { Part } from './placement';
import { finishedToCopy, type RunPiece } from './run-piece';

/** White at the far ends of panels' overlaps, where that is asked for and white is laid down. */
export function whiteEnds(
  pieces: readonly RunPiece[],
  part: Pick<Part, 'copies'>,
  inks: InkSet,
  layers: readonly LaidLayer[]
): Flat[] {
  if (!layers.some(({ ink }) => ink === 'white')) return [];
  const amounts = whiteAlone(inks);
  return part.copies.flatMap((copy) => {
    const piece = pieces.find(({ id }) => id === copy.id);
    if (!piece?.panel) return [];
    const toCopy = finishedToCopy(piece, copy);
    return piece.panel.white.flatMap((ring) => {
      const box = boxAround([ring.map((p) => apply(toCopy, p))]);
      return box ? [{ ...box, inks: amounts }] : [];
    });
  });
}
