import { z } from 'zod';
import { Recipe, RecipeSets, type JigRule, type MediaRule } from '$lib/recipes';
import type { Conditions } from '../conditions/conditions';
import type { Jigs } from '../machines/jigs';
import type { Machines } from '../machines/machines';
import { issueSentence } from '../platform/issue-sentence';
import { Problem } from '../platform/problem';
import type { KeptRecipe, Recipes } from './recipes';

/** Recipes as files: one open JSON document each, with names in the place of a shop's own numbers. */

export const RECIPE_FORMAT = 'zing-mast-recipe';

const RecipeFile = z.object({
  format: z.literal(RECIPE_FORMAT, { error: 'This is no file of a recipe.' }),
  version: z.literal(1, {
    error: 'This recipe was written by a newer program. Write it out there once more, or update this one.'
  }),
  name: Recipe.shape.name,
  note: Recipe.shape.note,
  sets: RecipeSets
});
type RecipeFile = z.infer<typeof RecipeFile>;

interface Needs {
  conditions: Conditions;
  jigs: Jigs;
  machines: Machines;
  recipes: Recipes;
}

export class RecipeFiles {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** With all that it builds on. @throws Problem for one whose machine is gone */
  write(id: number): RecipeFile {
    const { recipes } = this.#needs;
    const { recipe } = recipes.get(id);
    const sets = recipes.whole(id);
    return {
      format: RECIPE_FORMAT,
      version: 1,
      name: recipe.name,
      note: recipe.note,
      sets: {
        ...sets,
        ...(sets.media && { media: this.#named(sets.media) }),
        ...(sets.jig && { jig: this.#namedJig(sets.jig) })
      }
    };
  }

  #namedJig(rule: JigRule): JigRule {
    if (rule.is === 'named') return rule;
    const found = this.#needs.jigs.names().find(({ id }) => id === rule.id);
    if (!found) throw new Problem(409, 'The jig of this recipe is gone. Choose another one for it first.');
    return { is: 'named', name: found.name, lies: rule.lies };
  }

  #named(rule: MediaRule): MediaRule {
    const { conditions, machines } = this.#needs;
    if (rule.is === 'named') return rule;
    if (rule.is === 'loaded') {
      const machine = machines.rows().find(({ id }) => id === rule.machineId)?.name;
      if (machine === undefined) throw new Problem(409, 'The machine of this recipe is gone. Choose another one for it first.');
      return { is: 'named', machine, media: '', mode: '' };
    }
    const found = conditions.list().find(({ id }) => id === rule.conditionId);
    if (!found) throw new Problem(409, 'The media and print mode of this recipe are gone. Choose others for it first.');
    return { is: 'named', machine: found.machine, media: found.media, mode: found.mode.name };
  }

  /** Takes in a file. What it names and this shop has is taken; what it does not have is said where the recipe is used. */
  bring(file: unknown): KeptRecipe {
    const read = RecipeFile.safeParse(file, { error: issueSentence });
    if (!read.success) throw new Problem(422, read.error.issues[0]?.message ?? 'This is no file of a recipe.');
    const { name, note, sets } = read.data;
    const taken = new Set(this.#needs.recipes.list().map(({ recipe }) => recipe.name.toLowerCase()));
    let free = name;
    for (let n = 2; taken.has(free.toLowerCase()); n++) free = `${name.slice(0, 74)} (${n})`;
    return this.#needs.recipes.add({
      name: free,
      note,
      on: null,
      sets: {
        ...sets,
        ...(sets.media && { media: this.#own(sets.media) }),
        ...(sets.jig && { jig: this.#ownJig(sets.jig) })
      }
    });
  }

  #ownJig(rule: JigRule): JigRule {
    if (rule.is !== 'named') throw new Problem(422, 'A recipe in a file names its jig; this one has a number of another shop.');
    const found = this.#needs.jigs.names().find(({ name }) => name === rule.name);
    return found ? { is: 'jig', id: found.id, lies: rule.lies } : rule;
  }

  #own(rule: MediaRule): MediaRule {
    const { conditions, machines } = this.#needs;
    // Numbers are those of another shop.
    if (rule.is !== 'named') throw new Problem(422, 'A recipe in a file names its media; this one has a number of another shop.');
    if (rule.media === '') {
      const machine = machines.list().find(({ name }) => name === rule.machine);
      return machine ? { is: 'loaded', machineId: machine.id } : rule;
    }
    const found = conditions
      .list()
      .find(({ machine, media, mode }) => machine === rule.machine && media === rule.media && mode.name === rule.mode);
    return found ? { is: 'condition', conditionId: found.id } : rule;
  }
}
