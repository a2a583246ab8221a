import { isJig, PLACING_RULES, type Pin, type Placement, type PlacingRule, type Stock } from '$core/layout/placement';
import { layingOut, type RunLayoutRule } from '$core/layout/run-layout';
import type { RunPiece } from '$core/layout/run-piece';

/** What the placing rules are compared for. */
export interface CompareQuestion {
  turn: number;
  stock: Stock;
  rule: RunLayoutRule;
  pieces: RunPiece[];
  pins: Pin[];
}

export interface CompareAnswer {
  turn: number;
  placing: PlacingRule;
  /** The best so far; nothing when it only ended. */
  layout: Placement | undefined;
  /** Steps taken to get there. */
  steps: number;
  done: boolean;
}

/** A slice of one rule's search, before the next rule's and a look at what the screen says. */
const SLICE_MS = 40;

let newest = 0;

const answer = (given: CompareAnswer) => postMessage(given);
const breath = () => new Promise((resolve) => setTimeout(resolve, 0));

async function compare({ turn, stock, rule, pieces, pins }: CompareQuestion): Promise<void> {
  // The chosen one first; by its steps where they are said, the others always to their end.
  // In a jig there is one.
  const others = isJig(stock) ? [] : PLACING_RULES.filter((placing) => placing !== rule.placing);
  const order = [rule.placing, ...others];
  let open = order.map((placing) => ({
    placing,
    steps: 0,
    search: layingOut(stock, { ...rule, placing, steps: placing === rule.placing ? rule.steps : null }, pieces, pins)
  }));
  while (open.length > 0) {
    const still: typeof open = [];
    for (const one of open) {
      const end = performance.now() + SLICE_MS;
      let best: Placement | undefined;
      let done = false;
      while (!done && performance.now() < end) {
        const next = one.search.next();
        if (next.done) done = true;
        else {
          one.steps++;
          best = next.value ?? best;
        }
      }
      if (newest !== turn) return;
      if (best || done) answer({ turn, placing: one.placing, layout: best, steps: one.steps, done });
      if (!done) still.push(one);
      await breath();
      if (newest !== turn) return;
    }
    open = still;
  }
}

onmessage = ({ data }: MessageEvent<CompareQuestion | { stop: true }>) => {
  if ('stop' in data) {
    newest = -1;
    return;
  }
  newest = data.turn;
  // What goes wrong is heard by who asked.
  compare(data).catch(reportError);
};
