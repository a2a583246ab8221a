import type * as mupdf from '../interpreter/interpreter';
import { flatten } from '../geometry/path';
import { readPath, type DrawingCalls } from './page';

/**
 * The ground of a page: the largest upright rectangle that is painted over without a hole, as pages have that a photograph or a
 * flat colour fills. Where it is known, nothing needs to be drawn to tell how far anything is painted.
 */
export class Ground {
  /** Points, in the coordinates of the page; nothing where there is none. */
  rect: mupdf.Rect | undefined;
  /** Clips that are open: the rectangle that each leaves, or nothing where it is of another shape. */
  readonly #clips: (mupdf.Rect | undefined)[] = [];
  /** Groups, masks and tiles that are open in which what is painted may not be what is seen. */
  #hidden = 0;
  /** Of each group that is open whether it is such a one. */
  readonly #groups: boolean[] = [];

  /** The same calls, looked at as they go by. */
  watching(forward: DrawingCalls): DrawingCalls {
    const clip = (rect: mupdf.Rect | undefined) => this.#clips.push(rect);
    const hide = <A extends unknown[], R>(call: (...args: A) => R) => {
      return (...args: A): R => {
        this.#hidden++;
        return call(...args);
      };
    };
    const show = <A extends unknown[], R>(call: (...args: A) => R) => {
      return (...args: A): R => {
        this.#hidden--;
        return call(...args);
      };
    };
    return {
      ...forward,
      fillPath: (path, evenOdd, ctm, space, color, alpha) => {
        if (alpha === 1) this.#paint(() => rectangle(path, ctm));
        forward.fillPath(path, evenOdd, ctm, space, color, alpha);
      },
      fillImage: (image, ctm, alpha) => {
        if (alpha === 1 && !image.getMask() && !image.getImageMask()) this.#paint(() => square(ctm));
        forward.fillImage(image, ctm, alpha);
      },
      clipPath: (path, evenOdd, ctm) => {
        clip(rectangle(path, ctm));
        forward.clipPath(path, evenOdd, ctm);
      },
      clipStrokePath: (...call) => {
        clip(undefined);
        forward.clipStrokePath(...call);
      },
      clipText: (...call) => {
        clip(undefined);
        forward.clipText(...call);
      },
      clipStrokeText: (...call) => {
        clip(undefined);
        forward.clipStrokeText(...call);
      },
      clipImageMask: (...call) => {
        clip(undefined);
        forward.clipImageMask(...call);
      },
      // A mask clips what comes after it, once it is drawn.
      beginMask: (...call) => {
        clip(undefined);
        hide(forward.beginMask)(...call);
      },
      endMask: show(forward.endMask),
      popClip: () => {
        this.#clips.pop();
        forward.popClip();
      },
      beginGroup: (area, space, isolated, knockout, blend, alpha) => {
        // What darkens or lightens leaves nothing unpainted; what is seen through does.
        const hides = alpha !== 1;
        this.#groups.push(hides);
        if (hides) this.#hidden++;
        forward.beginGroup(area, space, isolated, knockout, blend, alpha);
      },
      endGroup: () => {
        if (this.#groups.pop()) this.#hidden--;
        forward.endGroup();
      },
      beginTile: hide(forward.beginTile),
      endTile: show(forward.endTile)
    };
  }

  #paint(of: () => mupdf.Rect | undefined): void {
    if (this.#hidden > 0 || this.#clips.includes(undefined)) return;
    const painted = of();
    if (!painted) return;
    const rect = (this.#clips as mupdf.Rect[]).reduce(meet, painted);
    if (areaOf(rect) > (this.rect ? areaOf(this.rect) : 0)) this.rect = rect;
  }
}

const areaOf = ([x0, y0, x1, y1]: mupdf.Rect): number => Math.max(0, x1 - x0) * Math.max(0, y1 - y0);
const meet = (p: mupdf.Rect, q: mupdf.Rect): mupdf.Rect => [
  Math.max(p[0], q[0]),
  Math.max(p[1], q[1]),
  Math.min(p[2], q[2]),
  Math.min(p[3], q[3])
];

/** Points that differ by less are the same, points. */
const SAME = 1e-3;
const same = (p: number, q: number) => Math.abs(p - q) < SAME;

/** The upright rectangle of these corners, in their order around it. */
function upright(corners: readonly { x: number; y: number }[]): mupdf.Rect | undefined {
  const xs = corners.map(({ x }) => x);
  const ys = corners.map(({ y }) => y);
  const box: mupdf.Rect = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  const onCorner = corners.every(({ x, y }) => (same(x, box[0]) || same(x, box[2])) && (same(y, box[1]) || same(y, box[3])));
  const turns = corners.every((p, i) => {
    const next = corners[(i + 1) % corners.length]!;
    return same(p.x, next.x) !== same(p.y, next.y);
  });
  return corners.length === 4 && onCorner && turns ? box : undefined;
}

/** A path that is one upright rectangle. */
function rectangle(path: mupdf.Path, ctm: mupdf.Matrix): mupdf.Rect | undefined {
  const [x0, y0, x1, y1] = path.getBounds(null as unknown as mupdf.StrokeState, ctm);
  if (!(x1 > x0 && y1 > y0)) return undefined;
  const read = readPath(path, ctm);
  // Anything longer is another shape.
  if (read.length > 7) return undefined;
  const lines = flatten(read, 0.1).filter(({ points }) => points.length > 1);
  if (lines.length !== 1) return undefined;
  const { points } = lines[0]!;
  const last = points.at(-1)!;
  const open = same(last.x, points[0]!.x) && same(last.y, points[0]!.y) ? points.slice(0, -1) : points;
  return upright(open);
}

const square = ([a, b, c, d, e, f]: mupdf.Matrix): mupdf.Rect | undefined =>
  upright([
    { x: e, y: f },
    { x: a + e, y: b + f },
    { x: a + c + e, y: b + d + f },
    { x: c + e, y: d + f }
  ]);
