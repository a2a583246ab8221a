import { stat } from 'node:fs/promises';
import type { Logger } from 'pino';
import type { PlatesKept } from '$lib/docket-choices';
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

interface PrintedRun {
  id: number;
  /** Of its plates. */
  name: string;
  /** When its last print ended. */
  endedAt: number;
  dockets: number[];
}

/** Days that plates are kept: as long as any of a run's dockets says. @param shop its own days; for good where there are none */
export function daysKept(kept: readonly PlatesKept[], shop: number | null): number {
  const days = kept.map((one) => (one === 'always' ? Infinity : typeof one === 'number' ? one : (shop ?? Infinity)));
  return days.length === 0 ? (shop ?? Infinity) : Math.max(...days);
}

interface Needs {
  db: Db;
  events: Events;
  log: Logger;
  settings: Settings;
  plateFiles: PlateFiles;
}

/** Plates of printed runs go after the days that their dockets or the shop keep them; what was printed, when, and its layout stay. */
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

  /** Lets go of what is older than its dockets say, or the shop. */
  async look(now = Date.now()): Promise<void> {
    const { settings, log, db } = this.#needs;
    const shop = settings.current.platesDays;
    try {
      const said = this.#said();
      if (shop === null && said.size === 0) return;
      const isOver = ({ dockets, endedAt }: PrintedRun) =>
        endedAt < now - daysKept(dockets.map((id) => said.get(id) ?? 'as the shop'), shop) * DAY_MS; // prettier-ignore
      await this.#drop(this.#printed().filter(isOver));
    } catch (error) {
      if (db.open) log.error({ error: sentence(error) }, 'plates could not be deleted');
    }
  }

  async room(): Promise<PlateRoom> {
    const all = this.#needs.db.prepare<[], string>('SELECT plates_name FROM run WHERE plates_name IS NOT NULL').pluck().all();
    const printed = new Set(this.#printed().map(({ name }) => name));
    const room: PlateRoom = { all: 0, printed: 0, printedRuns: printed.size };
    for (const name of all) {
      const bytes = await this.#bytes(name);
      room.all += bytes;
      if (printed.has(name)) room.printed += bytes;
    }
    return room;
  }

  /** Deletes plates of all printed runs, also those that are kept until a person does. @returns what that freed */
  clear(): Promise<{ runs: number; bytes: number }> {
    return this.#drop(this.#printed());
  }

  async #drop(going: readonly PrintedRun[]): Promise<{ runs: number; bytes: number }> {
    const { db, events, plateFiles, log } = this.#needs;
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

  /** Printed runs that still have plates, and none of whose prints goes on. */
  #printed(): PrintedRun[] {
    return this.#needs.db
      .prepare<[], Omit<PrintedRun, 'dockets'> & { dockets: string }>(
        `SELECT r.id, r.plates_name AS name,
           (SELECT coalesce(max(p.ended_at), 0) FROM print p WHERE p.run_id = r.id) AS endedAt,
           (SELECT json_group_array(e.docket_id) FROM run_docket e WHERE e.run_id = r.id) AS dockets
         FROM run r
         WHERE r.state = 'printed' AND r.plates_name IS NOT NULL AND r.chart_id IS NULL
           AND NOT EXISTS (SELECT 1 FROM print p WHERE p.run_id = r.id AND p.ended_at IS NULL)`
      )
      .all()
      .map((run) => ({ ...run, dockets: JSON.parse(run.dockets) as number[] }));
  }

  /** Dockets that do not leave it to the shop, and what they say. */
  #said(): Map<number, PlatesKept> {
    const rows = this.#needs.db
      .prepare<[], { id: number; kept: PlatesKept }>(
        `SELECT id, json_extract(choices, '$.platesKept') AS kept FROM docket WHERE json_extract(choices, '$.platesKept') != 'as the shop'`
      )
      .all();
    return new Map(rows.map(({ id, kept }) => [id, kept]));
  }

  async #bytes(name: string): Promise<number> {
    const sizes = await Promise.all(
      Object.values(this.#needs.plateFiles.paths(name)).map(async (path) => (await stat(path).catch(() => undefined))?.size ?? 0)
    );
    return sizes.reduce((sum, size) => sum + size, 0);
  }
}
