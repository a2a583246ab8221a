import { stat } from 'node:fs/promises';
import type { Logger } from 'pino';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { sentence } from '../platform/problem';
import type { Settings } from '../platform/settings';
import type { PlateFiles } from './plate-files';

const LOOK_EVERY_MS = 3_600_000;
const DAY_MS = 86_400_000;

/** What plates take on the disk, bytes. */
export interface PlateRoom {
  all: number;
  /** Of runs that are printed: these can go. */
  printed: number;
  printedRuns: number;
}

interface Needs {
  db: Db;
  events: Events;
  log: Logger;
  settings: Settings;
  plateFiles: PlateFiles;
}

/** Plates of printed runs go after the days that the shop keeps them; what was printed, when, and its layout stay. */
export class PlateKeeping {
  readonly #needs: Needs;
  #timer: NodeJS.Timeout | undefined;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  start(): void {
    this.#timer = setInterval(() => void this.look(), LOOK_EVERY_MS);
    void this.look();
  }

  stop(): void {
    clearInterval(this.#timer);
  }

  /** Lets go of what is older than the shop keeps it. */
  async look(now = Date.now()): Promise<void> {
    const { settings, log, db } = this.#needs;
    const days = settings.current.platesDays;
    if (days === null) return;
    try {
      await this.clear(now - days * DAY_MS);
    } catch (error) {
      if (db.open) log.error({ error: sentence(error) }, 'plates could not be deleted');
    }
  }

  async room(): Promise<PlateRoom> {
    const all = this.#needs.db.prepare<[], string>('SELECT plates_name FROM run WHERE plates_name IS NOT NULL').pluck().all();
    const printed = new Set(this.#printed(Infinity).map(({ name }) => name));
    const room: PlateRoom = { all: 0, printed: 0, printedRuns: printed.size };
    for (const name of all) {
      const bytes = await this.#bytes(name);
      room.all += bytes;
      if (printed.has(name)) room.printed += bytes;
    }
    return room;
  }

  /** Deletes plates of runs whose last print ended before a moment. @returns what that freed */
  async clear(before: number): Promise<{ runs: number; bytes: number }> {
    const { db, events, plateFiles, log } = this.#needs;
    const going = this.#printed(before);
    let bytes = 0;
    const runs: number[] = [];
    for (const { id, name } of going) {
      const size = await this.#bytes(name);
      // The row first: one that says that it has plates has them.
      const { changes } = db
        .prepare(
          `UPDATE run SET plates_name = NULL WHERE id = ? AND plates_name = ? AND state = 'printed'
             AND NOT EXISTS (SELECT 1 FROM print p WHERE p.run_id = run.id AND p.ended_at IS NULL)`
        )
        .run(id, name);
      // One that prints again meanwhile needs them.
      if (changes === 0) continue;
      bytes += size;
      runs.push(id);
      await plateFiles.remove(name);
    }
    if (runs.length > 0) {
      log.info({ runs: runs.length, bytes }, 'plates deleted');
      events.changed('runs', runs);
      events.changed('settings');
    }
    return { runs: runs.length, bytes };
  }

  /** Printed runs that still have plates, and whose last print ended before a moment. */
  #printed(before: number): { id: number; name: string }[] {
    return this.#needs.db
      .prepare<[number], { id: number; name: string }>(
        `SELECT r.id, r.plates_name AS name FROM run r
         WHERE r.state = 'printed' AND r.plates_name IS NOT NULL AND r.chart_id IS NULL
           AND NOT EXISTS (SELECT 1 FROM print p WHERE p.run_id = r.id AND (p.ended_at IS NULL OR p.ended_at >= ?))`
      )
      .all(Math.min(before, Number.MAX_SAFE_INTEGER));
  }

  async #bytes(name: string): Promise<number> {
    const sizes = await Promise.all(
      Object.values(this.#needs.plateFiles.paths(name)).map(async (path) => (await stat(path).catch(() => undefined))?.size ?? 0)
    );
    return sizes.reduce((sum, size) => sum + size, 0);
  }
}
