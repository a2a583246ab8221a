import type { Database } from 'better-sqlite3';
import { seededRandom } from '$core/geometry/random';

/** What a shop has gathered in a year, written straight into its database: nobody can wait for it to be typed. */

const WORDS = ['Harbour', 'Regatta', 'Lighthouse', 'Market', 'Ferry', 'Orchard', 'Quay', 'Bakery', 'Skerry', 'Meadow'];
const THINGS = ['banner', 'tags', 'sticker', 'poster', 'window', 'board', 'flag', 'labels'];
const CUSTOMERS = [
  ...WORDS.map((word) => `${word} Trading`),
  ...WORDS.map((word) => `${word} & Daughters`),
  'Łódź Żagle',
  '港の店'
];
const DAY_MS = 86_400_000;

/**
 * Fills a shop like one of its dockets, whose artwork is ready.
 *
 * @param newestMs when the newest was added, Unix ms; the others came before it
 */
export function fillShop(
  db: Database,
  pattern: number,
  many: { artworks: number; dockets: number; printedRuns?: number },
  newestMs = Date.now()
): void {
  const random = seededRandom(3);
  const pick = <T>(of: readonly T[]) => of[Math.floor(random() * of.length)]!;
  const name = (n: number) => `${pick(WORDS)} ${pick(THINGS)} ${n}`;
  const at = (n: number, of: number) => newestMs - Math.round(((of - n) / of) * 365 * DAY_MS);
  const artwork = db.prepare<[number], number>('SELECT artwork_id FROM docket WHERE id = ?').pluck().get(pattern);
  if (artwork === undefined) throw new Error(`There is no docket ${pattern} to be the pattern.`);
  const addArtwork = db.prepare<[string, number, number]>(
    `INSERT INTO artwork (name, file_hash, bytes, state, pdf_hash, facts, brief, added_at)
     SELECT ?, file_hash, bytes, 'ready', pdf_hash, facts, brief, ? FROM artwork WHERE id = ?`
  );
  const sizePage = db.prepare<[number, number]>(
    `UPDATE artwork_page SET (width_mm, height_mm, bleed_mm, colours, outlines, looks, format) =
       (SELECT width_mm, height_mm, bleed_mm, colours, outlines, looks, format FROM artwork_page WHERE artwork_id = ? AND page = 0)
     WHERE artwork_id = ?`
  );
  const addLines = db.prepare<[number, number]>(
    'INSERT INTO page_lines (artwork_id, page, lines) SELECT ?, page, lines FROM page_lines WHERE artwork_id = ?'
  );
  const addDocket = db.prepare<[number, string, string, string, string, number, number]>(
    `INSERT INTO docket (artwork_id, page, name, customer, due_on, priority, choices, added_at)
     SELECT ?, 0, ?, ?, ?, ?, choices, ? FROM docket WHERE id = ?`
  );
  const addStep = db.prepare<[number, number, number]>(
    'INSERT INTO docket_step (docket_id, step, document, made_at) SELECT ?, 0, document, made_at FROM docket_step WHERE docket_id = ? AND step = ?'
  );
  const addRun = db.prepare<[number]>(
    `INSERT INTO run (condition_id, lane_id, rule, state, added_at)
     SELECT condition_id, id, rule, 'printed', ? FROM lane ORDER BY id LIMIT 1`
  );
  const fillRun = db.prepare<[number, number, number]>('INSERT INTO run_docket (run_id, docket_id, position) VALUES (?, ?, ?)');
  const addPrint = db.prepare<[number, number, number, number]>(
    `INSERT INTO print (run_id, machine_id, state, length_mm, printed_mm, started_at, ended_at)
     SELECT ?, id, 'done', 800, 800, ?, ? FROM machine WHERE kind = 'printer' AND ? > 0 ORDER BY id LIMIT 1`
  );
  db.transaction(() => {
    const artworks = Array.from({ length: many.artworks }, (_, n) => {
      const id = Number(addArtwork.run(`${name(n)}.pdf`, at(n, many.artworks), artwork).lastInsertRowid);
      sizePage.run(artwork, id);
      addLines.run(id, artwork);
      return id;
    });
    const dockets = Array.from({ length: many.dockets }, (_, n) => {
      const added = at(n, many.dockets);
      const due = random() < 0.7 ? new Date(added + (2 + random() * 20) * DAY_MS).toISOString().slice(0, 10) : '';
      const priority = random() < 0.1 ? 'high' : 'normal';
      const of = artworks[n % Math.max(1, artworks.length)] ?? artwork;
      const id = Number(addDocket.run(of, name(n), pick(CUSTOMERS), due, priority, added, pattern).lastInsertRowid);
      addStep.run(id, pattern, 0);
      return id;
    });
    const runs = many.printedRuns ?? 0;
    for (let n = 0; n < runs; n++) {
      const added = at(n, runs);
      const run = Number(addRun.run(added).lastInsertRowid);
      // The oldest dockets are printed, four in a run.
      dockets.slice(n * 4, n * 4 + 4).forEach((id, position) => fillRun.run(run, id, position));
      addPrint.run(run, added, added + 60_000, 1);
    }
  })();
}
