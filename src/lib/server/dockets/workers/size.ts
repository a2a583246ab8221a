import type { Piece } from '$core/artwork/piece';
import { sizeBeyond } from '$core/geometry/box';

/** Pixels of a piece with its bleed, the longer side of so many. */
export const sizeOf = (piece: Piece, mostPx: number) => {
  const { width: w, height: h } = sizeBeyond(piece.widthMm, piece.heightMm, piece.bleed);
  const scale = mostPx / Math.max(w, h);
  return { width: Math.max(1, Math.round(w * scale)), height: Math.max(1, Math.round(h * scale)) };
};
