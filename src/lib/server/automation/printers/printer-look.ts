import { conditionOf } from '$lib/recipe-applied';
import { WAY_WORDS } from '$lib/recipe-words';
import { JOB_STATE } from '$protocol/ipp';
import type { Conditions } from '../../conditions/conditions';
import type { Machines } from '../../machines/machines';
import { sentence } from '../../platform/problem';
import type { Recipes } from '../recipes';
import type { NetworkJobs } from './network-jobs';
import type { KeptPrinter } from './network-printers';
import { QUALITY, type PrinterFacts } from './printer-attributes';

interface Needs {
  conditions: Conditions;
  jobs: NetworkJobs;
  machines: Machines;
  recipes: Recipes;
}

/** What is said of media where there is none: programs want some. */
const NO_MEDIA = { name: 'No media', widthMm: 1000, lengthMm: 1000 };
/** How much of a roll there is, where its machine does not say. */
const ROLL_MM = 10_000;

/** What there is to say of the shop's own printers, as it is now. */
export class PrinterLook {
  readonly #needs: Needs;
  readonly #startedAt = Date.now();

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** @param host that it was asked by @param path of the printer there */
  facts(kept: KeptPrinter, host: string, path: string): PrinterFacts {
    const { jobs, machines } = this.#needs;
    const { printer } = kept;
    const now = Date.now();
    const { condition, recipe, copies, trouble } = this.#condition(kept);
    const machine = condition && machines.list().find(({ id }) => id === condition.machineId);
    const loaded = machine?.printer?.media;
    return {
      ...{ name: printer.name, uuid: kept.uuid, host, path, trouble, now },
      info: `Dockets ${recipe === undefined ? 'as by hand' : `by ${recipe}`}, ${WAY_WORDS[printer.way]}`,
      media: condition
        ? {
            name: condition.media,
            widthMm: condition.rollWidthMm,
            lengthMm: condition.sheetMm ?? (loaded?.name === condition.media ? Math.max(1000, loaded.lengthMm) : ROLL_MM)
          }
        : NO_MEDIA,
      inks: machine?.printer?.inks ?? [],
      copies,
      qualities: [
        ...(printer.draftId === null ? [] : [QUALITY.draft]),
        QUALITY.normal,
        ...(printer.bestId === null ? [] : [QUALITY.best])
      ],
      open: jobs.open(kept.id),
      isWorking: () => jobs.list(kept.id, false).some(({ state }) => state === JOB_STATE.processing),
      startedAt: this.#startedAt,
      changedAt: kept.changedAt
    };
  }

  /** What it prints on, with what hinders that. */
  #condition({ printer }: KeptPrinter) {
    const { conditions, machines, recipes } = this.#needs;
    const all = conditions.list();
    const usual = all[0];
    if (printer.recipeId === null) return { condition: usual, recipe: undefined, copies: 1, trouble: null };
    try {
      const sets = recipes.whole(printer.recipeId);
      const said = { recipe: recipes.get(printer.recipeId).recipe.name, copies: sets.copies ?? 1 };
      if (!sets.media) return { ...said, condition: usual, trouble: null };
      const condition = conditionOf(sets.media, { conditions: all, machines: machines.list() });
      return typeof condition === 'string'
        ? { ...said, condition: usual, trouble: condition }
        : { ...said, condition: all.find(({ id }) => id === condition.id), trouble: null };
    } catch (error) {
      return { condition: usual, recipe: undefined, copies: 1, trouble: sentence(error) };
    }
  }
}
