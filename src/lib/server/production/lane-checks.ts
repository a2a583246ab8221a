import { isPlain, laidLayers, layersTogether } from '$core/inks/stack';
import { cannotLay } from '$core/media/press';
import type { RunRule } from '$lib/run-rule';
import type { Condition } from '../conditions/condition';
import type { Conditions } from '../conditions/conditions';
import type { Docket } from '../dockets/dockets';
import type { PreparedDockets } from '../dockets/prepared-dockets';
import type { Jigs } from '../machines/jigs';
import { Problem } from '../platform/problem';
import type { Lanes } from './lanes';

interface Needs {
  conditions: Conditions;
  jigs: Jigs;
  lanes: Lanes;
  preparedDockets: PreparedDockets;
}

/** Whether a lane's machine can print what is to come into it. */
export class LaneChecks {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** @throws Problem where the jig of a docket cannot be printed in there */
  mustLie(lane: number, list: readonly Docket[]): void {
    const { jigs, lanes } = this.#needs;
    const { condition } = lanes.get(lane);
    for (const docket of list) {
      const why = docket.choices.jig ? jigs.whyNot(docket.choices, condition) : '';
      if (why !== '') throw new Problem(422, `${docket.name}: ${why}`);
    }
  }

  /** @throws Problem where a lane's machine cannot lay down what dockets are printed in */
  mustBePrintable(lane: number, list: readonly Docket[]): void {
    const { lanes, preparedDockets } = this.#needs;
    const { press } = lanes.get(lane).condition;
    const stacks = list.map((docket) => preparedDockets.layers(docket).stack);
    for (const [i, docket] of list.entries()) {
      const alone = cannotLay(laidLayers(stacks[i]!), press);
      if (alone)
        throw new Problem(422, `${docket.name} cannot be printed here: ${alone} Choose another media, or change its layers.`);
    }
    const { layers } = layersTogether(stacks);
    const why = cannotLay(layers, press);
    if (why) throw new Problem(422, `These cannot be printed together: ${why} RIP some of them first, or change their layers.`);
  }

  /** Whether a docket can be printed on the media that it has; true where it has none. */
  isPrintable(docket: Docket): boolean {
    const { conditions, jigs, preparedDockets } = this.#needs;
    const { conditionId, jig } = docket.choices;
    if (jig && conditionId !== null && jigs.whyNot(docket.choices, conditions.get(conditionId)) !== '') return false;
    const { stack } = preparedDockets.layers(docket);
    if (isPlain(stack) || conditionId === null) return true;
    return cannotLay(laidLayers(stack), conditions.get(conditionId).press) === undefined;
  }

  /** @throws Problem where a run cannot be placed in the jig that its rule says */
  mustTakeJig({ jig }: Pick<RunRule, 'jig'>, { sheetMm, machine }: Condition): void {
    if (jig === null) return;
    this.#needs.jigs.stock(jig);
    if (sheetMm === null)
      throw new Problem(
        422,
        `${machine} prints this media from the roll: things lie in a jig on a flatbed, where media is in sheets.`
      );
  }
}
