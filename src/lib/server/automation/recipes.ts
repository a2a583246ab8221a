import { MOST_RECIPES, Recipe, togetherOf, type RecipeSets } from '$lib/recipes';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';

interface RecipeRow {
  id: number;
  name: string;
  document: string;
  version: number;
  gone: number;
  changed_at: number;
}

export interface KeptRecipe {
  id: number;
  version: number;
  recipe: Recipe;
  /** It was deleted: what it made still names it. */
  gone: boolean;
  changedAt: number;
}

/** A recipe as a line of a list. */
export interface RecipeLine extends KeptRecipe {
  /** How many dockets it was applied to, and when last. */
  used: number;
  usedAt: number | null;
}

/** Recipes that build on each other. */
const MOST_DEEP = 10;
const MOST_VERSIONS = 200;

interface Needs {
  db: Db;
  events: Events;
}

/** The shop's recipes as they are kept, whole or not at all. */
export class Recipes {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  list(): RecipeLine[] {
    const uses = new Map(
      this.#needs.db
        .prepare<[], { id: number; used: number; usedAt: number }>(
          'SELECT recipe_id AS id, count(*) AS used, max(used_at) AS usedAt FROM recipe_use GROUP BY recipe_id'
        )
        .all()
        .map(({ id, used, usedAt }) => [id, { used, usedAt }])
    );
    return this.#needs.db
      .prepare<[], RecipeRow>('SELECT * FROM recipe WHERE gone = 0 ORDER BY name')
      .all()
      .map((row) => ({ ...toRecipe(row), ...(uses.get(row.id) ?? { used: 0, usedAt: null }) }));
  }

  get(id: number): KeptRecipe {
    const row = this.#needs.db.prepare<[number], RecipeRow>('SELECT * FROM recipe WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such recipe.');
    return toRecipe(row);
  }

  /** The number of one by its name, or by its number. @throws Problem where there is none */
  named(recipe: string | number): number {
    if (typeof recipe === 'number') return this.get(recipe).id;
    const id = this.#needs.db.prepare<[string], number>('SELECT id FROM recipe WHERE name = ? AND gone = 0').pluck().get(recipe);
    if (id === undefined) throw new Problem(422, `There is no recipe ${recipe}. Its name is under Shop, Recipes.`);
    return id;
  }

  /** @throws Problem for one that was deleted, or that builds on one that was */
  whole(id: number): RecipeSets {
    const chain = this.#chain(id);
    const gone = chain.find((one) => one.gone);
    if (gone)
      throw new Problem(
        409,
        `The recipe ${gone.recipe.name} was deleted.${gone === chain[0] ? '' : ` ${chain[0]!.recipe.name} builds on it.`} Choose another one, or bring it back.`
      );
    return togetherOf(chain.map(({ recipe }) => recipe));
  }

