import { CgatsError, readCgats } from '$core/colour/cgats';
import type { Triple } from '$core/colour/lab';
import type { Chart } from '$lib/calibration';
import { readStrip } from '../machines/instrument-client';
import type { Machines } from '../machines/machines';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import type { Prints } from '../printing/print-store';
import type { ChartDocument } from './chart-rules';
import type { Charts } from './charts';

interface Needs {
  db: Db;
  events: Events;
  machines: Machines;
  prints: Prints;
  charts: Charts;
}

/** Readings of charts: by the instrument, or from a file. */
export class ChartReading {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /**
   * Reads a strip, or one patch of it, with the instrument.
   *
   * @throws Problem when there is no print to read, or no instrument
   */
  async read(id: number, strip: number, patch?: string): Promise<Chart> {
    const { charts, machines, prints } = this.#needs;
    const chart = charts.get(id);
    if (chart.printId === null) throw new Problem(409, 'Print the chart first; then there is something to read.');
    const print = prints.get(chart.printId);
    const places = chart.layout.patches.filter((one) => one.strip === strip && (patch === undefined || one.id === patch));
    if (places.length === 0) throw new Problem(404, 'There is no such strip on this chart.');
    const { job } = prints.row(print.id);
    if (job === null) throw new Problem(409, 'The machine has no print of this chart.');
    const half = chart.layout.patchMm / 2;
    const text = await readStrip(machines.instrument().url, {
      printer: machines.get(print.machineId).url,
      job,
      patchMm: chart.layout.patchMm,
      places: places.map((one) => ({ id: one.id, x: one.x + half, y: one.y + half }))
    });
    return this.#take(id, text, new Set(places.map((one) => one.id)));
  }

  /** Takes readings from a file: by the patches' names, or by their inks where names are others. */
  load(id: number, text: string): Chart {
    const chart = this.#needs.charts.get(id);
    const known = new Set(chart.layout.patches.map((patch) => patch.id));
    return this.#take(id, text, known);
  }

  #take(id: number, text: string, only: ReadonlySet<string>): Chart {
    const { db, events, charts } = this.#needs;
    const row = charts.row(id);
    const { layout } = JSON.parse(row.document) as ChartDocument;
    let data;
    try {
      data = readCgats(text);
    } catch (error) {
      throw new Problem(422, error instanceof CgatsError ? error.message : 'The readings cannot be read.');
    }
    const byInks = new Map(layout.patches.map((patch) => [patch.inks.map((v) => Math.round(v * 255)).join(), patch.id]));
    const readings = JSON.parse(row.readings) as Record<string, Triple>;
    let taken = 0;
    for (const patch of data.patches) {
      const name = only.has(patch.id) ? patch.id : patch.inks && byInks.get(patch.inks.map((v) => Math.round(v * 255)).join());
      if (!name || !only.has(name)) continue;
      readings[name] = patch.lab;
      taken++;
    }
    if (taken === 0)
      throw new Problem(
        422,
        'None of the patches in this file is on the chart: neither their names nor their inks are the same.'
      );
    db.prepare('UPDATE chart SET readings = ?, read_at = ? WHERE id = ?').run(JSON.stringify(readings), Date.now(), id);
    events.changed('conditions');
    return this.#needs.charts.get(id);
  }
}
