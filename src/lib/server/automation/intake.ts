import { IntakeRules, ruleFor, type Incoming, type IntakeRule } from '$lib/intake-rules';
import type { DocketDocument } from '$lib/docket-choices';
import type { Applied } from '$lib/recipe-applied';
import type { Artworks } from '../artwork/artworks';
import type { Conditions } from '../conditions/conditions';
import type { Dockets } from '../dockets/dockets';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem, sentence } from '../platform/problem';
import type { RecipeApplying } from './recipe-applying';
import type { Recipes } from './recipes';

interface Needs {
  db: Db;
  events: Events;
  artworks: Artworks;
  conditions: Conditions;
  dockets: Dockets;
  recipes: Recipes;
  applying: RecipeApplying;
}

/** The shop's rules as they are kept. */
export interface KeptRules {
  version: number;
  rules: IntakeRule[];
}

/** What a rule would make of a page. */
export interface Tried {
  /** Of the rule that fits, from 0; none does where it is below. */
  place: number;
  document: DocketDocument;
  applied: Applied | null;
}

/** What becomes of what comes in: dockets, made by the recipe that a rule of the shop says. */
export class Intake {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  rules(): KeptRules {
    const text = this.#needs.db.prepare<[], string>("SELECT value FROM setting WHERE name = 'intake rules'").pluck().get();
    if (text === undefined) return { version: 0, rules: [] };
    const kept = JSON.parse(text) as { version: number; rules: unknown };
    return { version: kept.version, rules: IntakeRules.parse(kept.rules) };
  }

  /** @param version that the change was made from */
  changeRules(version: number, rules: IntakeRule[]): KeptRules {
    const { db, events, recipes } = this.#needs;
    if (this.rules().version !== version) throw new Problem(409, 'The rules were changed in another window meanwhile. They are shown as they are now; make your change again.'); // prettier-ignore
    for (const { recipeId } of rules) recipes.whole(recipeId);
    db.prepare(
      "INSERT INTO setting (name, value) VALUES ('intake rules', ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value"
    ).run(JSON.stringify({ version: version + 1, rules }));
    events.changed('recipes');
    return this.rules();
  }

  /** What some rules would make of a page, without anything being made. */
  try(rules: readonly IntakeRule[], artworkId: number, page: number, customer: string): Tried {
    const { applying, dockets, recipes } = this.#needs;
    const document = dockets.begun(artworkId, page, {}, customer);
    const found = ruleFor(rules, this.#incoming(document));
    if (!found) return { place: -1, document, applied: null };
    return { place: found.place, document, applied: applying.onDocument(recipes.whole(found.rule.recipeId), document) };
  }

  /** The recipe that a rule says for a docket; nothing where none fits. */
  recipeFor(document: DocketDocument): number | undefined {
    const { rules } = this.rules();
    return rules.length === 0 ? undefined : ruleFor(rules, this.#incoming(document))?.rule.recipeId;
  }

  #incoming({ artworkId, page, customer, choices }: DocketDocument): Incoming {
    const { artworks, conditions } = this.#needs;
    const { artwork, page: facts } = artworks.page(artworkId, page);
    return {
      customer,
      name: artwork.name,
      spots: [...facts.spots, ...facts.layers].map(({ name }) => name),
      widthMm: facts.widthMm,
      heightMm: facts.heightMm,
      pages: artwork.facts?.pages.length ?? 1,
      media: choices.conditionId === null ? '' : conditions.get(choices.conditionId).media
    };
  }

  /**
   * Dockets of pages, by hand: a rule that cannot be followed is told, and leaves a docket as it is.
   *
   * @returns their numbers
   */
  async makeDockets(pages: readonly { artworkId: number; page: number }[]): Promise<number[]> {
    const { applying, dockets, events } = this.#needs;
    const ids = dockets.addMany(pages);
    if (this.rules().rules.length === 0) return ids;
    for (const id of ids) {
      const docket = dockets.get(id);
      try {
        const recipe = this.recipeFor(docket);
        if (recipe !== undefined) await applying.apply(recipe, [id]);
      } catch (error) {
        events.send({ kind: 'said', text: `The shop’s rule for ${docket.name} was not followed: ${sentence(error)}` });
      }
    }
    return ids;
  }
}
