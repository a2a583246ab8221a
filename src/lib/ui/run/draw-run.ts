import type { Matrix, Point } from '$core/geometry/matrix';
import type { StraightCut } from '$core/layout/straight-cuts';
import type { Dress } from '$core/layout/run-layout';
import { finishedToCopy, pictureBox, pictureClip, type RunPiece } from '$core/layout/run-piece';
import type { PlacedCopy } from '$core/layout/placement';
import { sizeBeyond, type Box } from '$core/geometry/box';

/** Draws a part of a run on a canvas whose units are mm of the roll; thousands of copies in one go. */

export interface DrawnPart {
  copies: readonly PlacedCopy[];
  ghosts: readonly PlacedCopy[];
  dress: Dress;
  /** Straight cuts along its pieces; none where it is cut along their lines. */
  trims: readonly StraightCut[];
}

/** Inks as they look on a screen, without any colour management: for marks only. */
const inkColour = ([c, m, y, k]: readonly number[]): string => {
  const part = (v: number) => Math.round(255 * (1 - v) * (1 - (k ?? 0)));
  return `rgb(${part(c ?? 0)} ${part(m ?? 0)} ${part(y ?? 0)})`;
};

/** A part of a picture, pixels. */
export interface Cutting {
  image: CanvasImageSource;
  /** As it reads → as it is printed, mm of the finished size. */
  place: Matrix;
  top: number;
  width: number;
  height: number;
}

const paths = new WeakMap<readonly unknown[], Path2D>();

function contourPath(contour: readonly (readonly Point[])[]): Path2D {
  const kept = paths.get(contour);
  if (kept) return kept;
  const path = new Path2D();
  for (const ring of contour) {
    ring.forEach((p, i) => (i === 0 ? path.moveTo(p.x, p.y) : path.lineTo(p.x, p.y)));
    path.closePath();
  }
  paths.set(contour, path);
  return path;
}

const meets = (p: Box, q: Box) => p.x < q.x + q.width && q.x < p.x + p.width && p.y < q.y + q.height && q.y < p.y + p.height;

/**
 * @param context its units are mm of this part
 * @param over what a record has over its artwork, at the finished size
 * @param seen what of the part is on the screen, mm
 * @param scale pixels a mm
 * @param clipOf what of the part a copy prints on, where that is not all of it
 */
