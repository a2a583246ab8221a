import type { Piscina } from 'piscina';
import type { Conditions } from './conditions';
import type { ColoursRequest, MadeColour, PressFiles } from './workers/named-inks';

interface Needs {
  colourPool: Piscina;
  conditions: Conditions;
}

/** Colours as inks of conditions, as they print now. */
export class ColourMaking {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** What a condition is to the eye: `packTables` of core/colour/soft-proof. @throws Problem while its first profile is being made */
  async proofTables(conditionId: number): Promise<Float32Array> {
    return (await this.#needs.colourPool.run({ press: this.#press(conditionId) }, { name: 'proofTables' })) as Float32Array;
  }

  #press(conditionId: number): PressFiles {
    const { conditions } = this.#needs;
    return { profile: conditions.profilePath(conditionId), limits: conditions.inkLimits(conditionId) };
  }

  /** @throws Problem while the condition's first profile is being made */
  async on(conditionId: number, colours: ColoursRequest['colours']): Promise<MadeColour[]> {
    const press = this.#press(conditionId);
    return (await this.#needs.colourPool.run({ press, colours } satisfies ColoursRequest, {
      name: 'makeColours'
    })) as MadeColour[];
  }
}
