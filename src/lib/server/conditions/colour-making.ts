import type { Piscina } from 'piscina';
import type { Conditions } from './conditions';
import type { ColoursRequest, MadeColour } from './workers/named-inks';

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

  /** @throws Problem while the condition's first profile is being made */
  async on(conditionId: number, colours: ColoursRequest['colours']): Promise<MadeColour[]> {
    const { colourPool, conditions } = this.#needs;
    const press = { profile: conditions.profilePath(conditionId), limits: conditions.inkLimits(conditionId) };
    return (await colourPool.run({ press, colours } satisfies ColoursRequest, { name: 'makeColours' })) as MadeColour[];
  }
}
