import type { Measured } from '$core/calibration/ladders';
import { PATCHES_COMPARED, type Patch } from '$core/charts/patches';
import type { Triple } from '$core/colour/lab';
import type { BaselineRoll } from '$lib/watch';
import type { Db } from '../platform/db/open';

/** What a condition printed when it was right. */
export interface Baseline {
  id: number;
  origin: string;
  madeAt: number;
  patches: (Patch & { lab: Triple })[];
  machine: string;
  media: string;
  mode: string;
  roll?: BaselineRoll | null | undefined;
  /** Tells for which state of the condition. */
  press: string;
}

type Document = Omit<Baseline, 'id' | 'origin' | 'madeAt'>;

/** Baselines as they are kept. */
export class Baselines {
  readonly #db: Db;

  constructor({ db }: { db: Db }) {
    this.#db = db;
  }

  /** The newest of a condition. */
  of(conditionId: number): Baseline | undefined {
    const row = this.#db
      .prepare<[number], { id: number; origin: string; document: string; made_at: number }>(
        'SELECT id, origin, document, made_at FROM baseline WHERE condition_id = ? ORDER BY id DESC LIMIT 1'
      )
      .get(conditionId);
    return row && { id: row.id, origin: row.origin, madeAt: row.made_at, ...(JSON.parse(row.document) as Document) };
  }

  keep(conditionId: number, origin: string, document: Document): void {
    this.#db
      .prepare('INSERT INTO baseline (condition_id, origin, document, made_at) VALUES (?, ?, ?, ?)')
      .run(conditionId, origin, JSON.stringify(document), Date.now());
  }
}

export const asMeasured = ({ patches }: Pick<Baseline, 'patches'>): Measured[] =>
  patches.map(({ id, inks, lab }) => ({ patch: { id, inks }, lab }));

/** More patches than a baseline from elsewhere may have. */
export const MOST_BASELINE_PATCHES = 10 * PATCHES_COMPARED;
