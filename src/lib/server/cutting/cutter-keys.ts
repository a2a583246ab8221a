import { createHash, randomBytes } from 'node:crypto';
import type { Db } from '../platform/db/open';
import { Problem } from '../platform/problem';

/** Keys that cutters ask with. Only what they come to is kept. */

const KEY_BYTES = 24;
const hashOf = (key: string) => createHash('sha256').update(key).digest('hex');

export class CutterKeys {
  readonly #db: Db;

  constructor({ db }: { db: Db }) {
    this.#db = db;
  }

  /**
   * A new key of a cutter; the one of the same kind before it is good no more.
   *
   * @param kind one that a person gives to the cutter's computer, or that a roll is begun with
   */
  make(machineId: number, kind: 'given' | 'roll'): string {
    const key = randomBytes(KEY_BYTES).toString('base64url');
    this.#db.transaction(() => {
      this.#db.prepare('DELETE FROM cutter_key WHERE machine_id = ? AND kind = ?').run(machineId, kind);
      this.#db
        .prepare('INSERT INTO cutter_key (hash, machine_id, kind, made_at) VALUES (?, ?, ?, ?)')
        .run(hashOf(key), machineId, kind, Date.now());
    })();
    return key;
  }

  /** When the key was made that a cutter's computer was given; nothing where it has none. */
  givenAt(machineId: number): number | undefined {
    return this.#db
      .prepare<[number], number>("SELECT made_at FROM cutter_key WHERE machine_id = ? AND kind = 'given'")
      .pluck()
      .get(machineId);
  }

  /** Which cutter asks. @throws Problem 401 */
  machineOf(request: Pick<Request, 'headers'>): number {
    const [, key] = /^Bearer ([\w-]{20,100})$/.exec(request.headers.get('authorization') ?? '') ?? [];
    const id = key && this.#db.prepare<[string], number>('SELECT machine_id FROM cutter_key WHERE hash = ?').pluck().get(hashOf(key)); // prettier-ignore
    if (!id) throw new Problem(401, 'Ask with the key of this cutter, which stands under Shop: “authorization: Bearer …”.');
    return id;
  }
}
