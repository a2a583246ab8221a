import { setImmediate } from 'node:timers/promises';
import type { PicturesRef, RecordChoices } from '$core/records/choices';
import { plainPicture, type PictureSize } from '$core/records/pictures';
import type { Db } from '../platform/db/open';
import type { FileStore } from '../platform/files';
import { digest } from '../platform/digest';
import { Problem } from '../platform/problem';
import { WorkEnded, type ProcessPool } from '../platform/tasks/process-pool';
import { forgetUnnamed } from './unnamed';
import type { ReadPictures } from './workers/read-pictures';
import type { FoundPicture } from './workers/field-pictures';

/** The largest file of pictures that is taken. */
export const MOST_PICTURES_BYTES = 2e9;
const LIMITS = { seconds: 900, megabytes: 1500 };
/** Names that are looked for before others have their turn. */
const A_TURN = 200;

/** Pictures that were taken, and what of their file was not. */
export interface PicturesTaken extends Omit<ReadPictures, 'pictures'> {
  pictures: PicturesRef;
}

/** A picture that fields can show. */
export interface KeptPicture extends PictureSize {
  hash: string;
  /** Of one that is a page: the number of its artwork. */
  artwork?: number | undefined;
}

interface Needs {
  db: Db;
  files: FileStore;
  intakePool: ProcessPool;
  /** Pictures among the artwork, by their plain names. */
  artworkPictures: () => ReadonlyMap<string, KeptPicture>;
  /** Spot colours of an artwork's first page that do not print; nothing for one that cannot be shown in a field. */
  leftOutOf: (artwork: number) => string[] | undefined;
}

/** Customers' pictures for fields: each a file of its own, told apart by the names that they came with. */
export class FieldPictureSets {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
    forgetUnnamed(needs.db, 'picture_set');
  }

  /**
   * Takes pictures from a zip. They are unpacked and tried in a process: files come from anywhere.
   *
   * @throws Problem for a zip that is broken, or without any picture
   */
  async take(source: AsyncIterable<Uint8Array>, name: string): Promise<PicturesTaken> {
    const { files, intakePool } = this.#needs;
    const { hash: packed } = await files.take(source, MOST_PICTURES_BYTES, () => undefined);
    try {
      return await files.inFolder(async (folder) => {
        const { pictures, ...rest } = await intakePool.run<ReadPictures>(
          'readPictures',
          { from: files.path(packed), folder },
          LIMITS
        );
        if (pictures.length === 0)
          throw new Problem(422, `There is no picture in ${name}. It takes a zip of JPEG, PNG, TIFF, WebP or GIF files.`);
        const kept: { name: string; hash: string; width: number; height: number }[] = [];
        for (const { path, ...picture } of pictures) kept.push({ ...picture, hash: await files.adopt(path) });
        return { ...rest, pictures: this.#named(name, kept) };
      });
    } catch (error) {
      if (error instanceof WorkEnded)
        throw new Problem(
          422,
          'A picture of this zip breaks the program that reads it, or there are too many. Divide it to find it.'
        );
      throw error;
    } finally {
      files.drop(packed);
    }
  }

  #named(name: string, pictures: readonly { name: string; hash: string; width: number; height: number }[]): PicturesRef {
    const { db } = this.#needs;
    const all = digest(pictures.map((one) => [one.name, one.hash]).sort());
    const ref = { hash: all, name, count: pictures.length };
    db.transaction(() => {
      db.prepare('INSERT OR REPLACE INTO picture_set (hash, name, count, added_at) VALUES (?, ?, ?, ?)').run(
        ref.hash,
        ref.name,
        ref.count,
        Date.now()
      );
      const put = db.prepare(
        'INSERT OR REPLACE INTO record_picture (set_hash, name, plain, hash, width, height) VALUES (?, ?, ?, ?, ?, ?)'
      );
      for (const one of pictures) put.run(all, one.name, plainPicture(one.name), one.hash, one.width, one.height);
    })();
    return ref;
  }

  /** By what fields say, the pictures that there are: of the docket's own, else among the artwork. */
  async find({ pictures }: Pick<RecordChoices, 'pictures'>, names: readonly string[]): Promise<Record<string, FoundPicture>> {
    const { db, files, artworkPictures, leftOutOf } = this.#needs;
    const own = db.prepare<[string, string, string], KeptPicture>(
      // Of several that are called alike, one with just the name goes first.
      `SELECT hash, width, height FROM record_picture WHERE set_hash = ? AND plain = ? ORDER BY name != ?, name LIMIT 1`
    );
    const others = names.length > 0 ? artworkPictures() : new Map<string, KeptPicture>();
    const found: Record<string, FoundPicture> = {};
    for (const [i, name] of names.entries()) {
      if (i % A_TURN === A_TURN - 1) await setImmediate();
      const plain = plainPicture(name);
      if (plain === '') continue;
      const picture = (pictures && own.get(pictures.hash, plain, name)) ?? others.get(plain);
      if (!picture) continue;
      const { hash, width, height, artwork } = picture;
      const leftOut = artwork === undefined ? undefined : leftOutOf(artwork);
      if (artwork === undefined || leftOut) found[name] = { path: files.path(hash), width, height, ...(leftOut && { leftOut }) };
    }
    return found;
  }
}
