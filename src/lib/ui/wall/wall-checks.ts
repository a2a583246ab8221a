import { marksOf, stackOf } from '$core/artwork/docket-stack';
import type { Preparation } from '$core/artwork/preparation';
import type { Check, WallLook } from '$core/checks/check';
import { checkArtwork, worstFirst } from '$core/checks/check-docket';
import type { DocketChoices } from '$lib/docket-choices';
import type { ShopSettings } from '$lib/shop-settings';
import type { Condition } from '$lib/server/conditions/condition';
import type { Docket } from '$lib/server/dockets/dockets';

/** Of a docket’s checks those that the page of its wall is about, the worst first. */
export function wallChecks(
  { artwork }: Pick<Docket, 'artwork'>,
  choices: DocketChoices,
  preparation: Preparation,
  { rules, limits, unit }: Pick<ShopSettings, 'rules' | 'limits' | 'unit'>,
  condition: Condition | undefined,
  wall: WallLook
): Check[] {
  const marks = marksOf(artwork.facts, rules, choices.roles);
  const found = checkArtwork({
    unit,
    page: artwork.facts,
    choices,
    preparation,
    rules,
    limits,
    lines: [],
    customerLines: 0,
    fontsNotEmbedded: [],
    findings: [],
    mayTurn: choices.mayTurn,
    intent: choices.intent,
    stack: stackOf(choices.stack, marks),
    marks,
    pages: artwork.pages,
    wall,
    ...(condition && { dpi: condition.mode.dpi, press: condition.press })
  });
  return worstFirst(found.filter(({ about, id }) => about === 'wall' || id === 'stretch' || id === 'resolution'));
}
