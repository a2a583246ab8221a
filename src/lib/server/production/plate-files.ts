import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { RipFiles } from './rip';

/** Where plates lie, each run's under a name of its own. */
export class PlateFiles {
  readonly #folder: string;

  constructor(dataFolder: string) {
    this.#folder = join(dataFolder, 'plates');
    mkdirSync(this.#folder, { recursive: true });
    // What a stopped server left half-made.
    for (const name of readdirSync(this.#folder)) if (name.endsWith('.part')) rmSync(join(this.#folder, name));
  }

  paths(name: string): RipFiles {
    return {
      plates: join(this.#folder, `${name}.tif`),
      overview: join(this.#folder, `${name}.overview`),
      coarse: join(this.#folder, `${name}.coarse`)
    };
  }

  async remove(name: string): Promise<void> {
    await Promise.all(Object.values(this.paths(name)).map((path) => rm(path, { force: true })));
  }
}
