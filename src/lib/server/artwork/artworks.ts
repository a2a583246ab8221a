import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { ArtworkError, ArtworkFacts, type PageFacts, type PageLine } from '$core/artwork/facts';
import { LRUCache } from 'lru-cache';
import { roleOf } from '$core/artwork/roles';
import { plainPicture } from '$core/records/pictures';
import { counted } from '$core/units/counted';
import { MM_PER_INCH } from '$core/units/length';
import type { ListPage, ListQuery } from '$lib/listing';
import { isDiskFull } from '../platform/files';
import { pageOf } from '../platform/listing';
import { Problem, sentence, tooLarge } from '../platform/problem';
import { freshNumber } from '../platform/db/fresh-number';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { FileStore } from '../platform/files';
import {
  ARTWORK_LIST,
  catchUpLists,
  keepForLists,
  toArtworkLine,
  type ArtworkLine,
  type ArtworkLineRow,
  type ArtworkState
} from './artwork-list';
import type { Fonts } from './fonts';
import type { ProcessPool } from '../platform/tasks/process-pool';
import type { Logger } from 'pino';
import type { KeptPicture } from '../records/pictures';
import type { Settings } from '../platform/settings';
import type { TaskRunner } from '../platform/tasks/runner';
import type { TaskContext } from '../platform/tasks/runner';
import { WorkEnded } from '../platform/tasks/process-pool';
import type { FactsAnswer, FactsRequest } from './workers/facts';

interface ShownRow {
  id: number;
  name: string;
  file_hash: string;
  pdf_hash: string;
  across: number;
  down: number;
  /** Of the coarsest picture on it; nothing where there is none. */
  ppi: number | null;
  is_picture: 0 | 1;
}
/** What has no pixels is as fine as anybody wants. */
const FINE_PPI = 10_000;

/** Reading what was made here takes far less. */
const READ_MS = 60_000;
const LOOK_MS = 100;

export interface ArtworkRow {
  id: number;
  name: string;
  file_hash: string;
  bytes: number;
  state: ArtworkState;
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
const MOST_AT_ONCE = 500;
/** Artwork whose facts are kept at hand. */
const MOST_FACTS = 1000;
/** How long until a file is looked at again that could not be for no fault of its own. */
const TRY_AGAIN_MS = [300, 1200];

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
  /** By number: facts as they were read from the text beside them. */
  readonly #facts = new LRUCache<number, { text: string; facts: ArtworkFacts }>({ max: MOST_FACTS });

  constructor(needs: Needs) {
    this.#needs = needs;
    catchUpLists(needs.db);
    needs.events.on('fonts changed', () => this.readAgain('SVG'));
    // SVG has no spot colours: such files are looked at anew by new rules.
    needs.events.on('settings changed', ({ before, after }) => {
      if (JSON.stringify(before.rules) !== JSON.stringify(after.rules)) this.readAgain('SVG');
    });
    needs.tasks.register('artwork', {
      // The pool says how many go on at once; the rest waits in the database.
      most: MOST_AT_ONCE,
      apart: true,
      work: (subject, context) => this.#read(Number(subject), context),
      unfinished: (subject, how, error) =>
        this.#leaveUnread(Number(subject), how === 'cancelled' ? 'Reading it was cancelled.' : sentence(error)),
      told: (subject) => this.#wasRead(Number(subject))
    });
  }

