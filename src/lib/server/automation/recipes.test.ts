import * as fc from 'fast-check';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../../../../tests/harness';
import type { Recipe } from '$lib/recipes';
import { openDatabase } from '../platform/db/open';
import { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import { Recipes } from './recipes';

const folder = temporaryFolder();
const db = openDatabase(folder.path);
const recipes = new Recipes({ db, events: new Events() });
afterAll(() => {
  db.close();
  folder.remove();
});
beforeEach(() => db.exec('DELETE FROM recipe_use; DELETE FROM recipe_version; DELETE FROM recipe'));

const recipe = (name: string, copies: number | null, on: number | null = null): Recipe => ({
  name,
  note: '',
  on,
  sets: copies === null ? {} : { copies }
});

describe('a recipe that is kept', () => {
  it('has what it was before each change, the newest first, and is changed from what it is alone', () => {
    const { id } = recipes.add(recipe('Labels', 1));
    for (const copies of [2, 3, 4]) recipes.change(id, copies - 1, recipe('Labels', copies));
    expect(recipes.versions(id).map(({ version, recipe: { sets } }) => [version, sets.copies])).toEqual([[3, 3], [2, 2], [1, 1]]); // prettier-ignore
    expect(() => recipes.change(id, 3, recipe('Labels', 9))).toThrow('changed in another window');
    expect(recipes.get(id)).toMatchObject({ version: 4, recipe: { sets: { copies: 4 } } });
    expect(() => recipes.add(recipe('Nothing', null))).toThrow('sets at least one thing');
    expect(() => recipes.change(id, 4, recipe('Labels', null))).toThrow('sets at least one thing');
    expect(recipes.versions(id)).toHaveLength(3);
  });

  it('tells the dockets that it was applied to, each once, and how often it was', () => {
    const { id } = recipes.add(recipe('Labels', 1));
    db.exec(`INSERT OR IGNORE INTO artwork (id, name, file_hash, bytes, state, added_at) VALUES (1, 'a', 'h', 1, 'ready', 0);
      INSERT OR IGNORE INTO docket (id, artwork_id, page, name, customer, choices, added_at) VALUES (1, 1, 0, 'One', 'Gull', '{}', 0), (2, 1, 0, 'Two', '', '{}', 0)`);
    expect(recipes.dockets(id)).toEqual([]);
    recipes.wasUsed(id, [1, 2]);
    recipes.wasUsed(id, [1]);
    expect(recipes.dockets(id).map((docket) => [docket.id, docket.name]).sort()).toEqual([[1, 'One'], [2, 'Two']]); // prettier-ignore
    expect(recipes.list().map(({ used, usedAt }) => [used, usedAt !== null])).toEqual([[3, true]]);
  });

  it('never builds on itself, however they are changed, deleted and brought back, and no two have one name', () => {
    const act = fc.record({
      what: fc.constantFrom('add', 'add', 'change', 'change', 'change', 'remove', 'bring back'),
      which: fc.nat(7),
      name: fc.constantFrom('A', 'B', 'C', 'D', 'E'),
      on: fc.option(fc.nat(7)),
      copies: fc.option(fc.integer({ min: 1, max: 9 }))
    });
    fc.assert(
      fc.property(fc.array(act, { maxLength: 40 }), (acts) => {
        db.exec('DELETE FROM recipe_version; DELETE FROM recipe');
        const ids: number[] = [];
        for (const { what, which, name, on, copies } of acts) {
          const id = ids[which % Math.max(1, ids.length)];
          const given = recipe(name, copies, on === null ? null : (ids[on % Math.max(1, ids.length)] ?? null));
          try {
            if (what === 'add') ids.push(recipes.add(given).id);
            else if (id === undefined) continue;
            else if (what === 'change') recipes.change(id, recipes.get(id).version, given);
            else if (what === 'remove') recipes.remove(id);
            else recipes.bringBack(id);
          } catch (error) {
            // What is refused is said in a sentence, and changes nothing.
            expect(error).toBeInstanceOf(Problem);
          }
          const all = ids.map((one) => recipes.get(one));
          const names = all.filter(({ gone }) => !gone).map((one) => one.recipe.name);
          expect(new Set(names).size).toBe(names.length);
          for (const one of all) {
            const chain = [one];
            while (chain.at(-1)!.recipe.on !== null) {
              chain.push(recipes.get(chain.at(-1)!.recipe.on!));
              expect(chain.length).toBeLessThanOrEqual(ids.length);
            }
            if (chain.some(({ gone }) => gone)) expect(() => recipes.whole(one.id)).toThrow('was deleted');
            // Its own goes before what it builds on.
            else expect(recipes.whole(one.id).copies).toBe(chain.map((link) => link.recipe.sets.copies).find((own) => own !== undefined)); // prettier-ignore
            expect(recipes.versions(one.id)).toHaveLength(one.version - 1);
          }
        }
      }),
      { numRuns: 200 }
    );
  });
});
