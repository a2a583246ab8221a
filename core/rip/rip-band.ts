import { inkCurves, ownPlane } from '../inks/divide';
import { channelsOf, PROCESS_CHANNELS } from '../inks/ink-set';
import { limitTables, type LimitTables } from '../inks/limit';
import type { Kernels } from '../kernels/kernels';
import { makeScreener, type Errors, type HalftoneMethod, type Mask, type Screener } from '../screening/screener';
import { straightCurve } from '../screening/thresholds';
import { Composer, type ComposedRow } from './compose';
import { PartDrawer, type DrawingOf, type Needed, type Part, type Sprite } from './parts';
import { PIXEL_BYTES, plateLayout, type Band, type RipPlan } from './plan';
import { Recorder, type RippedBand } from './record';

export interface ScreenSettings {
  method: HalftoneMethod;
  /** By channel of the profile, 256 values → share of the fullest drop. */
  curves: readonly ArrayLike<number>[];
}

/**
 * One thread's share of the work on a run: a band is drawn, composed, kept within the total ink limit, divided among the
 * inks, screened and recorded.
 */
export class BandRipper {
  readonly #kernels: Kernels;
  readonly #plan: RipPlan;
  readonly #widthPx: number;
  readonly #drawer: PartDrawer;
  readonly #screener: Screener;
  readonly #recorder: Recorder;
  readonly #limit: (Pick<LimitTables, 'limit' | 'safe'> & { totals: number; coarse: number }) | undefined;
  /** In the kernels’ memory: the composed row, and a row for each channel. */
  readonly #row: number;
  readonly #channels: number[];
  /** Rows that inks have of their own: from the row of their channel through a table. */
  readonly #ownPlanes: { source: number; table: number; target: number }[] = [];
  /** By ink: the row that it is screened from, and its packed row. */
  readonly #sources: number[];
  readonly #targets: number[];

  constructor(kernels: Kernels, plan: RipPlan, mask: Mask, settings: ScreenSettings) {
    this.#kernels = kernels;
    this.#plan = plan;
    const layout = plateLayout(plan);
    const { widthPx } = layout;
    this.#widthPx = widthPx;
    this.#drawer = new PartDrawer(plan);
    const channels = channelsOf(plan.inks);
    const channelOf = plan.inks.map(({ channel }) => channels.indexOf(channel));
    const curves = inkCurves(plan.inks, Object.fromEntries(PROCESS_CHANNELS.map((name, i) => [name, settings.curves[i]!])));
    const tables = curves.map(ownPlane);
    const screened = plan.inks.map(({ drops, shift }, ink) => ({
      drops,
      shift,
      curve: tables[ink] ? straightCurve() : curves[ink]!
    }));
    this.#screener = makeScreener(settings.method, kernels, widthPx, mask, screened);
    this.#recorder = new Recorder(kernels, layout, plan.inks);
    if (plan.totalInk !== null) {
      const laid = curves.map((curve, ink) => {
        const table = tables[ink];
        return table ? Float64Array.from(table, (value) => value / 255) : curve;
      });
      const made = limitTables(laid, channelOf, PIXEL_BYTES, plan.totalInk);
      const totals = kernels.allocate(made.totals.length * 2);
      new Uint16Array(kernels.run.memory.buffer, totals, made.totals.length).set(made.totals);
      const coarse = kernels.allocate(made.coarse.length);
      kernels.bytes(coarse, made.coarse.length).set(made.coarse);
      this.#limit = { limit: made.limit, safe: made.safe, totals, coarse };
    }
    this.#row = kernels.allocate(widthPx * PIXEL_BYTES);
    const planes = kernels.allocate(widthPx * channels.length);
    this.#channels = channels.map((_, i) => planes + i * widthPx);
    this.#sources = channelOf.map((channel, ink) => {
      const source = this.#channels[channel]!;
      const table = tables[ink];
      if (!table) return source;
      const own = { source, table: kernels.allocate(table.length), target: kernels.allocate(widthPx) };
      kernels.bytes(own.table, table.length).set(table);
      this.#ownPlanes.push(own);
      return own.target;
    });
    this.#targets = plan.inks.map(() => kernels.allocate(widthPx / 4));
  }

  /** The drawings that the band needs. */
  needed(band: Band, sprites: readonly Sprite[]): Needed[] {
    return this.#drawer.needed(band, sprites);
  }

  /** Draws what of the run's pieces lies in the band. */
  draw(band: Band, sprites: readonly Sprite[], drawingOf: DrawingOf): Part[] {
    return this.#drawer.draw(band, sprites, drawingOf);
  }

  /** Makes drops of the band. `errors` are those of the band before, in error diffusion. */
  screen(band: Band, parts: readonly Part[], errors?: Errors): RippedBand & { errors: Errors | undefined } {
    this.#screener.errors = errors;
    const composer = new Composer(this.#plan, this.#widthPx, band, parts);
    const recording = this.#recorder.begin(band);
    const nothing = this.#targets.map(() => undefined);
    const row = this.#composedRow();
    let clean = false;
    for (let r = 0; r < band.rows; r++) {
      // What the row before left there is no part of this one.
      if (!clean) clear(row);
      clean = !composer.row(band.y + r, row);
      if (clean && this.#screener.mayPass) recording.row(r, nothing);
      else recording.row(r, this.#drops(band.y + r));
    }
    for (const part of parts) part.pixmap?.destroy();
    return { ...recording.finish(), errors: errors && this.#screener.errors };
  }

  /** From the composed row to packed rows of drops. @returns where each ink’s row is; nothing where it has no drop */
  #drops(y: number): (number | undefined)[] {
    const { run } = this.#kernels;
    if (this.#limit) {
      const { totals, limit, safe, coarse } = this.#limit;
      run.limitRow(this.#row, this.#widthPx, totals, limit, safe, coarse);
    }
    run.splitRow(this.#row, this.#widthPx, this.#channels[0]!, this.#widthPx);
    for (const { source, table, target } of this.#ownPlanes) run.mapRow(source, this.#widthPx, table, target);
    const inked = this.#screener.row(y, this.#sources, this.#targets);
    return this.#targets.map((target, ink) => (inked[ink] ? target : undefined));
  }

  /** Views of the kernels’ memory, which does not grow while a band is made. */
  #composedRow(): ComposedRow {
    return {
      pixels: this.#kernels.bytes(this.#row, this.#widthPx * PIXEL_BYTES),
      others: this.#channels.slice(PIXEL_BYTES).map((at) => this.#kernels.bytes(at, this.#widthPx))
    };
  }
}

function clear({ pixels, others }: ComposedRow): void {
  pixels.fill(0);
  for (const other of others) other.fill(0);
}
