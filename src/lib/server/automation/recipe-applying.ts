import { toTrace, withRecipe, type Applied } from '$lib/recipe-applied';
import type { RecipeNames } from '$lib/recipe-words';
import type { RecipeSets } from '$lib/recipes';
import type { DocketDocument } from '$lib/docket-choices';
import type { Artworks } from '../artwork/artworks';
import type { Conditions } from '../conditions/conditions';
import { toDocument, type Docket, type Dockets } from '../dockets/dockets';
import type { DocketEditing } from '../dockets/docket-editing';
import type { DocketPictures } from '../dockets/pictures';
import type { Jigs } from '../machines/jigs';
import type { Machines } from '../machines/machines';
import type { Db } from '../platform/db/open';
import { Problem } from '../platform/problem';
import type { Settings } from '../platform/settings';
import type { Recipes } from './recipes';

interface Needs {
  db: Db;
  artworks: Artworks;
  conditions: Conditions;
  dockets: Dockets;
  docketEditing: DocketEditing;
  jigs: Jigs;
  machines: Machines;
  pictures: DocketPictures;
  recipes: Recipes;
  settings: Settings;
}

/** Recipes on dockets. */
export class RecipeApplying {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** What recipes are told in. */
  names(): RecipeNames {
    const { conditions, jigs, machines, settings } = this.#needs;
    return { unit: settings.current.unit, conditions: conditions.list(), machines: machines.list(), jigs: jigs.names() };
  }

  /** What a recipe would make of a docket. */
  on(sets: RecipeSets, docket: Docket): Applied {
    return this.onDocument(sets, toDocument(docket));
  }

  /** The same of one that is not kept yet. */
  onDocument(sets: RecipeSets, document: DocketDocument): Applied {
    const { artworks, conditions, jigs, machines, settings } = this.#needs;
    const { artworkId, page } = document;
    return withRecipe(sets, document, {
      facts: artworks.page(artworkId, page).page,
      lines: artworks.lines(artworkId, page),
      rules: settings.current.rules,
      conditions: conditions.list(),
      machines: machines.list(),
      jigs: jigs.names()
    });
  }

  /**
   * Applies a recipe to dockets, each a step that can be taken back: to all of them or to none. What it finds in their artwork is
   * traced afterwards.
   *
   * @throws Problem with what it lacks
   */
  async apply(id: number, docketIds: readonly number[]): Promise<void> {
    this.applyNow(id, docketIds);
    for (const docket of docketIds) await this.trace(docket);
  }

  /** The same but for what is traced; within a transaction of who calls, where there is one. */
  applyNow(id: number, docketIds: readonly number[]): void {
    const { db, dockets, recipes, docketEditing } = this.#needs;
    const sets = recipes.whole(id);
    db.transaction(() => {
      for (const one of docketIds) {
        const docket = dockets.get(one);
        const { document, lacking } = this.on(sets, docket);
        if (lacking.length > 0) throw new Problem(422, `${docket.name}: ${lacking.join(' ')}`);
        docketEditing.change(one, docket.version, document);
      }
      recipes.wasUsed(id, docketIds);
    })();
  }

  /** Finds the outlines that a recipe asks for. @throws Problem where there are none to be found */
  async trace(docketId: number): Promise<void> {
    const { dockets, pictures, docketEditing } = this.#needs;
    for (const { id, from } of toTrace(dockets.get(docketId).choices)) {
      if (from.kind !== 'found') continue;
      const outline = await pictures.trace(docketId, from.how, from.threshold, from.background);
      const docket = dockets.get(docketId);
      const { lines } = docket.choices;
      const made = lines.made.map((line) => (line.id === id ? { ...line, from: { ...from, outline } } : line));
      // One step with what asked for it.
      docketEditing.change(docketId, docket.version, { choices: { ...docket.choices, lines: { ...lines, made } } }, true);
    }
  }
}
