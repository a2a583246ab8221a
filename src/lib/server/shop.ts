import { mkdirSync } from 'node:fs';
import { homedir } from 'node:os';
import { join, resolve } from 'node:path';
import pino, { type Logger } from 'pino';
import type { Piscina } from 'piscina';
import { DEFAULT_RULES } from '$core/artwork/roles';
import { DEFAULT_LIMITS } from '$core/checks/check';
import { ShopSettings } from '$lib/model';
import { Artworks } from './artworks';
import { Calibration } from './calibration';
import { CardFiles } from './card-file';
import { Charts } from './charts';
import { Conditions } from './conditions';
import { Cutting } from './cutting';
import { openDatabase, type Db } from './db/open';
import { Dockets } from './dockets';
import { DocketPictures } from './docket-pictures';
import { Events } from './events';
import { FileStore } from './files';
import { Fonts } from './fonts';
import { Lanes } from './lanes';
import { Library } from './library';
import { Machines } from './machines/machines';
import { MediaCards } from './media';
import { Modes } from './modes';
import { SourceProfiles } from './source-profiles';
import { Placements } from './placements';
import { Printing } from './printing';
import { Releasing } from './releasing';
import { Runs } from './runs';
import { ARTWORK_PROCESS, makePool, THREADS } from './tasks/pool';
import { ProcessPool } from './tasks/process-pool';
import { TaskRunner } from './tasks/runner';

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
  libraryUrl: ''
};

/** Everything of one shop: its data folder, and who works on it. */
export class Shop {
  readonly folder: string;
  readonly db: Db;
  readonly log: Logger;
  readonly files: FileStore;
  readonly events = new Events();
  readonly tasks: TaskRunner;
  /** Looks at files that come in, and draws what is there: apart, so that neither waits for the other. */
  readonly intakePool = new ProcessPool(ARTWORK_PROCESS, { lanes: THREADS, slow: { afterSeconds: 3, lanes: 2 } });
  readonly artworkPool = new ProcessPool(ARTWORK_PROCESS, { lanes: THREADS });
  readonly ripPool: Piscina;
  readonly profilePool: Piscina;
  readonly layoutPool: Piscina;
  readonly machines: Machines;
  readonly modes: Modes;
  readonly media: MediaCards;
  readonly cardFiles: CardFiles;
  readonly library: Library;
  readonly sources: SourceProfiles;
  readonly conditions: Conditions;
  readonly charts: Charts;
  readonly calibration: Calibration;
  readonly fonts: Fonts;
  readonly artworks: Artworks;
  readonly dockets: Dockets;
  readonly pictures: DocketPictures;
  readonly placements: Placements;
  readonly lanes: Lanes;
  readonly runs: Runs;
  readonly printing: Printing;
  readonly releasing: Releasing;
  readonly cutting: Cutting;

  constructor(folder: string) {
    this.folder = resolve(folder);
    mkdirSync(this.folder, { recursive: true });
    this.log = pino({ level: process.env.ZING_LOG ?? 'warn' });
    this.db = openDatabase(this.folder);
    this.files = new FileStore(this.folder);
    this.tasks = new TaskRunner(this.db, this.events, this.log);
    this.ripPool = makePool('rip-worker');
    this.profilePool = makePool('profile-worker', 1);
    this.layoutPool = makePool('layout-worker', 1);
    this.machines = new Machines(this);
    this.modes = new Modes(this);
    this.media = new MediaCards(this);
    this.cardFiles = new CardFiles(this);
    this.library = new Library(this);
    this.sources = new SourceProfiles(this);
    this.conditions = new Conditions(this);
    this.charts = new Charts(this);
    this.calibration = new Calibration(this);
    this.fonts = new Fonts(this);
    this.artworks = new Artworks(this);
    this.dockets = new Dockets(this);
    this.pictures = new DocketPictures(this);
    this.placements = new Placements(this);
    this.lanes = new Lanes(this);
    this.runs = new Runs(this);
    this.printing = new Printing(this);
    this.releasing = new Releasing(this);
    this.cutting = new Cutting(this);
  }

  /** Takes up the work that was left, and begins to watch the machines. */
  start(): void {
    this.tasks.start();
    this.machines.watch();
    this.printing.resume();
    this.releasing.start();
  }

  async close(): Promise<void> {
    this.tasks.close();
    this.machines.stop();
    this.releasing.stop();
    this.printing.stop();
    await Promise.all(
      [this.intakePool, this.artworkPool, this.ripPool, this.profilePool, this.layoutPool].map((pool) => pool.destroy())
    );
    this.db.close();
  }

  get settings(): ShopSettings {
    const row = this.db.prepare<[], { value: string }>("SELECT value FROM setting WHERE name = 'shop'").get();
    return row ? ShopSettings.parse(JSON.parse(row.value)) : DEFAULTS;
  }

  /** Keeps the settings. SVG has no spot colours: where the rules change, such files are looked at anew. */
  changeSettings(settings: ShopSettings): void {
    const before = this.settings;
    this.db
      .prepare("INSERT INTO setting (name, value) VALUES ('shop', ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value")
      .run(JSON.stringify(settings));
    this.events.changed('settings');
    if (JSON.stringify(before.rules) !== JSON.stringify(settings.rules)) this.artworks.readAgain('SVG');
  }
}

/** Where a shop's data are when nothing else is said: the user's data home. */
export function defaultDataFolder(): string {
  return process.env.ZING_DATA ?? join(process.env.XDG_DATA_HOME ?? join(homedir(), '.local', 'share'), 'zing-mast');
}
