import { fstatSync } from 'node:fs';
import { basename, sep } from 'node:path';
import { copiesOf } from '$lib/arrivals';
import type { Artworks } from '../artwork/artworks';
import type { FileStore } from '../platform/files';
import { Problem } from '../platform/problem';
import { MOST_TABLE_BYTES } from '../records/tables';
import type { ArrivalRow, ArrivalStore } from './arrival-store';
import { identityAt, identityOf, lookAt, moveAside, openFound } from './folder-files';
import type { KeptFolder } from './watched-folders';

interface Needs {
  artworks: Artworks;
  files: FileStore;
  store: ArrivalStore;
}

/** Files of watched folders that are whole: stored and written down, refused, and moved aside. */
export class FolderTaking {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /**
   * Stores a file, and writes down in the same transaction where it came from.
   *
   * @param beside the place of a table that goes with it
   */
  async store(kept: KeptFolder, place: string, identity: string, bytes: number, beside?: string): Promise<number> {
    const { artworks, store } = this.#needs;
    const table = beside === undefined ? undefined : await this.#storeTable(kept, beside);
    const file = await openFound(kept.path, place);
    let id = 0;
    try {
      const name = basename(place).normalize('NFC');
      await artworks.take(name, file.createReadStream({ autoClose: false }), (artworkId, hash, taken) => {
        if (identityOf(fstatSync(file.fd, { bigint: true })) !== identity || taken !== bytes)
          throw new Error('It was changed while it was read.');
        id = store.add({
          ...this.#arrival(kept, place),
          ...table,
          name,
          bytes,
          hash,
          identity,
          artwork_id: artworkId,
          state: 'reading',
          reason: null
        });
      });
    } finally {
      await file.close();
    }
    return id;
  }

  /** Stores a table; whose it is is written down with its artwork. */
  async #storeTable(kept: KeptFolder, place: string) {
    const { identity, bytes } = await lookAt(kept.path, place);
    if (bytes > MOST_TABLE_BYTES)
      throw new Problem(413, `${basename(place)} beside it is larger than ${MOST_TABLE_BYTES / 1e6} MB, the most for a table.`);
    const file = await openFound(kept.path, place);
    try {
      const { hash } = await this.#needs.files.take(file.createReadStream({ autoClose: false }), MOST_TABLE_BYTES);
      if ((await identityAt(kept.path, place)) !== identity)
        throw new Error('The table beside it was changed while it was read.');
      return { table_place: place, table_hash: hash, table_identity: identity };
    } finally {
      await file.close();
    }
  }

  #arrival({ id, folder }: KeptFolder, place: string) {
    const parts = place.split(sep);
    return {
      source: 'folder' as const,
      folder_id: id,
      place,
      despite_looks: folder.despiteLooks ? 1 : 0,
      customer: folder.customers && parts.length > 1 ? parts[0]!.normalize('NFC').slice(0, 120) : '',
      copies: copiesOf(parts.at(-1)!, folder.copies) ?? null,
      way: folder.way,
      recipe_id: folder.recipeId
    };
  }

  /** Writes down what is no file that could be taken. @returns its arrival; nothing where it is gone */
  async refuse(kept: KeptFolder, place: string, reason: string): Promise<ArrivalRow | undefined> {
    const { store } = this.#needs;
    const identity = await identityAt(kept.path, place);
    if (identity === undefined) return undefined;
    const known = store.ofFile(kept.id, place, identity);
    if (known) return known;
    const name = basename(place).normalize('NFC').slice(0, 200);
    const nothing = { bytes: 0, hash: null, artwork_id: null, state: 'refused' as const };
    return store.row(store.add({ ...this.#arrival(kept, place), ...nothing, name, identity, reason }));
  }

  /** Moves what came of an arrival aside, as far as it lies there still. */
  async moveAside(kept: KeptFolder, row: ArrivalRow): Promise<void> {
    const why = row.state === 'refused' ? (row.reason ?? '') : undefined;
    if ((await identityAt(kept.path, row.place)) === row.identity) await moveAside(kept.path, row.place, why);
    if (row.table_place !== null && (await identityAt(kept.path, row.table_place)) === row.table_identity)
      await moveAside(kept.path, row.table_place, why);
    this.#needs.store.change(row.id, { moved: 1 });
  }
}
