import * as mupdf from '../../interpreter/interpreter';
import { flatten, signedArea } from '../../geometry/path';
import { MM_PER_POINT } from '../../units/length';
import { readPath, type DrawingCalls } from '../page';
import { asked, paintOf } from './asked';
import type { PictureResolver } from './pictures';
import { isInkSpace, type ObjectKind, type Resolver } from './resolver';
import { StateReader } from './state-marks';

/** What a docket mends as a page is drawn. */
export interface Mends {
  /** Large areas of black alone are printed with all inks. */
  richBlack: boolean;
  /** Lines thinner than this at the finished size are made this thick, mm; 0 leaves them. */
  thinnestMm: number;
  /** The finished size over the page's. */
  enlargement: number;
}

/** A dark area of at least this much, finished, counts as large, mm². */
export const LARGE_AREA_MM2 = 2500;
/** What large black areas are printed with. */
const RICH_BLACK: mupdf.Color = [0.4, 0.3, 0.3, 1];

/** The calls with every colour settled: what goes on to `forward` is in the target's inks, or in spaces that have a profile. */
export function resolvedCalls(forward: DrawingCalls, resolver: Resolver, pictures: PictureResolver, mends: Mends): DrawingCalls {
  const { inks } = resolver;
  const { target } = inks;
  const reader = new StateReader();
  /** Layers that are open: whether they were only marks. */
  const layers: boolean[] = [];
  /** Soft masks that are being drawn: their greys are opacities and no colours that print. */
  let masks = 0;
  /** Groups and tiles of the page that are open. */
  let groups = 0;

  /** Draws an object in its inks: once, or, where it leaves some channels as they were, in two halves. */
  const paint = (
    kind: ObjectKind,
    bounds: () => mupdf.Rect,
    space: mupdf.ColorSpace,
    color: mupdf.Color,
    draw: (space: mupdf.ColorSpace, color: mupdf.Color) => void
  ) => {
    if (masks > 0) return draw(space, color);
    const resolved = resolver.resolve(space, color, kind, reader.now);
    if (!resolved) return;
    const { lays } = resolved;
    if (lays === 'covers') return draw(resolved.space, resolved.color);
    if (lays === 'mixes') return within('Multiply', bounds(), () => draw(resolved.space, resolved.color));
    const own = resolver.onTarget(resolved);
    const kept = (amount: number) => own.map((part, i) => (lays.keeps[i] ? amount : part)) as mupdf.Color;
    halves(bounds(), (amount) => draw(target, kept(amount)));
  };
  const within = (blend: mupdf.BlendMode, area: mupdf.Rect, draw: () => void) => {
    forward.beginGroup(area, target, false, false, blend, 1);
    draw();
    forward.endGroup();
  };
  /**
   * Sets some channels and leaves the others. Darkened by an object that has none of the others, its own channels can only have
   * too much; lightened by one that is full in the others they have what they should, at edges and through opacities too. In a
   * group there may be nothing beneath, which would take all of the second: there own channels only ever darken.
   */
  const halves = (area: mupdf.Rect, draw: (others: number) => void) => {
    within('Darken', area, () => draw(0));
    if (groups === 0) within('Lighten', area, () => draw(1));
  };
  const unit = (ctm: mupdf.Matrix) => mupdf.Rect.transform([0, 0, 1, 1], ctm);

  return {
    ...forward,
    fillPath: (path, evenOdd, ctm, space, color, alpha) => {
      if (masks === 0 && mends.richBlack && isLargeBlack(path, ctm, space, color, mends)) {
        if (isInkSpace(inks)) return forward.fillPath(path, evenOdd, ctm, target, RICH_BLACK, alpha);
        return forward.fillPath(path, evenOdd, ctm, mupdf.ColorSpace.DeviceGray, [0], alpha);
      }
      paint(
        'area',
        () => path.getBounds(NO_STROKE, ctm),
        space,
        color,
        (s, c) => forward.fillPath(path, evenOdd, ctm, s, c, alpha)
      );
    },
    strokePath: (path, thin, ctm, space, color, alpha) => {
      const stroke = thickened(thin, ctm, mends);
      paint(
        'line',
        () => path.getBounds(stroke, ctm),
        space,
        color,
        (s, c) => forward.strokePath(path, stroke, ctm, s, c, alpha)
      );
    },
    fillText: (text, ctm, space, color, alpha) =>
      paint(
        'lettering',
        () => text.getBounds(NO_STROKE, ctm),
        space,
        color,
        (s, c) => forward.fillText(text, ctm, s, c, alpha)
      ),
    strokeText: (text, stroke, ctm, space, color, alpha) =>
      paint(
        'line',
        () => text.getBounds(stroke, ctm),
        space,
        color,
        (s, c) => forward.strokeText(text, stroke, ctm, s, c, alpha)
      ),
    fillImageMask: (image, ctm, space, color, alpha) =>
      paint(
        'area',
        () => unit(ctm),
        space,
        color,
        (s, c) => forward.fillImageMask(image, ctm, s, c, alpha)
      ),
    fillImage: (image, ctm, alpha) => {
      if (masks > 0) return forward.fillImage(image, ctm, alpha);
      const picture = pictures.resolve(image, reader.now);
      if (!picture) return;
      if ('lightens' in picture) {
        return halves(unit(ctm), (others) => forward.fillImage(others ? picture.lightens : picture.darkens, ctm, alpha));
      }
      if (picture.lays === 'covers') return forward.fillImage(picture.image, ctm, alpha);
      within('Multiply', unit(ctm), () => forward.fillImage(picture.image, ctm, alpha));
    },
    beginMask: (area, luminosity, space, color) => {
      masks++;
      forward.beginMask(area, luminosity, space, color);
    },
    endMask: () => {
      masks--;
      forward.endMask();
    },
    // Colours are mixed in the inks that they print in, so that black alone stays that in a group.
    beginGroup: (area, space, ...rest) => {
      groups++;
      forward.beginGroup(area, masks === 0 && isInkSpace(inks) ? target : space, ...rest);
    },
    endGroup: () => {
      groups--;
      forward.endGroup();
    },
    // A tile is drawn by itself as a group is.
    beginTile: (...call) => {
      groups++;
      return forward.beginTile(...call);
    },
    endTile: () => {
      groups--;
      forward.endTile();
    },
    beginLayer: (name) => {
      const isMark = reader.read(name);
      layers.push(isMark);
      if (!isMark) forward.beginLayer(name);
    },
    endLayer: () => {
      if (layers.pop() === false) forward.endLayer();
    }
  };
}

