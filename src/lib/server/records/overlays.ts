import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import type { OverlayFiles } from '$core/layout/pieces';
import type { FieldLine } from '$core/cutting/field-lines';
import { fontsOfField } from '$core/records/code-field';
import type { RecordChoices } from '$core/records/choices';
import type { ShopList } from '$core/records/lists';
import type { FinishedBox, SeenSpots } from '$core/records/overlay';
import type { Logger } from 'pino';
import type { Db } from '../platform/db/open';
import type { FileStore } from '../platform/files';
import { keptFile } from '../platform/kept-files';
import { digest } from '../platform/digest';
import { Problem, sentence } from '../platform/problem';
import { WorkEnded, type ProcessPool } from '../platform/tasks/process-pool';
import type { FieldPictureSets } from './pictures';
import type { Tables } from './tables';
import type { LookRequest, OverlaysRequest, RecordPicturesRequest, RecordsLooked, RecordsRequest } from './workers/records';

/** What drawing or looking at so many records may take. */
const limitsOf = (count: number) => ({ seconds: 120 + count * 0.02, megabytes: 3000 });
/** Pixels in one file of pictures. */
const MOST_PIXELS = 40e6;
/** Pages in one file: a reader looks through all that are before the one that it wants. */
const PAGES_A_FILE = 500;
/** Raised when the same records are drawn otherwise than before: what was kept is made anew. */
const DRAWN = 2;

interface Needs {
  db: Db;
  files: FileStore;
  log: Logger;
  drawingPool: ProcessPool;
  tables: Tables;
  pictureSets: FieldPictureSets;
  /** The fonts that the shop has now. */
  faces: () => { name: string; path: string }[];
}

/** Who waits for long work. */
interface Watched {
  signal: AbortSignal;
  /** Told what share is done. */
  progress: (share: number) => void;
}

/** Whose records are drawn. */
export interface RecordsOf {
  choices: FinishedBox & { records: RecordChoices };
  /** Of the shop, those that its fields ask for; none in runs from before. */
  lists?: readonly ShopList[];
  dpi: number | null;
  /** How much larger they print than the finished size, in a pocket; nothing for as large. */
  scale?: number | undefined;
}

/** Records as pages over their artwork, as pictures, and what of them is at risk: made in a process once and kept. */
export class Overlays {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /**
   * The pages of some records, in their order, in files of so many each.
   *
   * @returns the files by hash
   * @throws Problem for a record that cannot be printed
   */
  async pages(of: RecordsOf, pages: readonly number[], { signal, progress }: Watched): Promise<OverlayFiles> {
    const { db, files } = this.#needs;
    const every = this.#request(of);
    const hashes: string[] = [];
    for (let from = 0; from < pages.length; from += PAGES_A_FILE) {
      signal.throwIfAborted();
      const asked = pages.slice(from, from + PAGES_A_FILE);
      const pictures = await this.#picturesOf(of, every, asked);
      const request: Omit<OverlaysRequest, 'to'> = { ...every, pictures, pages: asked };
      const path = await keptFile(db, files, keyOf('pages', request), () =>
        files.inFolder(async (folder) => {
          const to = `${folder}/pages`;
          await this.#work('overlays', { ...request, to });
          return readFile(to);
        })
      );
      hashes.push(basename(path));
      progress(Math.min(1, (from + PAGES_A_FILE) / pages.length));
    }
    return { files: hashes, each: PAGES_A_FILE };
  }

  /** The lines that follow the lettering of records, by record. */
  async lines(of: RecordsOf, records: readonly number[], signal: AbortSignal): Promise<Map<number, FieldLine[]>> {
    const every = this.#request(of);
    const lines = new Map<number, FieldLine[]>();
    for (let from = 0; from < records.length; from += PAGES_A_FILE) {
      signal.throwIfAborted();
      const pages = records.slice(from, from + PAGES_A_FILE);
      const found = await this.#work<FieldLine[][]>('recordLines', { ...every, pages });
      pages.forEach((record, i) => lines.set(record, found[i]!));
    }
    return lines;
  }

  /**
   * Pictures of records without their artwork, one below the other.
   *
   * @param seen of spot colours that print in named colours of the shop
   * @returns the path of a PNG
   */
  async pictures(of: RecordsOf, pages: readonly number[], px: number, seen: SeenSpots = {}): Promise<string> {
    const { db, files } = this.#needs;
    const { widthMm, heightMm } = of.choices;
    if (pages.length * px * ((px * heightMm) / widthMm) > MOST_PIXELS)
      throw new Problem(
        422,
        `Pictures of these ${pages.length} records would have more than 40 million pixels. Ask for smaller ones.`
      );
    const every = this.#request(of);
    const pictures = await this.#picturesOf(of, every, pages);
    const request: RecordPicturesRequest = { ...every, pictures, pages, px, seen };
    return keptFile(db, files, keyOf('pictures', request), () => this.#work<Uint8Array>('recordPictures', request));
  }

  /** What all records come to. */
  async looked(
    of: RecordsOf,
    limits: Pick<LookRequest, 'leastPt' | 'leastPpi' | 'unit'>,
    watched: Watched
  ): Promise<RecordsLooked> {
    const { db, files } = this.#needs;
    const every = this.#request(of);
    const pictures = await this.#picturesOf(of, every, every.numbers);
    const request: LookRequest = { ...every, pictures, ...limits, scale: of.scale ?? 1 };
    const path = await keptFile(db, files, keyOf('looked', request), async () =>
      new TextEncoder().encode(JSON.stringify(await this.#work<RecordsLooked>('lookAtRecords', request, watched)))
    );
    return JSON.parse(await readFile(path, 'utf8')) as RecordsLooked;
  }

  #request({ choices, dpi, lists = [], scale = 1 }: RecordsOf): RecordsRequest {
    const { table, fields, chosen, overrides } = choices.records;
    if (!table) throw new Problem(409, 'This docket has no table.');
    const { widthMm, heightMm } = choices;
    const named = new Set(fields.flatMap(fontsOfField));
    return {
      table: this.#needs.tables.path(table),
      records: { fields, chosen, overrides, ...(lists.length > 0 && { lists }) },
      numbers: [...new Set(this.#needs.tables.series(choices.records))],
      faces: this.#needs.faces().filter(({ name }) => named.has(name)),
      pictures: {},
      size: { widthMm, heightMm },
      dpi: dpi && dpi * scale
    };
  }

  /** The pictures that some records ask for, as they are now. */
  async #picturesOf(of: RecordsOf, request: RecordsRequest, pages: readonly number[]): Promise<RecordsRequest['pictures']> {
    const { records } = of.choices;
    if (!records.fields.some(({ is }) => is === 'picture')) return {};
    return this.#needs.pictureSets.find(records, await this.#work<string[]>('picturesAsked', { ...request, pages }));
  }

  async #work<T>(name: string, request: RecordsRequest | OverlaysRequest, watched?: Watched): Promise<T> {
    const { drawingPool, log } = this.#needs;
    try {
      return await drawingPool.run<T>(name, request, limitsOf(request.numbers.length), watched?.signal, watched?.progress);
    } catch (error) {
      // Nobody waits for it any more.
      if (error instanceof Problem || watched?.signal.aborted) throw error;
      if (error instanceof WorkEnded)
        throw new Problem(503, 'Drawing these records took too long and was ended. Choose fewer of them, or simpler fields.');
      log.error({ name, error: sentence(error) }, 'records could not be drawn');
      throw new Problem(500, 'The records could not be drawn. Try again.');
    }
  }
}

const keyOf = (kind: string, what: unknown): string => `records/${kind}/${digest([DRAWN, what])}`;
