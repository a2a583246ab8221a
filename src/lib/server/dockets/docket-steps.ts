import { DocketDocument } from '$lib/docket-choices';
import type { Db } from '../platform/db/open';

/** Steps back that are kept of a docket: the most, and the fewest where it is large. */
const MOST_STEPS = 300;
const FEWEST_STEPS = 20;
const MOST_STEP_BYTES = 20e6;

/** The step that a docket stands at. */
export const stepOf = (db: Db, id: number): number =>
  db.prepare<[number], number>('SELECT step FROM docket WHERE id = ?').pluck().get(id) ?? 0;

/** What a docket was at a step; nothing where that is not kept. */
export function stepAt(db: Db, id: number, step: number): DocketDocument | undefined {
  const text = db
    .prepare<[number, number], string>('SELECT document FROM docket_step WHERE docket_id = ? AND step = ?')
    .pluck()
    .get(id, step);
  return text === undefined ? undefined : DocketDocument.parse(JSON.parse(text));
}

/** Keeps what a docket is at a step as its last one. Within a transaction of the caller's. */
export function keepStep(db: Db, id: number, step: number, document: DocketDocument): void {
  const text = JSON.stringify(document);
  db.prepare('DELETE FROM docket_step WHERE docket_id = ? AND step > ?').run(id, step);
  db.prepare('INSERT OR REPLACE INTO docket_step (docket_id, step, document, made_at) VALUES (?, ?, ?, ?)').run(
    id,
    step,
    text,
    Date.now()
  );
  // Large outlines leave fewer steps.
  const kept = Math.max(FEWEST_STEPS, Math.min(MOST_STEPS, Math.floor(MOST_STEP_BYTES / text.length)));
  db.prepare('DELETE FROM docket_step WHERE docket_id = ? AND step <= ?').run(id, step - kept);
}