export function drawPart(
  context: CanvasRenderingContext2D,
  part: DrawnPart,
  pieces: ReadonlyMap<string, RunPiece>,
  picture: (id: string, largePx: number) => CanvasImageSource | undefined,
  over: (id: string, record: number, largePx: number) => Cutting | undefined,
  seen: Box,
  scale: number,
  byShape: boolean,
  clipOf: (copy: PlacedCopy) => Path2D | undefined = () => undefined
): void {
  const hair = 1 / scale;
  const base = context.getTransform();
  context.lineWidth = 0.7 * hair;
  for (const copy of part.copies) {
    if (!meets(copy, seen)) continue;
    const piece = pieces.get(copy.id);
    if (!piece) continue;
    const { widthMm: w, heightMm: h, bleed } = piece;
    const printed = sizeBeyond(w, h, bleed);
    // Of a panel the picture is of all of the wall.
    const image = picture(copy.id, Math.max(w, h, piece.panel?.wall.widthMm ?? 0) * scale);
    context.save();
    const clip = clipOf(copy);
    if (clip) context.clip(clip, 'evenodd');
    context.transform(...finishedToCopy(piece, copy));
    const contour = byShape ? piece.contour : undefined;
    const small = Math.max(w, h) * scale < 24;
    if (contour && !small) context.clip(contourPath(contour), 'evenodd');
    if (image) {
      const shown = pictureClip(piece);
      if (shown) context.clip(contourPath(shown), 'evenodd');
      const box = pictureBox(piece);
      context.drawImage(image, box.x, box.y, box.width, box.height);
    } else {
      context.fillStyle = '#ddd';
      context.fillRect(-bleed.left, -bleed.top, printed.width, printed.height);
    }
    const written = copy.record === undefined || small ? undefined : over(copy.id, copy.record, Math.max(w, h) * scale);
    if (written) {
      // It is mirrored with its artwork.
      context.transform(...written.place);
      context.drawImage(written.image, 0, written.top, written.width, written.height, 0, 0, w, h);
    }
    context.restore();
    if ((small && !contour) || clip) continue;
    context.strokeStyle = '#888';
    if (contour) {
      context.save();
      context.transform(...finishedToCopy(piece, copy));
      context.lineWidth = 0.7 * hair;
      context.stroke(contourPath(contour));
      context.restore();
    } else context.strokeRect(copy.x, copy.y, copy.width, copy.height);
  }
  for (const { x, y, width, height, inks } of part.dress.flats) {
    if (!meets({ x, y, width, height }, seen)) continue;
    context.fillStyle = inkColour(inks);
    // A hair line is still seen from afar.
    context.fillRect(x, y, Math.max(width, 0.6 * hair), Math.max(height, 0.6 * hair));
  }
  for (const mark of [...part.dress.marks, ...part.dress.rings]) {
    const r = mark.diameter / 2;
    if (!meets({ x: mark.x - r, y: mark.y - r, width: 2 * r, height: 2 * r }, seen)) continue;
    const colour = inkColour(mark.inks ?? [0, 0, 0, 255]);
    const weight = Math.max(mark.weight ?? mark.diameter / 4, 0.8 * hair);
    context.fillStyle = context.strokeStyle = colour;
    if (mark.shape === 'square') context.fillRect(mark.x - r, mark.y - r, 2 * r, 2 * r);
    else if (mark.shape === 'cross') {
      context.fillRect(mark.x - r, mark.y - weight / 2, 2 * r, weight);
      context.fillRect(mark.x - weight / 2, mark.y - r, weight, 2 * r);
    } else {
      context.beginPath();
      context.arc(mark.x, mark.y, mark.shape === 'ring' ? r - weight / 2 : r, 0, 2 * Math.PI);
      if (mark.shape === 'ring') {
        context.lineWidth = weight;
        context.stroke();
      } else context.fill();
    }
  }
  for (const box of part.dress.code.codes) {
    if (!meets(box, seen)) continue;
    // What it says is known when it is RIPped: an open frame on two sides, as such a code has.
    context.fillStyle = '#000';
    context.fillRect(box.x, box.y, 1.2, box.height);
    context.fillRect(box.x, box.y + box.height - 1.2, box.width, 1.2);
    context.lineWidth = hair;
    context.strokeStyle = '#000';
    context.strokeRect(box.x, box.y, box.width, box.height);
  }
  context.lineWidth = hair;
  context.setLineDash([10 * hair, 3 * hair]);
  for (const { from, to } of part.trims) {
    context.beginPath();
    context.moveTo(from.x, from.y);
    context.lineTo(to.x, to.y);
    context.stroke();
  }
  context.setLineDash([]);
  for (const { x, y, heightMm, text, turn } of part.dress.letters) {
    if (heightMm * scale < 3) continue;
    context.save();
    context.translate(x, y);
    context.rotate((turn * Math.PI) / 180);
    context.fillStyle = '#000';
    context.font = `${heightMm / 0.72}px 'Inter Variable', sans-serif`;
    context.textBaseline = 'top';
    context.fillText(text, 0, -heightMm * 0.2);
    context.restore();
  }
  context.setTransform(base);
  context.strokeStyle = '#666';
  context.lineWidth = hair;
  context.setLineDash([5 * hair, 4 * hair]);
  for (const ghost of part.ghosts) {
    if (!meets(ghost, seen)) continue;
    context.fillStyle = '#0000000a';
    context.fillRect(ghost.x, ghost.y, ghost.width, ghost.height);
    context.strokeRect(ghost.x, ghost.y, ghost.width, ghost.height);
  }
  context.setLineDash([]);
}
