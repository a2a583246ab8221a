import { LRUCache } from 'lru-cache';
import type { Piscina } from 'piscina';
import { z } from 'zod';
import { screenOf } from '$core/colour/stack-look';
import type { InkSet } from '$core/inks/ink-set';
import { planesOf } from '$core/rip/plan';
import type { Conditions } from '../conditions/conditions';
import { Problem } from '../platform/problem';
import { made, type Told } from '../platform/told';
import type { NearestRequest, Place } from './nearest-ink';
import { inkAt, type TileRequest } from './plates';
import { resultOf } from './run';
import type { Runs } from './run-store';

interface Needs {
  platePool: Piscina;
  conditions: Conditions;
  runs: Runs;
}

export interface TileAsked {
  /** Device pixels to one of the tile: 1, 2, 4, … */
  shrink: number;
  column: number;
  row: number;
  inks?: ShownPlates;
  /** What the plates are seen on. */
  on: 'white' | 'media';
}

/** By plate 1 where it is on and 0 where it is off; those that are left out are on. */
export const ShownPlates = z
  .string()
  .regex(/^[01]{1,192}$/)
  .optional();
type ShownPlates = z.infer<typeof ShownPlates>;

const shownOf = (shown: ShownPlates, plates: InkSet): boolean[] => plates.map((_, plate) => shown?.[plate] !== '0');

/** Of so many runs the inks of their plates are remembered. */
const MOST_KNOWN = 100;

/** The plates of runs, looked at down to the drop. Asked for with each move of the pointer: no more of a run is read than that takes. */
export class Inspecting {
  readonly #needs: Needs;
  /** By name of the plates. */
  readonly #inks = new LRUCache<string, InkSet>({ max: MOST_KNOWN });

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** A part of the plates. @returns a PNG @throws Problem where there are no plates, or no such tile */
  async tile(runId: number, { shrink, column, row, inks, on }: TileAsked): Promise<Uint8Array<ArrayBuffer>> {
    if ((shrink & (shrink - 1)) !== 0) throw new Problem(422, 'Tiles are shrunk by powers of two.');
    const { conditions, platePool } = this.#needs;
    const { conditionId, ...plates } = this.#plates(runId);
    const request: TileRequest = {
      ...plates,
      shrink,
      column,
      row,
      shown: shownOf(inks, plates.inks),
      ...(on === 'media' && { ground: screenOf(conditions.get(conditionId).press.media) })
    };
    return made((await platePool.run(request, { name: 'tile' })) as Told<Uint8Array<ArrayBuffer>>);
  }

  /** Ink of each plate (0…1) around a point, pixels from the top left. @throws Problem where there are no plates, or no such point */
  inkAt(runId: number, x: number, y: number): Promise<number[]> {
    const { paths, size, inks } = this.#plates(runId);
    return inkAt(paths.overview, size, inks.length, x, y);
  }

  /**
   * Where ink lies nearest to a point, pixels from the top left; nothing where the plates that are on are blank.
   *
   * @throws Problem where there are no plates
   */
  async nearestInk(runId: number, { x, y }: Place, shown: ShownPlates): Promise<Place | undefined> {
    const { paths, size, inks } = this.#plates(runId);
    const request: NearestRequest = { paths, size, shown: shownOf(shown, inks), x, y };
    return made((await this.#needs.platePool.run(request, { name: 'nearest' })) as Told<Place | undefined>);
  }

  #plates(runId: number): Pick<TileRequest, 'paths' | 'size' | 'inks'> & { conditionId: number } {
    const { runs } = this.#needs;
    const { result, plates_name: name, condition_id: conditionId } = runs.row(runId);
    if (!result || !name) throw new Problem(409, 'This run has not been RIPped.');
    const { widthPx, heightPx } = resultOf(result);
    return { paths: runs.plates(runId), size: { widthPx, heightPx }, inks: this.#inksOf(runId, name), conditionId };
  }

  /** The plan of a long run takes its time to be read. */
  #inksOf(runId: number, plates: string): InkSet {
    const known = this.#inks.get(plates);
    if (known) return known;
    const { plan } = this.#needs.runs.frozen(runId);
    const inks = planesOf(plan).map(({ ink }) => plan.inks[ink]!);
    this.#inks.set(plates, inks);
    return inks;
  }
}
