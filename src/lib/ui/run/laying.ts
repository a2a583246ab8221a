import type { Pin } from '$core/layout/placement';
import type { RunRule } from '$lib/run-rule';
import type { Run } from '$lib/server/production/run';
import { isAlike, listTogether, together } from '../common/together';

/** What of a run can be changed: its rule, which dockets in what order, how many of each, which are held, and where copies are pinned. */
export interface Laying {
  rule: RunRule;
  order: readonly number[];
  /** By docket. */
  copies: Readonly<Record<number, number>>;
  held: readonly number[];
  pins: readonly Pin[];
}

export const layingOf = ({ rule, dockets, entries, pins }: Run): Laying => ({
  rule,
  order: dockets.map(({ id }) => id),
  copies: Object.fromEntries(dockets.map(({ id, choices }) => [id, choices.copies])),
  held: entries.filter((entry) => entry.held).map((entry) => entry.docketId),
  pins
});

/** What another window made of the same run, with mine over it. */
export function layingTogether(base: Laying, mine: Laying, theirs: Laying): Laying {
  if (isAlike(mine, base)) return theirs;
  const pins = together(byCopy(base.pins), byCopy(mine.pins), byCopy(theirs.pins));
  return {
    // Where a search was stopped holds for just what was laid out then.
    rule: { ...together(base.rule, mine.rule, theirs.rule), steps: isAlike(theirs, base) ? mine.rule.steps : null },
    order: listTogether(base.order, mine.order, theirs.order),
    copies: together(base.copies, mine.copies, theirs.copies),
    held: listTogether(base.held, mine.held, theirs.held),
    pins: Object.values(pins)
  };
}

const byCopy = (pins: readonly Pin[]): Record<string, Pin> =>
  Object.fromEntries(pins.map((pin) => [`${pin.id}/${pin.copy}/${pin.part}`, pin]));
