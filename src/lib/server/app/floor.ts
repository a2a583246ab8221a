import { setImmediate } from 'node:timers/promises';
import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import type { PlacedCopy } from '$core/layout/placement';
import type { ListPage } from '$lib/listing';
import { TRAY } from '$lib/tray';
import type { DocketLine } from '../dockets/docket-list';
import type { Events } from '../platform/events';
import type { Lane, Lanes } from '../production/lanes';
import type { Run } from '../production/run';
import type { Runs } from '../production/run-store';
import type { Lists } from './lists';

/** More copies of a part are no longer told apart in a lane's picture. */
const MOST_COPIES = 600;

/** A run as a lane shows it. */
export interface FloorRun extends Pick<
  Run,
  'id' | 'laneId' | 'state' | 'hindrance' | 'stale' | 'releasedAt' | 'times' | 'came' | 'stock' | 'laid'
> {
  byShape: boolean;
  dockets: { id: number; version: number }[];
  lengthMm: number;
  parts: { length: number; copies: PlacedCopy[] }[];
}

export interface Floor {
  lanes: Lane[];
  runs: FloorRun[];
  /** Dockets that are not laid out yet: the first of them. */
  tray: ListPage<DocketLine>;
  /** How many of them have a media chosen, and so a lane to go to. */
  ready: number;
}

interface Needs {
  events: Events;
  lanes: Lanes;
  lists: Lists;
  runs: Runs;
}

interface Kept {
  /** How many changes there had been. */
  changes: number;
  floor: Promise<Floor>;
  text?: Promise<string>;
  packed?: Promise<Uint8Array<ArrayBuffer>>;
}

/** What is waiting and under way, machine by machine. Many open Floors are answered from one look, until anything changes. */
export class FloorView {
  readonly #needs: Needs;
  #kept: Kept | undefined;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  now(): Promise<Floor> {
    return this.#look().floor;
  }

  /** As JSON. */
  text(): Promise<string> {
    const kept = this.#look();
    return (kept.text ??= kept.floor.then((floor) => JSON.stringify(floor)));
  }

  /** The same, by gzip. */
  packed(): Promise<Uint8Array<ArrayBuffer>> {
    const kept = this.#look();
    return (kept.packed ??= this.text().then(promisify(gzip)) as Promise<Buffer<ArrayBuffer>>);
  }

  #look(): Kept {
    const { changes } = this.#needs.events;
    if (this.#kept?.changes === changes) return this.#kept;
    const kept: Kept = { changes, floor: this.#make() };
    this.#kept = kept;
    // What went wrong is tried again.
    kept.floor.catch(() => {
      if (this.#kept === kept) this.#kept = undefined;
    });
    return kept;
  }

  /** Run by run: one with many dockets takes its time, and others have their turn between. */
  async #make(): Promise<Floor> {
    const { lanes, lists, runs } = this.#needs;
    const made: FloorRun[] = [];
    for (const id of runs.inLanes()) {
      const run = runs.find(id);
      if (run) made.push(toFloorRun(run));
      await setImmediate();
    }
    const tray = lists.page('dockets', new URLSearchParams(TRAY));
    const without = tray.facets.media?.find(({ value }) => value === 'not chosen')?.count ?? 0;
    return { lanes: lanes.list(), runs: made, tray, ready: tray.count - without };
  }
}

const toFloorRun = (run: Run): FloorRun => ({
  id: run.id,
  laneId: run.laneId,
  state: run.state,
  hindrance: run.hindrance,
  stale: run.stale,
  releasedAt: run.releasedAt,
  times: run.times,
  came: run.came,
  stock: run.stock,
  laid: run.laid.map(({ contour, panel, ...piece }) => ({
    ...piece,
    ...(run.rule.placing === 'shapes' && { contour }),
    // What is printed beside panels is not seen from afar.
    ...(panel && { panel: { ...panel, marks: [], lines: [], white: [] } })
  })),
  byShape: run.rule.placing === 'shapes',
  dockets: run.dockets.map(({ id, version }) => ({ id, version })),
  lengthMm: run.layout.length,
  parts: run.layout.parts.map(({ length, copies }) => ({ length, copies: copies.slice(0, MOST_COPIES) }))
});
