import { offsetCoated } from '$core/colour/conditions';
import { IccError, readProfileFacts } from '$core/colour/icc-read';
import { greyProfile, srgbProfile, wideRgbProfile } from '$core/colour/icc-write';
import type { ProfileRecipe } from '$core/colour/profile-build';
import { DEFAULT_SEPARATION } from '$core/colour/black';
import type { OutputIntentFact } from '$core/artwork/facts';
import { SHOPS_OWN, type SourceChoice } from '$lib/docket-choices';
import { keptFile } from '../platform/kept-files';
import { Problem } from '../platform/problem';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { FileStore } from '../platform/files';
import type { Piscina } from 'piscina';
import type { Settings } from '../platform/settings';

export const MADE = { year: 2026, month: 1, day: 1 };
export type Space = 'rgb' | 'cmyk' | 'grey';

export interface SourceProfile {
  /** A name of ours, or the file's hash. */
  id: string;
  name: string;
  space: Space;
  own: boolean;
}

/** What comes with the application, first the usual one of each space. */
const SHIPPED: SourceProfile[] = [
  { id: 'srgb', name: 'sRGB', space: 'rgb', own: false },
  { id: 'wide', name: 'Wide RGB (ROMM)', space: 'rgb', own: false },
  { id: 'offset', name: 'Offset, coated', space: 'cmyk', own: false },
  { id: 'grey', name: 'Grey, sRGB tone', space: 'grey', own: false }
];

const MOST_BYTES = 13e6;
const SPACES: Record<string, Space> = { RGB: 'rgb', CMYK: 'cmyk', GRAY: 'grey' };

/** What it works with. */
interface Needs {
  db: Db;
  events: Events;
  files: FileStore;
  profilePool: Piscina;
  settings: Settings;
}

/** Profiles that customers' colours are read with where a file has none: the shop's choice, and the docket's. */
export class SourceProfiles {
  readonly #needs: Needs;
  readonly #paths = new Map<string, Promise<string>>();

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  list(): SourceProfile[] {
    const own = this.#needs.db
      .prepare<[], { hash: string; name: string; space: Space }>('SELECT hash, name, space FROM source_profile ORDER BY added_at')
      .all();
    return [...SHIPPED, ...own.map(({ hash, name, space }) => ({ id: hash, name, space, own: true }))];
  }

  /** @throws Problem when it is no profile for colours to come in */
  async take(bytes: Uint8Array): Promise<SourceProfile> {
    const { db, files, events } = this.#needs;
    if (bytes.length > MOST_BYTES)
      throw new Problem(413, `The profile has ${(bytes.length / 1e6).toFixed(0)} MB; 13 MB is the most.`);
    let facts;
    try {
      facts = readProfileFacts(bytes);
    } catch (error) {
      throw new Problem(422, error instanceof IccError ? error.message : 'This profile cannot be read.');
    }
    const space = SPACES[facts.colourSpace];
    if (!space) throw new Problem(422, `This profile is for ${facts.colourSpace}; sources are RGB, CMYK or grey.`);
    if (facts.deviceClass === 'link') throw new Problem(422, 'This is a device link, which has no colour of its own.');
    const hash = await files.put(bytes);
    const name = (facts.description || 'Unnamed profile').slice(0, 100);
    db.prepare('INSERT OR IGNORE INTO source_profile (hash, name, space, added_at) VALUES (?, ?, ?, ?)').run(
      hash,
      name,
      space,
      Date.now()
    );
    events.changed('settings');
    return { id: hash, name, space, own: true };
  }

  /** @throws Problem 409 where something is read with it: that would change its colour without a word */
  remove(id: string): void {
    const { db, files, events, settings } = this.#needs;
    const one = this.list().find((source) => source.id === id && source.own);
    if (!one) throw new Problem(404, 'There is no such profile of the shop’s own.');
    const users = Object.entries({
      docket: 'SELECT id FROM docket WHERE instr(choices, ?) > 0',
      'deleted docket': 'SELECT id FROM docket_bin WHERE instr(docket, ?) > 0',
      recipe: 'SELECT name FROM recipe WHERE gone = 0 AND instr(document, ?) > 0'
    }).flatMap(([what, sql]) =>
      db
        .prepare<[string], string | number>(`${sql} LIMIT 6`)
        .pluck()
        .all(id)
        .map((named) => `${what} ${named}`)
    );
    if (settings.current.sources[one.space] === id) users.unshift('the shop');
    if (users.length > 0)
      throw new Problem(
        409,
        `Colours of ${users.slice(0, 5).join(', ')}${users.length > 5 ? ' and others' : ''} are read with ${one.name}. Choose another there first.`
      );
    db.prepare('DELETE FROM source_profile WHERE hash = ?').run(id);
    files.drop(id);
    events.changed('settings');
  }

  /**
   * What plain colours are read with: as the docket says, else as the file does, else as the shop, else as is usual.
   *
   * @param intent what the file says it is made for
   */
  chosen(docket?: SourceChoice, intent?: OutputIntentFact | null): SourceChoice {
    const { sources } = this.#needs.settings.current;
    const known = new Set(this.list().map(({ id }) => id));
    const one = (space: Space) => {
      const own = docket?.[space] ?? '';
      if (intent?.space === space && own !== SHOPS_OWN && !known.has(own)) return intent.hash;
      const choice = [own, sources[space]].find((id) => known.has(id));
      return choice ?? (SHIPPED.find((shipped) => shipped.space === space) as SourceProfile).id;
    };
    return { rgb: one('rgb'), cmyk: one('cmyk'), grey: one('grey') };
  }

  /** The files of a choice. */
  async paths(choice: SourceChoice = this.chosen()): Promise<Record<Space, string>> {
    return { rgb: await this.#path(choice.rgb), cmyk: await this.#path(choice.cmyk), grey: await this.#path(choice.grey) };
  }

  async #path(id: string): Promise<string> {
    if (!SHIPPED.some((one) => one.id === id)) return this.#needs.files.path(id);
    const path = this.#paths.get(id) ?? this.#make(id);
    this.#paths.set(id, path);
    try {
      return await path;
    } catch (error) {
      this.#paths.delete(id);
      throw error;
    }
  }

  /** Made once, kept in the data folder. */
  #make(id: string): Promise<string> {
    const { db, files, profilePool } = this.#needs;
    const recipe: ProfileRecipe = {
      name: 'Offset, coated',
      made: MADE,
      version: 2,
      separation: { ...DEFAULT_SEPARATION, limits: { total: 3 } },
      forwardGrid: 17,
      backwardGrid: 17
    };
    const make: Record<string, () => Promise<Uint8Array>> = {
      srgb: () => Promise.resolve(srgbProfile()),
      wide: () => Promise.resolve(wideRgbProfile()),
      grey: () => Promise.resolve(greyProfile()),
      offset: () => profilePool.run({ model: offsetCoated(), recipe }, { name: 'fromModel' }) as Promise<Uint8Array>
    };
    return keptFile(db, files, `source/${id}/4`, make[id] as () => Promise<Uint8Array>);
  }
}
