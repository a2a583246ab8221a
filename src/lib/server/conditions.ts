import type { z } from 'zod';
import { offsetCoated } from '$core/colour/conditions';
import { greyProfile, srgbProfile } from '$core/colour/icc-write';
import { PrinterModel } from '$core/colour/printer-model';
import { DEFAULT_SEPARATION, type ProfileRecipe } from '$core/colour/profile-build';
import { mlPerSquareMetre } from '$core/rip/ink';
import type { DropVolumes } from '$core/screening/thresholds';
import { PrintMode } from '$lib/model';
import type { ConditionRow } from './db/rows';
import { keptFile } from './kept-files';
import { Problem } from './problem';
import type { Shop } from './shop';
import type { TaskContext } from './tasks/runner';

export interface Condition {
  id: number;
  machineId: number;
  machine: string;
  mediaId: number;
  media: string;
  surface: 'gloss' | 'matt';
  costPerM2: number;
  rollWidthMm: number;
  mode: z.infer<typeof PrintMode>;
  hasProfile: boolean;
}

export const DROPS: DropVolumes = [6, 13, 21];
const MADE = { year: 2026, month: 1, day: 1 };

/** Printing conditions: machine + media + print mode, each with its profile. */
export class Conditions {
  readonly #shop: Shop;
  #sources: Promise<{ rgb: string; cmyk: string; grey: string }> | undefined;

  constructor(shop: Shop) {
    this.#shop = shop;
    shop.tasks.register('profile', 1, (subject, context) => this.#build(Number(subject), context));
  }

  list(): Condition[] {
    return this.#shop.db.prepare<[], ConditionRow>(`${SELECT} ORDER BY c.id`).all().map(toCondition);
  }

  get(id: number): Condition {
    return toCondition(this.#row(id));
  }

  addMedia(name: string, surface: 'gloss' | 'matt', costPerM2: number): number {
    const { db } = this.#shop;
    db.prepare(
      'INSERT INTO media (name, surface, cost_per_m2) VALUES (?, ?, ?) ON CONFLICT (name) DO UPDATE SET cost_per_m2 = excluded.cost_per_m2'
    ).run(name, surface, costPerM2);
    return (db.prepare<[string], { id: number }>('SELECT id FROM media WHERE name = ?').get(name) as { id: number }).id;
  }

  /** Adds a condition and has its profile built from what the machine says of itself. */
  add(machineId: number, mediaId: number, mode: z.infer<typeof PrintMode>): number {
    const { db, tasks, events } = this.#shop;
    db.prepare(
      'INSERT INTO condition (machine_id, media_id, mode) VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET mode = excluded.mode'
    ).run(machineId, mediaId, JSON.stringify(mode));
    const { id } = db
      .prepare<[number, number], { id: number }>('SELECT id FROM condition WHERE machine_id = ? AND media_id = ?')
      .get(machineId, mediaId) as { id: number };
    if (!this.#row(id).profile_hash) tasks.add('profile', id);
    events.changed('conditions');
    return id;
  }

  profilePath(id: number): string {
    const { profile_hash: hash, machine, media } = this.#row(id);
    if (!hash) throw new Problem(409, `The profile of ${machine} on ${media} is still being built. It takes a few seconds.`);
    return this.#shop.files.path(hash);
  }

  /** Profiles that customers' colours are read with where a file has none: made once, kept in the data folder. */
  sources(): Promise<{ rgb: string; cmyk: string; grey: string }> {
    this.#sources ??= this.#makeSources().catch((error: unknown) => {
      this.#sources = undefined;
      throw error;
    });
    return this.#sources;
  }

  async #makeSources() {
    const { db, files, profilePool } = this.#shop;
    const keep = (name: string, make: () => Promise<Uint8Array>) => keptFile(db, files, name, make);
    const recipe: ProfileRecipe = {
      name: 'Offset, coated',
      made: MADE,
      separation: { ...DEFAULT_SEPARATION, totalInk: 3 },
      forwardGrid: 17,
      backwardGrid: 17
    };
    return {
      rgb: await keep('source/rgb', () => Promise.resolve(srgbProfile())),
      grey: await keep('source/grey', () => Promise.resolve(greyProfile())),
      cmyk: await keep('source/cmyk', () => profilePool.run({ model: offsetCoated(), recipe }) as Promise<Uint8Array>)
    };
  }

  /** ml that a square metre of full coverage takes of one ink. */
  mlPerSquareMetre(condition: Condition): number {
    return mlPerSquareMetre({ x: condition.mode.dpi, y: condition.mode.dpi }, DROPS);
  }

  async #build(id: number, { signal }: TaskContext): Promise<void> {
    const { db, files, profilePool, machines, events } = this.#shop;
    const row = this.#row(id);
    const machine = machines.rows().find((m) => m.id === row.machine_id);
    const reply = await fetch(`${machine?.url}/models`, { signal: AbortSignal.any([signal, AbortSignal.timeout(10_000)]) }).catch(
      () => undefined
    );
    if (!reply?.ok)
      throw new Problem(502, `${row.machine} does not answer, so its profile cannot be built. Switch it on and try again.`);
    const models = (await reply.json()) as Record<string, unknown>;
    const recipe: ProfileRecipe = {
      name: `${row.machine} on ${row.media}`,
      made: MADE,
      separation: DEFAULT_SEPARATION,
      forwardGrid: 17,
      backwardGrid: 33
    };
    const profile = (await profilePool.run({ model: PrinterModel.parse(models[row.surface]), recipe }, { signal })) as Uint8Array;
    const hash = await files.put(profile);
    db.prepare('UPDATE condition SET profile_hash = ? WHERE id = ?').run(hash, id);
    events.changed('conditions');
  }

  #row(id: number): ConditionRow {
    const row = this.#shop.db.prepare<[number], ConditionRow>(`${SELECT} WHERE c.id = ?`).get(id);
    if (!row) throw new Problem(404, 'There is no such printing condition.');
    return row;
  }
}

const SELECT = `SELECT c.*, m.name AS machine, d.name AS media, d.surface, d.cost_per_m2, d.width_mm
  FROM condition c JOIN machine m ON m.id = c.machine_id JOIN media d ON d.id = c.media_id`;

function toCondition(row: ConditionRow): Condition {
  return {
    id: row.id,
    machineId: row.machine_id,
    machine: row.machine,
    mediaId: row.media_id,
    media: row.media,
    surface: row.surface,
    costPerM2: row.cost_per_m2,
    rollWidthMm: row.width_mm,
    mode: PrintMode.parse(JSON.parse(row.mode)),
    hasProfile: row.profile_hash !== null
  };
}
