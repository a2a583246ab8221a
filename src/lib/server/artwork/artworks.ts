import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { ArtworkError, ArtworkFacts, type PageFacts, type PageLine } from '$core/artwork/facts';
import { isDiskFull } from '../platform/files';
import { Problem, sentence } from '../platform/problem';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { FileStore } from '../platform/files';
import type { Fonts } from './fonts';
import type { ProcessPool } from '../platform/tasks/process-pool';
import type { Logger } from 'pino';
import type { Settings } from '../platform/settings';
import type { TaskRunner } from '../platform/tasks/runner';
import type { TaskContext } from '../platform/tasks/runner';
import { WorkEnded } from '../platform/tasks/process-pool';
import type { FactsAnswer, FactsRequest } from './workers/facts';

export interface ArtworkRow {
  id: number;
  name: string;
  file_hash: string;
  bytes: number;
  state: 'reading' | 'ready' | 'refused';
  reason: string | null;
  pdf_hash: string | null;
  facts: string | null;
  added_at: number;
}

export interface Artwork {
  id: number;
  name: string;
  bytes: number;
  state: ArtworkRow['state'];
  reason: string | null;
  facts: ArtworkFacts | null;
  pdfHash: string | null;
  addedAt: number;
}

export const MOST_UPLOAD_BYTES = 20e9;

/** What it works with. */
interface Needs {
  db: Db;
  events: Events;
  files: FileStore;
  fonts: Fonts;
  intakePool: ProcessPool;
  log: Logger;
  settings: Settings;
  tasks: TaskRunner;
}

export class Artworks {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
    // The pool says how many go on at once: what is slow must not stand in the way of the rest.
    needs.events.on('fonts changed', () => this.readAgain('SVG'));
    // SVG has no spot colours: such files are looked at anew by new rules.
    needs.events.on('settings changed', ({ before, after }) => {
      if (JSON.stringify(before.rules) !== JSON.stringify(after.rules)) this.readAgain('SVG');
    });
    needs.tasks.register('artwork', Infinity, (subject, context) => this.#read(Number(subject), context));
  }

  list(): Artwork[] {
    return this.#needs.db.prepare<[], ArtworkRow>('SELECT * FROM artwork ORDER BY id DESC').all().map(toArtwork);
  }

  get(id: number): Artwork {
    const row = this.#row(id);
    if (!row) throw new Problem(404, 'There is no such artwork.');
    return toArtwork(row);
  }

  /** The facts of a page that is ready. */
  page(id: number, index: number): { artwork: Artwork; page: PageFacts } {
    const artwork = this.get(id);
    const page = artwork.facts?.pages[index];
    if (!page) throw new Problem(404, artwork.reason ?? `${artwork.name} has no page ${index + 1}.`);
    return { artwork, page };
  }

  /** Stores a file and looks at it; one that cannot be read is refused and nothing of it stays. */
  async take(name: string, source: AsyncIterable<Uint8Array>): Promise<Artwork> {
    const { db, files, events, tasks } = this.#needs;
    const { hash, bytes } = await files.take(source, MOST_UPLOAD_BYTES);
    const { lastInsertRowid } = db
      .prepare("INSERT INTO artwork (name, file_hash, bytes, state, added_at) VALUES (?, ?, ?, 'reading', ?)")
      .run(name, hash, bytes, Date.now());
    const id = Number(lastInsertRowid);
    events.changed('artwork');
    tasks.add('artwork', id);
    return this.get(id);
  }

  /** What a page outlines in spot colours and on layers. */
  lines(id: number, index: number): PageLine[] {
    const row = this.#needs.db
      .prepare<[number, number], { lines: string }>('SELECT lines FROM page_lines WHERE artwork_id = ? AND page = ?')
      .get(id, index);
    return row ? (JSON.parse(row.lines) as PageLine[]) : [];
  }

  readAgain(format: ArtworkFacts['format']): void {
    for (const artwork of this.list())
      if (artwork.state === 'ready' && artwork.facts?.format === format) this.#needs.tasks.add('artwork', artwork.id);
  }

  remove(id: number): void {
    const { db, events } = this.#needs;
    const used =
      db
        .prepare<[number, number], { n: number }>(
          'SELECT count(*) AS n FROM docket WHERE artwork_id = ? OR previous_artwork_id = ?'
        )
        .get(id, id)?.n ?? 0;
    if (used > 0)
      throw new Problem(409, `This artwork is used by ${used} ${used === 1 ? 'docket' : 'dockets'}. Delete those first.`);
    const row = this.#row(id);
    db.transaction(() => {
      db.prepare('DELETE FROM artwork WHERE id = ?').run(id);
    })();
    if (row) void this.#dropFiles([row.file_hash, row.pdf_hash]);
    events.changed('artwork');
  }

