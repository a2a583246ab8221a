import { DEFAULT_RULES } from '$core/artwork/roles';
import { DEFAULT_LIMITS } from '$core/checks/check';
import { ShopSettings } from '$lib/shop-settings';
import type { Db } from './db/open';
import type { Events } from './events';

const DEFAULTS: ShopSettings = {
  shopName: 'My sign shop',
  unit: 'mm',
  currency: '€',
  rules: DEFAULT_RULES,
  limits: DEFAULT_LIMITS,
  inkCostPerMl: 0.12,
  intake: { seconds: 20, megabytes: 1000 },
  sources: { rgb: 'srgb', cmyk: 'offset', grey: 'grey' },
  tolerance: { mean: 1, p95: 2 },
  platesDays: null,
  watch: { days: null, metres: null, afterService: true },
  tones: [],
  lists: [],
  libraryUrl: ''
};

/** With how often they were changed: what was loaded before a change is older than what came of it. */
export type KeptSettings = ShopSettings & { version: number };

/** What the shop says once for all of its work. */
export class Settings {
  readonly #db: Db;
  readonly #events: Events;
  #current: ShopSettings;
  #version: number;

  constructor(db: Db, events: Events) {
    this.#db = db;
    this.#events = events;
    const row = db.prepare<[], { value: string }>("SELECT value FROM setting WHERE name = 'shop'").get();
    const kept = row && (JSON.parse(row.value) as Partial<KeptSettings>);
    this.#current = kept ? ShopSettings.parse(kept) : DEFAULTS;
    this.#version = kept?.version ?? 0;
  }

  get current(): ShopSettings {
    return this.#current;
  }

  get kept(): KeptSettings {
    return { ...this.#current, version: this.#version };
  }

  /** @param change what is not in it stays as it is */
  change(change: Partial<ShopSettings>): void {
    const before = this.#current;
    const settings = { ...before, ...change };
    this.#db
      .prepare("INSERT INTO setting (name, value) VALUES ('shop', ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value")
      .run(JSON.stringify({ ...settings, version: this.#version + 1 }));
    this.#version++;
    this.#current = settings;
    this.#events.tell('settings changed', { before, after: settings });
    this.#events.changed('settings');
  }
}
