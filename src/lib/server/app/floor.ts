import type { PlacedCopy } from '$core/layout/placement';
import type { ListPage } from '$lib/listing';
import type { DocketLine } from '../dockets/docket-list';
import type { Events } from '../platform/events';
import type { Lane, Lanes } from '../production/lanes';
import type { Run } from '../production/run';
import type { Runs } from '../production/run-store';
import type { Lists } from './lists';

/** More copies of a part are no longer told apart in a lane's picture. */
const MOST_COPIES = 600;

/** A run as a lane shows it. */
export interface FloorRun extends Pick<Run, 'id' | 'laneId' | 'state' | 'stale' | 'releasedAt' | 'times' | 'stock' | 'laid'> {
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

/** What is waiting and under way, machine by machine. Many open Floors are answered from one look, until anything changes. */
export class FloorView {
  readonly #needs: Needs;
  #kept: { changes: number; floor: Floor } | undefined;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  now(): Floor {
    const { events, lanes, lists, runs } = this.#needs;
    if (this.#kept?.changes === events.changes) return this.#kept.floor;
    const tray = lists.page('dockets', TRAY);
    const without = tray.facets.media?.find(({ value }) => value === 'not chosen')?.count ?? 0;
    const floor = { lanes: lanes.list(), runs: runs.inLanes().map(toFloorRun), tray, ready: tray.count - without };
    this.#kept = { changes: events.changes, floor };
    return floor;
  }
}

/** The list of dockets that the tray shows, the newest on top. */
export const TRAY = new URLSearchParams({ stage: 'not laid out', list: 'open' });

const toFloorRun = (run: Run): FloorRun => ({
  id: run.id,
  laneId: run.laneId,
  state: run.state,
  stale: run.stale,
  releasedAt: run.releasedAt,
  times: run.times,
  stock: run.stock,
  laid: run.rule.placing === 'shapes' ? run.laid : run.laid.map(({ contour: _, ...piece }) => piece),
  byShape: run.rule.placing === 'shapes',
  dockets: run.dockets.map(({ id, version }) => ({ id, version })),
  lengthMm: run.layout.length,
  parts: run.layout.parts.map(({ length, copies }) => ({ length, copies: copies.slice(0, MOST_COPIES) }))
});
