import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { boxAround } from '$core/geometry/box';
import type { Point } from '$core/geometry/matrix';
import { jigDrawing, markDrawing, type DrawingStyle } from '$core/layout/jig-drawing';
import type { Jig, Thing } from '$core/layout/jig';
import { OutlineError, thingOf } from '$core/layout/outline-file';
import { DEFAULT_RULE, type RunRule } from '$lib/run-rule';
import type { FoundInPhoto } from '../artwork/workers/jig-photo';
import type { Artworks } from '../artwork/artworks';
import type { Conditions } from '../conditions/conditions';
import type { Dockets } from '../dockets/dockets';
import type { PreparedDockets } from '../dockets/prepared-dockets';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { FileStore } from '../platform/files';
import { Problem } from '../platform/problem';
import { WorkEnded, type ProcessPool } from '../platform/tasks/process-pool';
import type { Lanes } from './lanes';
import { putPart, WHOLE } from './run-parts';
import type { Runs } from './run-store';

interface Needs {
  db: Db;
  events: Events;
  files: FileStore;
  intakePool: ProcessPool;
  artworks: Artworks;
  dockets: Dockets;
  preparedDockets: PreparedDockets;
  conditions: Conditions;
  lanes: Lanes;
  runs: Runs;
}

const LIMITS = { seconds: 60, megabytes: 2500 };

/** What is printed for a jig itself: its outlines and numbers to lay things in by, or the marks that a photo is measured by. */
export const SHEETS = ['outlines', 'marks'] as const;
export type Sheet = (typeof SHEETS)[number];

/** What a jig is made of that comes from outside, and what is printed for it. */
export class JigIntake {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** A thing as a drawing outlines it. @param name as the file is called @throws Problem for what is none, with the figure */
  outline(bytes: Uint8Array, name: string): Promise<Thing> {
    return this.#looked('readOutline', bytes, { name });
  }

  /** A thing as a docket is cut. @throws Problem for one that is not */
  outlineOfDocket(id: number): Thing {
    const { dockets, preparedDockets } = this.#needs;
    const docket = dockets.get(id);
    const rings = preparedDockets.contour(docket);
    if (!rings || !boxAround(rings)) throw new Problem(422, `${docket.name} has no cut line. Choose a docket that is cut.`);
    try {
      return thingOf(rings.map((points) => ({ points, closed: true })));
    } catch (error) {
      if (error instanceof OutlineError) throw new Problem(422, `${docket.name}: ${error.message}`);
      throw error;
    }
  }

  /** Where things lie in a photo of a loaded jig. @param corners of the bed, shares of the picture; none where it has marks */
  find(bytes: Uint8Array, jig: Jig, corners: Point[] | null): Promise<FoundInPhoto> {
    return this.#looked('findThings', bytes, { jig, corners });
  }

  /** In a process: files come from anywhere. */
  #looked<T>(name: string, bytes: Uint8Array, more: object): Promise<T> {
    const { files, intakePool } = this.#needs;
    return files.inFolder(async (folder) => {
      const path = join(folder, 'file');
      await writeFile(path, bytes);
      try {
        return await intakePool.run<T>(name, { path, ...more }, LIMITS);
      } catch (error) {
        if (error instanceof WorkEnded) throw new Problem(422, 'This file takes too long or breaks the program that reads it. Take another one.'); // prettier-ignore
        throw error;
      }
    });
  }

  /**
   * Lays out what is printed for a jig as a run of its own, at the corner that the machine counts from.
   *
   * @returns the run's number
   */
  async sheetRun(jig: Jig, what: Sheet, style: DrawingStyle, conditionId: number): Promise<number> {
    const { db, events, artworks, dockets, conditions, lanes, runs } = this.#needs;
    const { sheetMm, rollWidthMm, media, machine } = conditions.get(conditionId);
    const { widthMm, lengthMm, origin } = jig.bed;
    if (sheetMm === null) throw new Problem(422, `${machine} prints ${media} from the roll. Choose a media in sheets.`);
    if (widthMm > rollWidthMm + 0.5 || lengthMm > sheetMm + 0.5)
      throw new Problem(422, `This jig’s bed is ${widthMm} × ${lengthMm} mm; ${media} is ${Math.round(rollWidthMm)} × ${Math.round(sheetMm)} mm. Choose another media.`); // prettier-ignore
    const svg = what === 'marks' ? markDrawing(jig) : jigDrawing(jig, style);
    const name = `${jig.name}, ${what}.svg`;
    const artwork = await artworks.take(name, bytesOf(svg));
    await artworks.whenRead(artwork.id);
    const made = db.transaction(() => {
      const docket = dockets.add(artwork.id, 0, {
        conditionId,
        widthMm,
        heightMm: lengthMm,
        bleedMm: 0,
        cut: false,
        mayTurn: false
      });
      const lane = lanes.ensure(conditionId);
      const rule: RunRule = { ...DEFAULT_RULE, placing: 'hand', gapX: 0, gapY: 0, margin: 0, lead: 0, tail: 0 };
      const run = runs.create(lane, conditionId, rule);
      const pin = {
        id: String(docket.id),
        copy: 0,
        part: 0,
        x: origin.endsWith('left') ? 0 : rollWidthMm - widthMm,
        y: origin.startsWith('front') ? 0 : sheetMm - lengthMm,
        turn: 0
      };
      putPart(db, run, docket.id, 1, { ...WHOLE, copies: 1, held: 0 });
      db.prepare('UPDATE run SET pins = ? WHERE id = ?').run(JSON.stringify([pin]), run);
      return { run, docket: docket.id };
    })();
    events.changed('runs', [made.run]);
    events.changed('dockets', [made.docket]);
    return made.run;
  }
}

async function* bytesOf(text: string): AsyncGenerator<Uint8Array> {
  yield new TextEncoder().encode(text);
}
