import { apply, chain, rotation, translation } from '../geometry/matrix';
import { textFlats } from '../marks/lettering';
import { BLACK, type Amounts, type Flat, type Mark } from '../marks/print-list';
import { MM_PER_INCH } from '../units/length';
import type { Band, RipPlan } from './plan';

/** The print list of a run as stretches of pixels, row by row. */

/** Fills pixels `from`…`to` of the row at hand, `to` left out. */
export type Paint = (from: number, to: number, amounts: Amounts) => void;

const toPx = (mm: number, dpi: number) => (mm * dpi) / MM_PER_INCH;

interface FlatPx {
  left: number;
  right: number;
  top: number;
  bottom: number;
  inks: Amounts;
}

/** What is printed beside artwork in one band; rows are asked for from its first to its last. */
export class PrintedMarks {
  readonly #dpi: RipPlan['dpi'];
  readonly #widthPx: number;
  readonly #marks: Mark[];
  /** Those that are still to come, the next one last. */
  readonly #waiting: FlatPx[];
  #open: FlatPx[] = [];

  constructor(plan: RipPlan, widthPx: number, band: Band) {
    const { dpi } = plan;
    this.#dpi = dpi;
    this.#widthPx = widthPx;
    const meets = (top: number, bottom: number) => bottom > band.y && top < band.y + band.rows;
    this.#marks = [...plan.marks, ...(plan.rings ?? [])].filter(({ y, diameter }) =>
      meets(toPx(y - diameter, dpi.y), toPx(y + diameter, dpi.y))
    );
    this.#waiting = [...(plan.flats ?? []), ...lettering(plan, band)]
      .map(({ x, y, width, height, inks }) => ({
        left: Math.max(0, Math.round(toPx(x, dpi.x))),
        right: Math.min(widthPx, Math.round(toPx(x + width, dpi.x))),
        top: Math.round(toPx(y, dpi.y)),
        bottom: Math.round(toPx(y + height, dpi.y)),
        inks
      }))
      .filter(({ top, bottom }) => meets(top, bottom))
      .sort((p, q) => q.top - p.top);
  }

  row(y: number, paint: Paint): void {
    for (let next = this.#waiting.at(-1); next && next.top <= y; next = this.#waiting.at(-1)) {
      this.#open.push(next);
      this.#waiting.pop();
    }
    if (this.#open.some(({ bottom }) => bottom <= y)) this.#open = this.#open.filter(({ bottom }) => bottom > y);
    for (const { left, right, inks } of this.#open) paint(left, right, inks);
    for (const mark of this.#marks) this.#mark(y, mark, paint);
  }

  #mark(y: number, mark: Mark, paint: Paint): void {
    const dy = (y + 0.5) * (MM_PER_INCH / this.#dpi.y) - mark.y;
    const r = mark.diameter / 2;
    if (Math.abs(dy) >= r) return;
    const weight = mark.weight ?? mark.diameter / 4;
    const px = (dx: number) => Math.round(toPx(mark.x + dx, this.#dpi.x));
    const across = (from: number, to: number) =>
      paint(Math.max(0, px(from)), Math.min(this.#widthPx, px(to)), mark.inks ?? BLACK);
    const half = Math.sqrt(r * r - dy * dy);
    if (mark.shape === 'square') across(-r, r);
    else if (mark.shape === 'cross') {
      const arm = Math.abs(dy) < weight / 2 ? r : weight / 2;
      across(-arm, arm);
    } else if (mark.shape === 'ring' && Math.abs(dy) < r - weight) {
      const hole = Math.sqrt((r - weight) ** 2 - dy * dy);
      across(-half, -hole);
      across(hole, half);
    } else across(-half, half);
  }
}

/** Text of the plan that meets a band, as rectangles. */
function lettering(plan: RipPlan, band: Band): Flat[] {
  const mm = MM_PER_INCH / plan.dpi.y;
  const flats: Flat[] = [];
  for (const { x, y, heightMm, text, turn, inks } of plan.letters ?? []) {
    const reach = heightMm * (text.length + 2);
    if (y - reach > (band.y + band.rows) * mm || y + reach < band.y * mm) continue;
    const place = chain(rotation(turn), translation(x, y));
    for (const flat of textFlats(text, heightMm).flats) {
      const p = apply(place, flat);
      const q = apply(place, { x: flat.x + flat.width, y: flat.y + flat.height });
      flats.push({ x: Math.min(p.x, q.x), y: Math.min(p.y, q.y), width: Math.abs(q.x - p.x), height: Math.abs(q.y - p.y), inks });
    }
  }
  return flats;
}
