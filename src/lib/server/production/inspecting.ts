import { LRUCache } from 'lru-cache';
import type { Piscina } from 'piscina';
import { screenOf } from '$core/colour/stack-look';
import type { InkSet } from '$core/inks/ink-set';
import { planesOf } from '$core/rip/plan';
import type { Conditions } from '../conditions/conditions';
import { Problem } from '../platform/problem';
import { made, type Told } from '../platform/told';
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
  /** By plate whether it is off. */
  isOff: (plate: number) => boolean;
  /** What the plates are seen on. */
  on: 'white' | 'media';
}

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
  async tile(runId: number, { shrink, column, row, isOff, on }: TileAsked): Promise<Uint8Array<ArrayBuffer>> {
    if ((shrink & (shrink - 1)) !== 0) throw new Problem(422, 'Tiles are shrunk by powers of two.');
    const { conditions, platePool } = this.#needs;
    const { conditionId, ...plates } = this.#plates(runId);
    const request: TileRequest = {
      ...plates,
      shrink,
      column,
      row,
      shown: plates.inks.map((_, plate) => !isOff(plate)),
      ...(on === 'media' && { ground: screenOf(conditions.get(conditionId).press.media) })
    };
    return made((await platePool.run(request, { name: 'tile' })) as Told<Uint8Array<ArrayBuffer>>);
  }

  /** Ink of each plate (0…1) around a point, pixels from the top left. @throws Problem where there are no plates, or no such point */
  inkAt(runId: number, x: number, y: number): Promise<number[]> {
    const { paths, size, inks } = this.#plates(runId);
    return inkAt(paths.overview, size, inks.length, x, y);
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
