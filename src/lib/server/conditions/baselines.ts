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
  /** The curves and profile that the condition had (`Conditions.madeOf`). */
  madeOf: string;
}

type Document = Omit<Baseline, 'id' | 'origin' | 'madeAt' | 'madeOf'>;

/** Baselines as they are kept. */
export class Baselines {
  readonly #db: Db;

  constructor({ db }: { db: Db }) {
    this.#db = db;
  }

  /** The newest of a condition. */
  of(conditionId: number): Baseline | undefined {
    const row = this.#db
      .prepare<[number], { id: number; origin: string; document: string; made_at: number; made_of: string }>(
        'SELECT id, origin, document, made_at, made_of FROM baseline WHERE condition_id = ? ORDER BY id DESC LIMIT 1'
      )
      .get(conditionId);
    if (!row) return undefined;
    const { id, origin, made_at: madeAt, made_of: madeOf } = row;
    return { ...(JSON.parse(row.document) as Document), id, origin, madeAt, madeOf };
  }

  keep(conditionId: number, origin: string, madeOf: string, document: Document): void {
    this.#db
      .prepare('INSERT INTO baseline (condition_id, origin, document, made_at, made_of) VALUES (?, ?, ?, ?, ?)')
      .run(conditionId, origin, JSON.stringify(document), Date.now(), madeOf);
  }
}

export const asMeasured = ({ patches }: Pick<Baseline, 'patches'>): Measured[] =>
  patches.map(({ id, inks, lab }) => ({ patch: { id, inks }, lab }));

/** More patches than a baseline from elsewhere may have. */
export const MOST_BASELINE_PATCHES = 10 * PATCHES_COMPARED;