const NO_STROKE = null as unknown as mupdf.StrokeState;

function isLargeBlack(
  path: mupdf.Path,
  ctm: mupdf.Matrix,
  space: mupdf.ColorSpace,
  color: mupdf.Color,
  { enlargement }: Mends
): boolean {
  if (paintOf(space, color) !== 'black') return false;
  const meant = asked(space, color);
  const full = meant.is === 'grey' ? meant.level < 0.05 : meant.is === 'process' && meant.inks[3] > 0.95;
  if (!full) return false;
  const area = flatten(readPath(path, ctm), 1).reduce((sum, { points }) => sum + signedArea(points), 0);
  return Math.abs(area) * (MM_PER_POINT * enlargement) ** 2 >= LARGE_AREA_MM2;
}

function thickened(stroke: mupdf.StrokeState, ctm: mupdf.Matrix, mends: Mends): mupdf.StrokeState {
  if (mends.thinnestMm <= 0) return stroke;
  const scale = Math.sqrt(Math.abs(ctm[0] * ctm[3] - ctm[1] * ctm[2])) * MM_PER_POINT * mends.enlargement;
  const thinnest = mends.thinnestMm / scale;
  if (!Number.isFinite(thinnest) || stroke.getLineWidth() >= thinnest) return stroke;
  return new mupdf.StrokeState({
    lineCap: mupdf.StrokeState.LINE_CAP[stroke.getLineCap()] ?? 'Butt',
    lineJoin: mupdf.StrokeState.LINE_JOIN[stroke.getLineJoin()] ?? 'Miter',
    lineWidth: thinnest,
    miterLimit: stroke.getMiterLimit(),
    dashPhase: stroke.getDashPhase(),
    dashes: stroke.getDashes() ?? []
  });
}
