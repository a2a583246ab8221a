import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ArtworkError } from '$core/artwork/facts';
import { Problem } from '../platform/problem';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { FileStore } from '../platform/files';
import type { ProcessPool } from '../platform/tasks/process-pool';
import { WorkEnded } from '../platform/tasks/process-pool';
import { faceName, shippedFonts, type FaceFile } from './shipped-fonts';
import type { ShopFont, TriedFont } from './workers/svg';

export interface Font {
  id: number;
  family: string;
  /** Nothing for a collection, which fields cannot be lettered in. */
  style: string;
  /** What its file says of its licence. */
  licence: string;
}

export const MOST_FONT_BYTES = 60e6;
const MOST_FONTS = 500;
const LIMITS = { seconds: 20, megabytes: 1000 };

/** What it works with. */
interface Needs {
  db: Db;
  events: Events;
  files: FileStore;
  intakePool: ProcessPool;
}

/** Fonts of the shop, for artwork that names a font and does not hold it. */
export class Fonts {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  list(): Font[] {
    return this.#needs.db.prepare<[], Font>('SELECT id, family, style, licence FROM font ORDER BY family, id').all();
  }

  /** For the program that draws. */
  files(): ShopFont[] {
    const { db, files } = this.#needs;
    const rows = db.prepare<[], { family: string; hash: string }>('SELECT family, hash FROM font ORDER BY id').all();
    return rows.map(({ family, hash }) => ({ family, path: files.path(hash) }));
  }

  /** What fields can be lettered in: what comes with the program, and the shop's own. */
  faces(): FaceFile[] {
    const { db, files } = this.#needs;
    const rows = db
      .prepare<[], Pick<Font, 'family' | 'style'> & { hash: string }>(
        "SELECT family, style, hash FROM font WHERE style != '' ORDER BY family, id"
      )
      .all();
    const all = [
      ...shippedFonts(),
      ...rows.map(({ family, style, hash }) => ({ name: faceName(family, style), path: files.path(hash) }))
    ];
    // Of two with one name the newest is meant.
    return [...new Map(all.map((face) => [face.name, face])).values()];
  }

  /** Takes a font file. It is tried out in a process first: one that breaks there would break every drawing. */
  async take(bytes: Uint8Array): Promise<Font> {
    const { db, files, intakePool } = this.#needs;
    if (this.list().length >= MOST_FONTS)
      throw new Problem(409, `The shop has ${MOST_FONTS} fonts, the most there can be. Remove some first.`);
    return files.inFolder(async (folder) => {
      const path = join(folder, 'font');
      await writeFile(path, bytes);
      try {
        const { family, style, licence } = await intakePool.run<TriedFont>('tryFont', { path }, LIMITS);
        const hash = await files.adopt(path);
        db.prepare(
          `INSERT INTO font (family, style, licence, hash, added_at) VALUES (?, ?, ?, ?, ?)
             ON CONFLICT (hash) DO UPDATE SET style = excluded.style, licence = excluded.licence`
        ).run(family, style, licence, hash, Date.now());
        this.#changed();
        return db.prepare<[string], Font>('SELECT id, family, style, licence FROM font WHERE hash = ?').get(hash) as Font;
      } catch (error) {
        if (error instanceof ArtworkError) throw new Problem(422, error.message);
        if (error instanceof WorkEnded)
          throw new Problem(422, 'This font breaks the program that draws with it. Take another copy.');
        throw error;
      }
    });
  }

  remove(id: number): void {
    const { db, files } = this.#needs;
    const row = db.prepare<[number], { hash: string }>('SELECT hash FROM font WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such font.');
    db.prepare('DELETE FROM font WHERE id = ?').run(id);
    files.drop(row.hash);
    this.#changed();
  }

  /** Drawings are looked at anew: what was missing may be there now. */
  #changed(): void {
    this.#needs.events.changed('settings');
    this.#needs.events.tell('fonts changed', undefined);
  }
}
