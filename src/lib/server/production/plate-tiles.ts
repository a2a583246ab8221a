import type { Piscina } from 'piscina';
import { screenOf } from '$core/colour/stack-look';
import { planesOf } from '$core/rip/plan';
import { Problem } from '../platform/problem';
import { made, type Told } from '../platform/told';
import type { TileRequest } from './plates';
import type { Runs } from './run-store';

interface Needs {
  platePool: Piscina;
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

/** The plates of runs as pictures, tile by tile. */
export class PlateTiles {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** @returns a PNG @throws Problem where there are no plates, or no such tile */
  async tile(runId: number, { shrink, column, row, isOff, on }: TileAsked): Promise<Uint8Array<ArrayBuffer>> {
    const { platePool, runs } = this.#needs;
    const { result, condition } = runs.get(runId);
    if (!result) throw new Problem(409, 'This run has not been RIPped.');
    if ((shrink & (shrink - 1)) !== 0) throw new Problem(422, 'Tiles are shrunk by powers of two.');
    const { plan } = runs.frozen(runId);
    const inks = planesOf(plan).map(({ ink }) => plan.inks[ink]!);
    const request: TileRequest = {
      paths: runs.plates(runId),
      size: { widthPx: result.widthPx, heightPx: result.heightPx },
      shrink,
      column,
      row,
      inks,
      shown: inks.map((_, plate) => !isOff(plate)),
      ...(on === 'media' && { ground: screenOf(condition.press.media) })
    };
    return made((await platePool.run(request, { name: 'tile' })) as Told<Uint8Array<ArrayBuffer>>);
  }
}