  /** Pages of all artwork, as a list asks for them. */
  list(query: ListQuery, from: number): ListPage<ArtworkLine> {
    const page = pageOf<ArtworkLineRow>(this.#needs.db, ARTWORK_LIST, query, from);
    return { ...page, rows: page.rows.map(toArtworkLine) };
  }

  /** Pages by their numbers in the list, of those that are ready, in the order of files and pages. */
  pagesOf(lines: readonly number[]): { artworkId: number; page: number }[] {
    return this.#needs.db
      .prepare<[string], { artworkId: number; page: number }>(
        `SELECT p.artwork_id AS artworkId, p.page FROM artwork_page p JOIN artwork a ON a.id = p.artwork_id
         WHERE a.state = 'ready' AND p.id IN (SELECT value FROM json_each(?)) ORDER BY p.artwork_id, p.page`
      )
      .all(JSON.stringify(lines));
  }

  /**
   * Artwork that a field can show, by its plain name: pictures, and the first pages of others. Of several of one name the
   * newest; a picture goes before a page.
   */
  pictures(): Map<string, KeptPicture> {
    const rows = this.#needs.db
      .prepare<[], ShownRow>(
        `SELECT a.id, a.name, a.file_hash, a.pdf_hash, p.width_mm AS across, p.height_mm AS down, p.least_ppi AS ppi,
           p.images = 1 AND p.format IN ('JPEG', 'PNG', 'TIFF', 'WebP', 'GIF', 'AVIF') AS is_picture
         FROM artwork_page p JOIN artwork a ON a.id = p.artwork_id
         WHERE p.page = 0 AND a.state = 'ready' AND a.pdf_hash IS NOT NULL ORDER BY is_picture, a.id`
      )
      .all();
    return new Map(
      rows.map(({ id, name, file_hash: file, pdf_hash: page, across, down, ppi, is_picture: isPicture }) => {
        const pixels = (mm: number) => Math.max(1, Math.round((mm / MM_PER_INCH) * (ppi ?? FINE_PPI)));
        const size = { width: pixels(across), height: pixels(down) };
        return [plainPicture(name), isPicture ? { hash: file, ...size } : { hash: page, ...size, artwork: id }];
      })
    );
  }

  /**
   * Spot colours of the first page of an artwork that do not print, by the shop's rules. Which of its layers show is a matter of
   * a docket: a page with layers is in no field.
   */
  leftOutInFields(id: number): string[] | undefined {
    const { page } = this.page(id, 0);
    if (page.layers.length > 0) return undefined;
    const { rules } = this.#needs.settings.current;
    return page.spots.map(({ name }) => name).filter((name) => (roleOf(name, rules, {}) ?? 'prints') !== 'prints');
  }

  /** Whether anything is being read. */
  isReading(): boolean {
    return this.#needs.db.prepare<[], 1>("SELECT 1 FROM artwork WHERE state = 'reading' LIMIT 1").get() !== undefined;
  }

  get(id: number): Artwork {
    const row = this.#row(id);
    if (!row) throw new Problem(404, 'There is no such artwork.');
    return this.#toArtwork(row);
  }

  /** The facts of a page that is ready. */
  page(id: number, index: number): { artwork: Artwork; page: PageFacts } {
    const artwork = this.get(id);
    const page = artwork.facts?.pages[index];
    if (!page) throw new Problem(404, artwork.reason ?? `${artwork.name} has no page ${index + 1}.`);
    return { artwork, page };
  }

  /**
   * Stores a file and looks at it; one that cannot be read is refused and nothing of it stays.
   *
   * @param also written down in the same transaction, so that both are there or neither
   */
  async take(
    name: string,
    source: AsyncIterable<Uint8Array>,
    also?: (id: number, hash: string, bytes: number) => void
  ): Promise<Artwork> {
    let taken: Artwork | undefined;
    await this.#needs.files.take(source, MOST_UPLOAD_BYTES, (hash, bytes) => {
      taken = this.takeStored(name, { hash, bytes }, also);
    });
    return taken!;
  }

  /** The same of a file that was stored a moment ago. */
  takeStored(
    name: string,
    { hash, bytes }: { hash: string; bytes: number },
    also?: (id: number, hash: string, bytes: number) => void
  ): Artwork {
    return this.#needs.db.transaction(() => {
      const id = this.#add(name, hash, bytes, null);
      also?.(id, hash, bytes);
      return this.get(id);
    })();
  }

  /**
   * Takes a file whose sending may break off and go on. The same upload is taken once, however often its end is sent.
   *
   * @param from how much of it the sender believes to be here
   * @returns nothing while more is to come
   */
  async takePart(
    name: string,
    upload: { key: string; from: number; bytes: number },
    source: AsyncIterable<Uint8Array>
  ): Promise<Artwork | undefined> {
    const { files } = this.#needs;
    const known = this.ofUpload(upload.key);
    if (known) return known;
    if (upload.bytes > MOST_UPLOAD_BYTES) throw tooLarge('file', MOST_UPLOAD_BYTES);
    const come = await files.addToUpload(upload.key, upload.from, source, upload.bytes);
    if (come < upload.bytes) return undefined;
    await files.finishUpload(upload.key, (hash) => void this.#add(name, hash, come, upload.key));
    return this.ofUpload(upload.key);
  }

  /** Waits until it is read. @throws Problem where it cannot be, or that takes long */
  async whenRead(id: number): Promise<void> {
    for (const until = Date.now() + READ_MS; Date.now() < until;) {
      const { name, state, reason } = this.get(id);
      if (state === 'ready') return;
      if (state !== 'reading') throw new Problem(500, `${name} could not be read: ${reason ?? state}`);
      await setTimeout(LOOK_MS);
    }
    throw new Problem(503, 'Reading what was made takes long. It is under Artwork; make a docket of it when it is there.');
  }

  /** What came by an upload. */
  ofUpload(key: string): Artwork | undefined {
    const row = this.#needs.db.prepare<[string], ArtworkRow>('SELECT * FROM artwork WHERE upload = ?').get(key);
    return row && this.#toArtwork(row);
  }

  #add(name: string, hash: string, bytes: number, upload: string | null): number {
    const { db, events, tasks } = this.#needs;
    const id = db.transaction(() => {
      const fresh = freshNumber(db, 'artwork');
      db.prepare(
        "INSERT INTO artwork (id, name, file_hash, bytes, state, added_at, upload) VALUES (?, ?, ?, ?, 'reading', ?, ?)"
      ).run(fresh, name, hash, bytes, Date.now(), upload);
      tasks.add('artwork', fresh);
      return fresh;
    })();
    events.changed('artwork', [id]);
    return id;
  }

  /** What a page outlines in spot colours and on layers. */
  lines(id: number, index: number): PageLine[] {
    const row = this.#needs.db
      .prepare<[number, number], { lines: string }>('SELECT lines FROM page_lines WHERE artwork_id = ? AND page = ?')
      .get(id, index);
    return row ? (JSON.parse(row.lines) as PageLine[]) : [];
  }

  readAgain(format: ArtworkFacts['format']): void {
    const { db, tasks } = this.#needs;
    const ids = db
      .prepare<[string], number>("SELECT id FROM artwork WHERE state = 'ready' AND json_extract(brief, '$.format') = ?")
      .pluck()
      .all(format);
    for (const id of ids) tasks.add('artwork', id);
  }

  remove(id: number): void {
    const { db, files, events } = this.#needs;
    const used =
      db
        .prepare<[number, number], { n: number }>(
          'SELECT count(*) AS n FROM docket WHERE artwork_id = ? OR previous_artwork_id = ?'
        )
        .get(id, id)?.n ?? 0;
    if (used > 0) throw new Problem(409, `This artwork is used by ${counted(used, 'docket')}. Delete those first.`);
    const row = this.#row(id);
    db.prepare('DELETE FROM artwork WHERE id = ?').run(id);
    for (const hash of [row?.file_hash, row?.pdf_hash]) if (hash) files.drop(hash);
    events.changed('artwork', [id]);
  }

  /** Reads again what could not be read. */
  read(id: number): Artwork {
    const { db, tasks, events } = this.#needs;
    if (this.get(id).state !== 'unread') throw new Problem(409, 'Only artwork that could not be read is read again.');
    db.transaction(() => {
      db.prepare("UPDATE artwork SET state = 'reading', reason = NULL WHERE id = ?").run(id);
      tasks.add('artwork', id);
    })();
    events.changed('artwork', [id]);
    return this.get(id);
  }

  async #read(id: number, { signal }: TaskContext): Promise<(() => void) | undefined> {
    const row = this.#row(id);
    return row && this.#needs.files.inFolder((folder) => this.#look(row, folder, signal));
  }

  /** @param folder for what is made of the file on the way */
  async #look(row: ArtworkRow, folder: string, signal: AbortSignal): Promise<() => void> {
    const { db, files, settings, fonts } = this.#needs;
    const { id } = row;
    const pdf = join(folder, 'made.pdf');
    const profile = join(folder, 'intent.icc');
    const request: FactsRequest = {
      path: files.path(row.file_hash),
      name: row.name,
      rules: settings.current.rules,
      fonts: fonts.files(),
      ghostscript: process.env.ZING_GHOSTSCRIPT ?? 'gs',
      limits: settings.current.intake,
      pdf,
      profile
    };
    let answer: FactsAnswer;
    try {
      answer = await this.#tried(request, signal);
    } catch (error) {
      // Only what is wrong with the file itself refuses it, and only one that was never read.
      if (!(error instanceof ArtworkError) || row.pdf_hash !== null) throw error;
      return () => db.prepare("UPDATE artwork SET state = 'refused', reason = ? WHERE id = ?").run(error.message, id);
    }
    const outputIntent = answer.outputIntent && { ...answer.outputIntent, hash: await files.adopt(profile) };
    const facts = ArtworkFacts.parse({ ...answer.facts, outputIntent });
    const pdfHash = answer.madePdf ? await files.adopt(pdf) : row.file_hash;
    const { lines } = answer;
    return () => {
      db.prepare("UPDATE artwork SET state = 'ready', reason = NULL, facts = ?, pdf_hash = ? WHERE id = ?").run(
        JSON.stringify(facts),
        pdfHash,
        id
      );
      keepForLists(db, id, facts);
      db.prepare('DELETE FROM page_lines WHERE artwork_id = ?').run(id);
      const put = db.prepare('INSERT INTO page_lines (artwork_id, page, lines) VALUES (?, ?, ?)');
      lines.forEach((ofPage, index) => {
        if (ofPage.length > 0) put.run(id, index, JSON.stringify(ofPage));
      });
    };
  }

  /** Looks at a file; what is not the file's fault, a process that died or a full disk, is tried again. */
  async #tried(request: FactsRequest, signal: AbortSignal): Promise<FactsAnswer> {
    const { intakePool, log } = this.#needs;
    for (const pause of [...TRY_AGAIN_MS, undefined]) {
      try {
        return await intakePool.run<FactsAnswer>('facts', request, request.limits, signal);
      } catch (error) {
        if (signal.aborted || error instanceof ArtworkError || error instanceof Problem) throw error;
        log.info({ artwork: request.name, error: sentence(error) }, 'could not be read');
        const limit = error instanceof WorkEnded && (error.cause === 'time' || error.cause === 'memory');
        if (pause === undefined || limit) throw new Problem(422, whyUnread(error, request.limits));
        await setTimeout(pause, undefined, { signal });
      }
    }
    throw new Error('A loop ended that does not end.');
  }

  /** What was read before stays as it was read; anything else waits for a person. Its file stays either way. */
  #leaveUnread(id: number, reason: string): void {
    this.#needs.db
      .prepare("UPDATE artwork SET state = CASE WHEN facts IS NULL THEN 'unread' ELSE 'ready' END, reason = ? WHERE id = ?")
      .run(reason, id);
  }

  #wasRead(id: number): void {
    const { files, events } = this.#needs;
    const row = this.#row(id);
    // The sentence stays so that the operator can tell the customer; the file does not.
    if (row?.state === 'refused') files.drop(row.file_hash);
    events.tell('artwork read', id);
    events.changed('artwork', [id]);
  }

  #factsOf({ id, facts: text }: ArtworkRow): ArtworkFacts | null {
    if (text === null) return null;
    const known = this.#facts.get(id);
    if (known?.text === text) return known.facts;
    const facts = ArtworkFacts.parse(JSON.parse(text));
    this.#facts.set(id, { text, facts });
    return facts;
  }

  #toArtwork(row: ArtworkRow): Artwork {
    return {
      id: row.id,
      name: row.name,
      bytes: row.bytes,
      state: row.state,
      reason: row.reason,
      facts: this.#factsOf(row),
      pdfHash: row.pdf_hash,
      addedAt: row.added_at
    };
  }

  #row(id: number): ArtworkRow | undefined {
    return this.#needs.db.prepare<[number], ArtworkRow>('SELECT * FROM artwork WHERE id = ?').get(id);
  }
}

function whyUnread(error: unknown, { seconds, megabytes }: FactsRequest['limits']): string {
  const simpler = 'Ask for the file to be saved anew, simpler, or raise the limit under Shop and read it again.';
  if (error instanceof WorkEnded) {
    if (error.cause === 'time') return `Looking at the file took longer than ${seconds} s and was ended. ${simpler}`;
    if (error.cause === 'memory') return `Looking at the file took more than ${megabytes} MB of memory and was ended. ${simpler}`;
    if (error.cause === 'stalled') return 'The machine was too busy to look at the file. Read it again when it is not.';
    return 'The program that reads it broke each time. Read it again, or ask for the file to be saved anew, or for a PDF.';
  }
  if (isDiskFull(error)) return 'The disk of the server is full. Make room and read the file again.';
  return 'The file could not be read, and the program does not know why. Read it again, or ask for it to be saved anew, or for a PDF.';
}
