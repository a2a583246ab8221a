import { LRUCache } from 'lru-cache';
import { RESULTS, type ResultIds, type ResultStep, type StepDocuments } from '$lib/calibration';
import type { Db } from '../platform/db/open';
import { frozen } from '../platform/parsed-once';

/** One result that counts, without what was found. */
export interface ResultHead {
  id: number;
  conditionId: number;
  step: ResultStep;
  chartId: number | null;
  madeAt: number;
}

/** What lists need of what was found. */
export interface ResultBrief {
  restsOn: ResultIds;
  /** Of a profile. */
  source: 'measured' | 'imported' | null;
  /** Of the total ink limit. */
  total: number | null;
}

interface Found {
  restsOn: ResultIds;
  document: StepDocuments[ResultStep];
  /** Of its text, characters. */
  length: number;
}

/** Of their texts: a reading of 1300 patches has some 200,000. */
const MOST_CHARACTERS = 20e6;
const MOST_BRIEFS = 5000;

/** Results of climbing conditions' steps as they are kept. None is ever changed, so each is read once; what it gives is frozen. */
export class KeptResults {
  readonly #db: Db;
  readonly #found = new LRUCache<string, Found>({ maxSize: MOST_CHARACTERS, sizeCalculation: ({ length }) => length });
  readonly #briefs = new LRUCache<string, ResultBrief>({ max: MOST_BRIEFS });

  constructor(db: Db) {
    this.#db = db;
  }

  /** The results of a condition that count now, in the order of the steps. */
  heads(conditionId: number): ResultHead[] {
    const rows = this.#db
      .prepare<[number], ResultHead>(
        `SELECT r.id, r.condition_id AS conditionId, r.step, r.chart_id AS chartId, r.made_at AS madeAt
         FROM condition c JOIN condition_state s ON s.condition_id = c.id AND s.seq = c.seq
         JOIN json_each(s.results) e JOIN condition_result r ON r.id = e.value WHERE c.id = ?`
      )
      .all(conditionId);
    return RESULTS.flatMap((step) => rows.find((row) => row.step === step) ?? []);
  }

  found(head: ResultHead): Omit<Found, 'length'> {
    const key = keyOf(head);
    const known = this.#found.get(key);
    if (known) return known;
    const text = this.#db
      .prepare<[number], string>('SELECT document FROM condition_result WHERE id = ?')
      .pluck()
      .get(head.id) as string;
    const { restsOn, ...document } = JSON.parse(text) as { restsOn: ResultIds };
    const found = frozen({ restsOn, document: document as unknown as StepDocuments[ResultStep], length: text.length });
    this.#found.set(key, found);
    return found;
  }

  /** The same without the readings' figures, which are much to take in for a list. */
  brief(head: ResultHead): ResultBrief {
    const key = keyOf(head);
    const known = this.#briefs.get(key);
    if (known) return known;
    const row = this.#db
      .prepare<[number], { restsOn: string; source: ResultBrief['source']; total: number | null }>(
        `SELECT json_extract(document, '$.restsOn') AS restsOn,
                CASE step WHEN 'profile' THEN json_extract(document, '$.source') END AS source,
                CASE step WHEN 'total' THEN json_extract(document, '$.limits.total') END AS total
         FROM condition_result WHERE id = ?`
      )
      .get(head.id)!;
    const brief = frozen({ ...row, restsOn: JSON.parse(row.restsOn) as ResultIds });
    this.#briefs.set(key, brief);
    return brief;
  }
}

/** The number of one that went with its condition may be given again. */
const keyOf = ({ id, conditionId, step, madeAt }: ResultHead): string => [id, conditionId, step, madeAt].join();
