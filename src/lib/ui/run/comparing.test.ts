import { beforeEach, describe, expect, it, vi } from 'vitest';
import { PLACING_RULES, type Placement, type StockJig } from '$core/layout/placement';
import { DEFAULT_RULE } from '$lib/run-rule';
import type { CompareAnswer, CompareQuestion } from './compare.worker';
import { Comparing } from './comparing.svelte';

/** Workers that were begun, and what they were asked. */
const { begun, FakeWorker } = vi.hoisted(() => {
  const begun: FakeWorker[] = [];
  class FakeWorker {
    onmessage: (message: { data: CompareAnswer }) => void = () => undefined;
    onerror: () => void = () => undefined;
    asked: CompareQuestion[] = [];
    isEnded = false;
    constructor() {
      begun.push(this);
    }
    postMessage = (what: CompareQuestion) => this.asked.push(what);
    terminate = () => (this.isEnded = true);
  }
  return { begun, FakeWorker };
});
vi.mock('./compare.worker?worker', () => ({ default: FakeWorker }));

const question = (width: number) => ({ stock: { kind: 'roll' as const, width }, rule: DEFAULT_RULE, pieces: [], pins: [] });
const layoutOf = (length: number) => ({ length }) as Placement;
let comparing: Comparing;
beforeEach(() => {
  begun.length = 0;
  comparing = new Comparing();
});
const answer = (part: Partial<CompareAnswer>) => begun.at(-1)!.onmessage({ data: { turn: begun.at(-1)!.asked.at(-1)!.turn, placing: 'rows', layout: layoutOf(1), steps: 1, done: true, ...part } as CompareAnswer }); // prettier-ignore

describe('placing rules compared', () => {
  it('are asked once, get better, and are done when each rule is', () => {
    comparing.ask(question(1300));
    comparing.ask(question(1300));
    expect(begun[0]!.asked).toHaveLength(1);
    answer({ placing: 'close', layout: layoutOf(900), steps: 5, done: false });
    answer({ placing: 'close', layout: layoutOf(800), steps: 9, done: false });
    expect([comparing.found.close?.layout.length, comparing.found.close?.steps, comparing.busy]).toEqual([800, 9, true]);
    for (const placing of PLACING_RULES) answer({ placing });
    expect(comparing.busy).toBe(false);
  });

  it('are of the newest question alone, and those before are marked until then', () => {
    comparing.ask(question(1300));
    answer({ placing: 'rows', layout: layoutOf(700) });
    const late = begun[0]!.asked[0]!.turn;
    comparing.ask(question(1000));
    expect([comparing.stale, comparing.found.rows?.layout.length]).toEqual([true, 700]);
    answer({ turn: late, placing: 'close', layout: layoutOf(1) });
    expect(comparing.found.close).toBeUndefined();
    answer({ placing: 'apart', layout: layoutOf(950) });
    expect([comparing.stale, comparing.found.rows, comparing.found.apart?.layout.length]).toEqual([false, undefined, 950]);
  });

  it('stay as they were when they are stopped, and are asked anew after a change', () => {
    comparing.ask(question(1300));
    answer({ placing: 'close', layout: layoutOf(900), done: false });
    const { turn } = begun[0]!.asked[0]!;
    comparing.stop();
    answer({ turn, placing: 'close', layout: layoutOf(1), done: false });
    expect([comparing.busy, comparing.found.close?.layout.length]).toEqual([false, 900]);
    comparing.ask(question(1200));
    expect(comparing.busy).toBe(true);
  });

  it('wait for one layout alone where things lie in a jig', () => {
    const stock = { kind: 'sheet' as const, width: 2000, height: 1000, corner: 'front left' as const, jig: {} as StockJig };
    comparing.ask({ ...question(1), stock });
    answer({});
    expect(comparing.busy).toBe(false);
  });

  it('end with a worker that broke, and begin with another', () => {
    comparing.ask(question(1300));
    begun[0]!.onerror();
    expect([comparing.busy, begun[0]!.isEnded]).toEqual([false, true]);
    comparing.ask(question(1300));
    expect([begun.length, comparing.busy]).toEqual([2, true]);
    answer({ placing: 'rows', layout: layoutOf(640) });
    expect(comparing.found.rows?.layout.length).toBe(640);
  });
});
