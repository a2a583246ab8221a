import { inkCurves, ownPlane } from '../inks/divide';
import { PROCESS_CHANNELS } from '../inks/ink-set';
import { limitTables, type LimitTables } from '../inks/limit';
import { Mixer, type Mixture } from '../inks/mixture';
import type { Kernels } from '../kernels/kernels';
import { makeScreener, type Errors, type Halftone, type Mask, type Screener } from '../screening/screener';
import { straightCurve } from '../screening/thresholds';
import { Composer, type ComposedRow } from './compose';
import { PartDrawer, type DrawingOf, type Needed, type Part, type Sprite } from './parts';
import { layersOf, PIXEL_BYTES, planesOf, plateLayout, type Band, type RipPlan, type SpriteKey } from './plan';
import { Recorder, type RippedBand } from './record';

export interface ScreenSettings {
  method: Halftone;
  /** By channel of the profile, 256 values → share of the fullest drop. */
  curves: readonly ArrayLike<number>[];
  /** What goes before them. */
  mixture?: Mixture | undefined;
}

/**
 * One thread's share of the work on a run: a band is drawn, composed, corrected where its condition mixes inks otherwise than it did, kept within the total ink limit, divided among the
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
  readonly #mixer: Mixer | undefined;
  /** In the kernels’ memory: by layer the composed row, and where its channels are taken apart to; nothing where it is one. */
  readonly #rows: { at: number; bytes: number; channels: number | undefined }[];
  /** Rows that inks have of their own: from the row of their channel through a table. */
  readonly #ownPlanes: { source: number; table: number; target: number }[] = [];
  /** By plane: the row that it is screened from, and its packed row. */
  readonly #sources: number[];
  readonly #targets: number[];

  constructor(kernels: Kernels, plan: RipPlan, mask: Mask, settings: ScreenSettings) {
    this.#kernels = kernels;
    this.#plan = plan;
    const layout = plateLayout(plan);
    const { widthPx } = layout;
    this.#widthPx = widthPx;
    this.#drawer = new PartDrawer(plan, kernels);
    const curves = inkCurves(plan.inks, Object.fromEntries(PROCESS_CHANNELS.map((name, i) => [name, settings.curves[i]!])));
    const tables = curves.map(ownPlane);
    const planes = planesOf(plan);
    const screened = planes.map(({ ink }) => {
      const { drops, shift } = plan.inks[ink]!;
      return { drops, shift, curve: tables[ink] ? straightCurve() : curves[ink]! };
    });
    this.#screener = makeScreener(settings.method, kernels, widthPx, mask, screened);
    this.#recorder = new Recorder(
      kernels,
      layout,
      planes.map(({ ink }) => plan.inks[ink]!)
    );
    this.#mixer = settings.mixture && new Mixer(kernels, settings.mixture);
    const channelOf = plan.inks.map(({ channel }) => PROCESS_CHANNELS.findIndex((name) => name === channel));
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
    this.#rows = layersOf(plan).map(({ ink }) => {
      const bytes = ink === 'colour' ? PIXEL_BYTES : 1;
      const at = kernels.allocate(widthPx * bytes);
      return { at, bytes, channels: ink === 'colour' ? kernels.allocate(widthPx * PIXEL_BYTES) : undefined };
    });
    // Of a colour that no profile gives nothing is asked.
    const bare = kernels.allocate(widthPx);
    this.#sources = planes.map(({ ink, layer }) => {
      const { at, channels } = this.#rows[layer]!;
      const channel = channelOf[ink]!;
      const source = channels === undefined ? at : channel < 0 ? bare : channels + channel * widthPx;
      const table = tables[ink];
      if (!table) return source;
      const own = { source, table: kernels.allocate(table.length), target: kernels.allocate(widthPx) };
      kernels.bytes(own.table, table.length).set(table);
      this.#ownPlanes.push(own);
      return own.target;
    });
    this.#targets = planes.map(() => kernels.allocate(widthPx / 4));
  }

  /** The drawings that the band needs. */
  needed(band: Band, sprites: readonly Sprite[]): Needed[] {
    return this.#drawer.needed(band, sprites);
  }

  /** The drawings of an artwork that is drawn whole. */
  neededFor(source: number): Needed[] {
    return this.#drawer.neededFor(source);
  }

  drawSprite(key: SpriteKey, drawingOf: DrawingOf, into: Uint8Array): void {
    this.#drawer.drawSprite(key, drawingOf, into);
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
    for (const part of parts) part.release?.();
    return { ...recording.finish(), errors: errors && this.#screener.errors };
  }

  /** From the composed row to packed rows of drops. @returns where each plane’s row is; nothing where it has no drop */
  #drops(y: number): (number | undefined)[] {
    const { run } = this.#kernels;
    for (const { at, channels } of this.#rows) {
      if (channels === undefined) continue;
      this.#mixer?.row(at, this.#widthPx);
      if (this.#limit) {
        const { totals, limit, safe, coarse } = this.#limit;
        run.limitRow(at, this.#widthPx, totals, limit, safe, coarse);
      }
      run.splitRow(at, this.#widthPx, channels, this.#widthPx);
    }
    for (const { source, table, target } of this.#ownPlanes) run.mapRow(source, this.#widthPx, table, target);
    const inked = this.#screener.row(y, this.#sources, this.#targets);
    return this.#targets.map((target, plane) => (inked[plane] ? target : undefined));
  }

  /** Views of the kernels’ memory, which does not grow while a band is made. */
  #composedRow(): ComposedRow {
    return this.#rows.map(({ at, bytes }) => this.#kernels.bytes(at, this.#widthPx * bytes));
  }
}

function clear(row: ComposedRow): void {
  for (const layer of row) layer.fill(0);
}
