import { FreeSpace } from '$core/layout/free-space';
import type { Pin, Placement } from '$core/layout/placement';
import { layOutRun } from '$core/layout/run-layout';
import { mapPages, type MapOf } from '$core/panels/map';
import { plannedWall } from '$lib/panels';
import type { Artworks } from '../artwork/artworks';
import type { Conditions } from '../conditions/conditions';
import type { Docket, Dockets } from '../dockets/dockets';
import type { DocketPictures } from '../dockets/pictures';
import type { FileStore } from '../platform/files';
import { Problem } from '../platform/problem';
import type { Settings } from '../platform/settings';
import { WorkEnded, type ProcessPool } from '../platform/tasks/process-pool';
import type { RunEditing } from './run-editing';
import { mustBeOpen } from './run-rules';
import type { Run } from './run';
import type { Runs } from './run-store';

interface Needs {
  artworks: Artworks;
  conditions: Conditions;
  dockets: Dockets;
  files: FileStore;
  intakePool: ProcessPool;
  pictures: DocketPictures;
  runEditing: RunEditing;
  runs: Runs;
  settings: Settings;
}

const LIMITS = { seconds: 60, megabytes: 1500 };
const PICTURE_PX = 1600;
/** What stands in the pages where the picture goes. */
const ADDRESS = 'zing:wall';

/** The first page as it is printed: a sheet of A4, or smaller where there is less room. */
const SHEET = { width: 297, height: 210 };
const SCALES = [1, 0.75, 0.5, 0.36];

/** A place for a small print. */
interface FreePlace {
  part: number;
  x: number;
  y: number;
  turn: 0 | 90;
  scale: number;
}

/** Maps of walls: for those who hang them, as a file and in a run's waste. */
export class PanelMaps {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** @throws Problem for a docket that is no wall, or one that cannot be divided */
  async pdf(id: number): Promise<{ name: string; bytes: Uint8Array }> {
    const { dockets, files, intakePool, pictures } = this.#needs;
    const docket = dockets.get(id);
    const map = this.#mapOf(docket);
    const path = await pictures.docket(id, PICTURE_PX);
    const pages = mapPages({ ...map, picture: { href: ADDRESS, bleedMm: docket.choices.bleedMm } });
    const bytes = await files.inFolder(async (folder) => {
      try {
        return await intakePool.run<Uint8Array>('panelMap', { pages, picture: { address: ADDRESS, path }, folder }, LIMITS);
      } catch (error) {
        if (error instanceof WorkEnded) throw new Problem(503, 'Drawing the map took too long and was ended. Try again.');
        throw error;
      }
    });
    return { name: `${docket.name}, panel map.pdf`, bytes: Uint8Array.from(bytes) };
  }

  /**
   * Puts a small print of the map into the run of its wall: where it costs no film, as large as there is room.
   *
   * @returns the docket that it is, and whether it lies in waste
   */
  async print(id: number): Promise<{ docket: number; run: number; inWaste: boolean }> {
    const { artworks, dockets, runs, runEditing } = this.#needs;
    const { runId, choices, customer } = dockets.get(id);
    if (runId === null) throw new Problem(409, 'The wall is in no run yet. Lay it out first.');
    mustBeOpen(runs.get(runId));
    const { name, bytes } = await this.pdf(id);
    const artwork = await artworks.take(name, once(bytes));
    await artworks.whenRead(artwork.id);
    const run = runs.get(runId);
    mustBeOpen(run);
    const place = freePlace(run);
    const scale = place?.scale ?? SCALES.at(-1)!;
    const docket = dockets.add(
      artwork.id,
      0,
      {
        conditionId: choices.conditionId,
        widthMm: SHEET.width * scale,
        heightMm: SHEET.height * scale,
        bleedMm: 0,
        cut: false,
        mayTurn: false
      },
      customer
    );
    const pin: Pin[] = place
      ? [{ id: String(docket.id), copy: 0, part: place.part, x: place.x, y: place.y, turn: place.turn }]
      : [];
    const docketIds = [...run.dockets.map((one) => one.id), docket.id];
    runEditing.change(run.id, run.version, { docketIds, pins: [...run.pins, ...pin] });
    return { docket: docket.id, run: run.id, inWaste: place !== undefined };
  }

  #mapOf(docket: Docket): MapOf {
    const { conditions, settings } = this.#needs;
    const { choices, name, customer, id } = docket;
    const { wall } = choices;
    if (!wall) throw new Problem(409, `${name} is no wall: it has no panels.`);
    const condition = choices.conditionId === null ? undefined : conditions.get(choices.conditionId);
    const planned = plannedWall({ ...choices, wall }, condition);
    const [fault] = planned.faults;
    if (fault) throw new Problem(422, fault.sentence);
    return {
      wall,
      planned,
      name,
      customer,
      docket: id,
      media: condition?.media ?? 'film that is not chosen yet',
      filmMm: wall.filmMm ?? condition?.rollWidthMm ?? 0,
      unit: settings.current.unit
    };
  }
}

/** Where a run has waste that takes a map: it lies to the left, as it does around what is put somewhere by hand. */
export function freePlace({ stock, rule, laid, pins }: Pick<Run, 'stock' | 'rule' | 'laid' | 'pins'>): FreePlace | undefined {
  const layout: Placement = layOutRun(stock, { ...rule, align: 'left' }, laid, pins);
  const { gapX, gapY, margin, lead } = rule;
  for (const scale of SCALES)
    for (const turn of [0, 90] as const) {
      const [width, height] =
        turn === 0 ? [SHEET.width * scale, SHEET.height * scale] : [SHEET.height * scale, SHEET.width * scale];
      for (const [part, { copies, reach }] of layout.parts.entries()) {
        const space = new FreeSpace(stock.width - 2 * margin + gapX, reach - lead + gapY);
        for (const copy of copies)
          space.occupy({ x: copy.x - margin, y: copy.y - lead, width: copy.width + gapX, height: copy.height + gapY });
        const at = space.find(width + gapX, height + gapY);
        if (at) return { part, x: margin + at.x, y: lead + at.y, turn, scale };
      }
    }
  return undefined;
}

async function* once(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}