  /** From a recipe to the first that it builds on. @throws Problem where they go round in a circle */
  #chain(id: number, first?: Recipe): KeptRecipe[] {
    const chain: KeptRecipe[] = [];
    for (let next: number | null = id; next !== null;) {
      const one: KeptRecipe = first && chain.length === 0 ? { ...this.get(next), recipe: first } : this.get(next);
      if (chain.some((other) => other.id === one.id))
        throw new Problem(422, `${one.recipe.name} would build on itself. Choose another recipe for it to build on.`);
      chain.push(one);
      if (chain.length > MOST_DEEP) throw new Problem(422, `More than ${MOST_DEEP} recipes build on each other here.`);
      next = one.recipe.on;
    }
    return chain;
  }

  add(recipe: Recipe): KeptRecipe {
    const { db, events } = this.#needs;
    const id = db.transaction(() => {
      const count = db.prepare<[], number>('SELECT count(*) FROM recipe WHERE gone = 0').pluck().get() ?? 0;
      if (count >= MOST_RECIPES) throw new Problem(422, `${MOST_RECIPES} recipes are kept, the most. Delete one first.`);
      this.#check(recipe);
      this.#nameIsFree(recipe.name, 0);
      if (recipe.on !== null) this.#chain(recipe.on);
      return Number(
        db
          .prepare('INSERT INTO recipe (name, document, changed_at) VALUES (?, ?, ?)')
          .run(recipe.name, JSON.stringify(recipe), Date.now()).lastInsertRowid
      );
    })();
    events.changed('recipes', [id]);
    return this.get(id);
  }

  /** Keeps a change; `version` is the one that it was made from. What it was before stays at hand. */
  change(id: number, version: number, recipe: Recipe): KeptRecipe {
    const { db, events } = this.#needs;
    db.transaction(() => {
      const before = this.get(id);
      if (before.version !== version) throw new Problem(409, 'This recipe was changed in another window meanwhile. The newer one is shown now; make your change again.'); // prettier-ignore
      this.#check(recipe);
      this.#nameIsFree(recipe.name, id);
      this.#chain(id, recipe);
      db.prepare('INSERT INTO recipe_version (recipe_id, version, document, made_at) VALUES (?, ?, ?, ?)').run(
        id,
        before.version,
        JSON.stringify(before.recipe),
        before.changedAt
      );
      db.prepare('DELETE FROM recipe_version WHERE recipe_id = ? AND version <= ?').run(id, version - MOST_VERSIONS);
      db.prepare('UPDATE recipe SET name = ?, document = ?, version = version + 1, changed_at = ? WHERE id = ?').run(
        recipe.name,
        JSON.stringify(recipe),
        Date.now(),
        id
      );
    })();
    events.changed('recipes', [id]);
    return this.get(id);
  }

  /** As it was before each change, the newest first. */
  versions(id: number): { version: number; recipe: Recipe; madeAt: number }[] {
    return this.#needs.db
      .prepare<[number], { version: number; document: string; made_at: number }>(
        'SELECT version, document, made_at FROM recipe_version WHERE recipe_id = ? ORDER BY version DESC'
      )
      .all(id)
      .map(({ version, document, made_at: madeAt }) => ({ version, recipe: Recipe.parse(JSON.parse(document)), madeAt }));
  }

  /** Deletes it; it can be brought back. @throws Problem where others build on it */
  remove(id: number): void {
    const { db, events } = this.#needs;
    const { recipe } = this.get(id);
    const others = this.list().filter((one) => one.recipe.on === id);
    if (others.length > 0)
      throw new Problem(409, `${others.map((one) => one.recipe.name).join(', ')} ${others.length === 1 ? 'builds' : 'build'} on ${recipe.name}. Change that first.`); // prettier-ignore
    db.prepare('UPDATE recipe SET gone = 1 WHERE id = ?').run(id);
    events.changed('recipes', [id]);
  }

  bringBack(id: number): KeptRecipe {
    const { recipe } = this.get(id);
    this.#nameIsFree(recipe.name, id);
    this.#needs.db.prepare('UPDATE recipe SET gone = 0 WHERE id = ?').run(id);
    this.#needs.events.changed('recipes', [id]);
    return this.get(id);
  }

  /** Writes down which dockets it was applied to. */
  wasUsed(id: number, docketIds: readonly number[]): void {
    const { version } = this.get(id);
    const put = this.#needs.db.prepare('INSERT INTO recipe_use (recipe_id, docket_id, version, used_at) VALUES (?, ?, ?, ?)');
    for (const docket of docketIds) put.run(id, docket, version, Date.now());
    this.#needs.events.changed('recipes', [id]);
  }

  /** The newest dockets that it was applied to. */
  dockets(id: number, most = 100): { id: number; name: string; customer: string; version: number; usedAt: number }[] {
    return this.#needs.db
      .prepare<[number, number], { id: number; name: string; customer: string; version: number; usedAt: number }>(
        `SELECT d.id, d.name, d.customer, d.version, max(u.used_at) AS usedAt FROM recipe_use u JOIN docket d ON d.id = u.docket_id
         WHERE u.recipe_id = ? GROUP BY d.id ORDER BY usedAt DESC, d.id DESC LIMIT ?`
      )
      .all(id, most);
  }

  #check({ sets, on }: Recipe): void {
    if (Object.keys(sets).length === 0 && on === null)
      throw new Problem(422, 'A recipe sets at least one thing. Tick what it shall set.');
  }

  #nameIsFree(name: string, but: number): void {
    const other = this.#needs.db
      .prepare<[string, number], number>('SELECT id FROM recipe WHERE name = ? AND gone = 0 AND id != ?')
      .pluck()
      .get(name, but);
    if (other !== undefined) throw new Problem(409, `There is a recipe ${name} already. Give this one another name.`);
  }
}

const toRecipe = ({ id, version, document, gone, changed_at: changedAt }: RecipeRow): KeptRecipe => ({
  id,
  version,
  recipe: Recipe.parse(JSON.parse(document)),
  gone: gone === 1,
  changedAt
});