  async #read(id: number, { signal }: TaskContext): Promise<void> {
    const row = this.#row(id);
    if (row) await this.#needs.files.inFolder((folder) => this.#look(row, folder, signal));
  }

  /** @param folder for what is made of the file on the way */
  async #look(row: ArtworkRow, folder: string, signal: AbortSignal): Promise<void> {
    const { db, files, settings, intakePool, events } = this.#needs;
    const { id } = row;
    const pdf = join(folder, 'made.pdf');
    const profile = join(folder, 'intent.icc');
    const request: FactsRequest = {
      path: files.path(row.file_hash),
      name: row.name,
      rules: settings.current.rules,
      fonts: this.#needs.fonts.files(),
      ghostscript: process.env.ZING_GHOSTSCRIPT ?? 'gs',
      limits: settings.current.intake,
      pdf,
      profile
    };
    let answer: FactsAnswer | { ok: false; reason: string };
    try {
      answer = await intakePool.run<FactsAnswer>('facts', request, settings.current.intake, signal);
    } catch (error) {
      if (signal.aborted) throw error;
      this.#needs.log.info({ artwork: id, error: sentence(error) }, 'refused');
      answer = { ok: false, reason: this.#whyRefused(error) };
    }
    if (!answer.ok && row.state === 'ready') throw new Problem(500, answer.reason); // It was read before: that stays.
    if (answer.ok) {
      const outputIntent = answer.outputIntent && { ...answer.outputIntent, hash: await files.adopt(profile) };
      const facts = ArtworkFacts.parse({ ...answer.facts, outputIntent });
      const pdfHash = answer.madePdf ? await files.adopt(pdf) : row.file_hash;
      const { lines } = answer;
      db.transaction(() => {
        db.prepare("UPDATE artwork SET state = 'ready', reason = NULL, facts = ?, pdf_hash = ? WHERE id = ?").run(
          JSON.stringify(facts),
          pdfHash,
          id
        );
        db.prepare('DELETE FROM page_lines WHERE artwork_id = ?').run(id);
        const put = db.prepare('INSERT INTO page_lines (artwork_id, page, lines) VALUES (?, ?, ?)');
        lines.forEach((ofPage, index) => {
          if (ofPage.length > 0) put.run(id, index, JSON.stringify(ofPage));
        });
      })();
      events.tell('artwork read', id);
    } else {
      db.prepare("UPDATE artwork SET state = 'refused', reason = ?, facts = NULL WHERE id = ?").run(answer.reason, id);
      // The sentence stays so that the operator can tell the customer; the file does not.
      await this.#dropFiles([row.file_hash]);
    }
    events.changed('artwork');
  }

  #whyRefused(error: unknown): string {
    if (error instanceof ArtworkError) return error.message;
    const { seconds, megabytes } = this.#needs.settings.current.intake;
    const simpler = 'Ask for the file to be saved anew, simpler, or raise the limit under Shop.';
    if (error instanceof WorkEnded) {
      if (error.cause === 'time') return `Looking at the file took longer than ${seconds} s and was ended. ${simpler}`;
      if (error.cause === 'memory')
        return `Looking at the file took more than ${megabytes} MB of memory and was ended. ${simpler}`;
      return 'The file broke the program that reads it, twice. Ask for the file to be saved anew, or for a PDF.';
    }
    if (isDiskFull(error)) return 'The disk of the server is full. Make room and send the file again.';
    return 'The file cannot be read, and the program does not know why. Ask for it to be saved anew, or for a PDF.';
  }

  async #dropFiles(hashes: (string | null)[]): Promise<void> {
    const { db, files } = this.#needs;
    for (const hash of hashes) {
      if (!hash) continue;
      const used = db
        .prepare<[string, string], { n: number }>(
          "SELECT count(*) AS n FROM artwork WHERE state != 'refused' AND (file_hash = ? OR pdf_hash = ?)"
        )
        .get(hash, hash);
      if (!used?.n) await rm(files.path(hash), { force: true });
    }
  }

  #row(id: number): ArtworkRow | undefined {
    return this.#needs.db.prepare<[number], ArtworkRow>('SELECT * FROM artwork WHERE id = ?').get(id);
  }
}

function toArtwork(row: ArtworkRow): Artwork {
  return {
    id: row.id,
    name: row.name,
    bytes: row.bytes,
    state: row.state,
    reason: row.reason,
    facts: row.facts ? ArtworkFacts.parse(JSON.parse(row.facts)) : null,
    pdfHash: row.pdf_hash,
    addedAt: row.added_at
  };
}
