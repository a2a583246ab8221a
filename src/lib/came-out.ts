import type { Print } from './server/printing/print';
import type { Run } from './server/production/run';

/** How much of what was asked for at once has come out: prints, whole ones and ones that go on. */
export interface Asked {
  asked: number;
  done: number;
  open: number;
}

/** Prints that are asked for at once. */
export const MOST_TIMES = 100;

type Sent = Pick<Print, 'id' | 'restOf' | 'keptMm' | 'request' | 'state' | 'endedAt'>;

/** By request, the newest first. What went on after it broke off is out once its rest is, and what is kept in part is. @param prints of one run, the newest first */
export function askedFor(prints: readonly Sent[]): Asked[] {
  const byId = new Map(prints.map((print) => [print.id, print]));
  const beginningOf = (print: Sent): Sent => {
    const before = print.restOf === null ? undefined : byId.get(print.restOf);
    return before ? beginningOf(before) : print;
  };
  const chains = new Map<Sent, Sent[]>();
  for (const print of prints) {
    const beginning = beginningOf(print);
    chains.set(beginning, [...(chains.get(beginning) ?? []), print]);
  }
  const requests = new Map<string, Asked>();
  for (const [{ request }, chain] of chains) {
    const { asked, done, open } = requests.get(request) ?? { asked: 0, done: 0, open: 0 };
    requests.set(request, {
      asked: asked + 1,
      done: done + Number(chain.some(({ state, keptMm }) => state === 'done' || keptMm !== null)),
      open: open + Number(chain.some(({ endedAt }) => endedAt === null))
    });
  }
  return [...requests.values()];
}

/**
 * How often a run is to come out still, of how often: as long as not all of its equal sheets did, or not all that was asked
 * for last. Nothing is left of what is under way.
 *
 * @param prints of it, the newest first
 */
export function leftToPrint(
  { state, times, came }: Pick<Run, 'state' | 'times' | 'came'>,
  prints: readonly Sent[]
): { left: number; of: number } {
  const { asked, done, open } = askedFor(prints)[0] ?? { asked: 0, done: 0, open: 0 };
  if (open > 0) return { left: 0, of: asked };
  const ofRun = state === 'printed' ? 0 : Math.max(0, times - came);
  return ofRun >= asked - done ? { left: ofRun, of: times } : { left: asked - done, of: asked };
}
