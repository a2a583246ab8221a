import * as fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Pin } from '$core/layout/placement';
import { DEFAULT_RULE, type RunRule } from '$lib/run-rule';
import type { Docket } from '$lib/server/dockets/dockets';
import type { Run } from '$lib/server/production/run';
import { layingOf } from './laying';
import { RunEdits } from './run-edits.svelte';

const said: string[] = [];
vi.mock('svelte-sonner', () => ({ toast: { error: (text: string) => said.push(text) } }));

const docketOf = (id: number) => ({ id, version: 1, name: `Docket ${id}`, choices: { copies: id, widthMm: 90 } }) as unknown as Docket; // prettier-ignore

/** A server with one run, which may be away, slow, or have the run changed by others. */
class FakeServer {
  version = 1;
  rule: RunRule = DEFAULT_RULE;
  order = [1, 2, 3];
  held: number[] = [];
  pins: Pin[] = [];
  isRipping = false;
  isAway = false;
  isGone = false;
  slowMs = 20;
  dockets = new Map([1, 2, 3, 4, 5].map((id) => [id, docketOf(id)]));

  get run(): Run {
    const { version, rule, order, held, pins, dockets } = this;
    const entries = order.map((docketId) => ({ docketId, held: held.includes(docketId) }));
    return { id: 9, version, rule, pins, entries, dockets: order.map((id) => dockets.get(id)) } as unknown as Run;
  }

  answer = async (path: string, { method, body }: RequestInit = {}): Promise<Response> => {
    await new Promise((resolve) => setTimeout(resolve, this.slowMs));
    if (this.isAway) throw new TypeError('fetch failed');
    const says = (status: number, answer: unknown) => new Response(JSON.stringify(answer), { status });
    const put = method === 'PUT' ? (JSON.parse(body as string) as Record<string, unknown>) : undefined;
    const docket = this.dockets.get(Number(/^\/api\/dockets\/(\d)$/.exec(path)?.[1]));
    if (docket) {
      if (!put) return says(200, docket);
      if (put['version'] !== docket.version) return says(409, { error: 'This docket was changed in another window.' });
      const choices = put['choices'] as Docket['choices'];
      if (choices.copies > 100) return says(422, { error: 'At most 100 copies.' });
      this.docket(docket.id, choices);
      return says(200, this.dockets.get(docket.id));
    }
    expect(path).toBe('/api/runs/9');
    if (this.isGone) return says(404, { error: 'There is no such run.' });
    if (!put) return says(200, this.run);
    if (put['version'] !== this.version) return says(409, { error: 'This run was changed in another window.' });
    if (this.isRipping) return says(409, { error: 'The run is being RIPped.' });
    const { rule, docketIds, held, pins } = put as { rule: RunRule; docketIds: number[]; held: number[]; pins: Pin[] };
    if (rule.margin > 500) return says(422, { error: 'The margin is 0 to 500 mm.' });
    this.other({ rule, order: docketIds, held, pins });
    return says(200, this.run);
  };

  /** Another window was here. */
  other(change: Partial<Pick<FakeServer, 'rule' | 'order' | 'held' | 'pins'>>): void {
    Object.assign(this, change);
    this.version++;
  }

  docket(id: number, choices: Partial<Docket['choices']>): void {
    const docket = this.dockets.get(id)!;
    this.dockets.set(id, { ...docket, version: docket.version + 1, choices: { ...docket.choices, ...choices } });
  }
}

let server: FakeServer;
let edits: RunEdits;
beforeEach(() => {
  vi.useFakeTimers();
  said.length = 0;
  server = new FakeServer();
  vi.stubGlobal('fetch', (path: string, init?: RequestInit) => server.answer(path, init));
  edits = new RunEdits(server.run);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms);
const change = (part: Partial<(typeof edits)['laying']['current']>) => edits.laying.change({ ...edits.laying.current, ...part });
const rule = (part: Partial<RunRule>) => change({ rule: { ...edits.laying.current.rule, ...part } });
const copies = (id: number, n: number) => change({ copies: { ...edits.laying.current.copies, [id]: n } });
const takeOut = (id: number) => change({ order: edits.laying.current.order.filter((one) => one !== id) });
const pinned = (id: number, x: number): Pin => ({ id: `${id}`, copy: 0, part: 0, x, y: 5, turn: 0 });

describe('a run that saves itself', () => {
  it('keeps a docket that comes in while it is edited, and steps back do not take it out', async () => {
    rule({ gapX: 9 });
    await pass(1000);
    server.other({ order: [1, 4, 2, 3] });
    rule({ gapY: 7 });
    change({ pins: [pinned(2, 50)] });
    await pass(1000);
    expect(said).toEqual([]);
    expect(server.order).toEqual([1, 4, 2, 3]);
    expect([server.rule.gapX, server.rule.gapY, server.pins.length]).toEqual([9, 7, 1]);
    expect(edits.dockets.map(({ name }) => name)).toEqual(['Docket 1', 'Docket 4', 'Docket 2', 'Docket 3']);
    // And one that the page is told of.
    server.other({ order: [1, 4, 2, 3, 5] });
    edits.adopt(server.run);
    for (let i = 0; i < 3; i++) edits.laying.undo();
    expect(edits.laying.canUndo).toBe(false);
    await pass(1000);
    expect([server.order, server.rule, server.pins]).toEqual([[1, 4, 2, 3, 5], DEFAULT_RULE, []]);
  });

  it('has what was taken out come back with a step back, as the docket is by then', async () => {
    takeOut(2);
    await pass(1000);
    expect(edits.dockets.map(({ id }) => id)).toEqual([1, 3]);
    edits.adopt(server.run);
    copies(3, 30);
    await pass(1000);
    edits.laying.undo();
    edits.laying.undo();
    await pass(1000);
    expect([server.order, server.dockets.get(3)?.choices.copies]).toEqual([[1, 2, 3], 3]);
    expect(edits.dockets.map(({ id }) => id)).toEqual([1, 2, 3]);
  });

  it('has copies kept by their dockets, over whatever is changed there meanwhile', async () => {
    server.docket(2, { widthMm: 120 });
    copies(2, 24);
    expect(edits.dockets[1]?.choices.copies).toBe(24);
    await pass(1000);
    expect(server.dockets.get(2)?.choices).toMatchObject({ copies: 24, widthMm: 120 });
    expect(server.version).toBe(1);
    // A load from before the save is older.
    edits.adopt({ ...server.run, dockets: [1, 2, 3].map(docketOf) });
    expect(edits.dockets[1]?.choices).toMatchObject({ copies: 24, widthMm: 120 });
    // One that was changed between being asked for and being sent is sent again.
    const { answer } = server;
    server.answer = (path, init) => {
      if (init?.method === 'PUT' && server.dockets.get(3)?.version === 1) server.docket(3, { widthMm: 70 });
      return answer(path, init);
    };
    copies(3, 8);
    await pass(1000);
    expect(server.dockets.get(3)?.choices).toMatchObject({ copies: 8, widthMm: 70 });
    expect(said).toEqual([]);
  });

  it('leaves out what is refused, with its sentence, and keeps what was changed beside it and since', async () => {
    copies(1, 500);
    copies(2, 12);
    rule({ margin: 8 });
    await pass(270);
    takeOut(3);
    await pass(3000);
    expect(new Set(said)).toEqual(new Set(['At most 100 copies.']));
    expect([server.order, server.rule.margin]).toEqual([[1, 2], 8]);
    expect([1, 2].map((id) => server.dockets.get(id)?.choices.copies)).toEqual([1, 12]);
    expect(edits.dockets.map(({ choices }) => choices.copies)).toEqual([1, 12]);
    expect(edits.laying.pending).toBe(false);
    server.isRipping = true;
    rule({ gapX: 20 });
    expect(await Promise.all([edits.laying.flush(), pass(1000)])).toEqual([false, expect.anything()]);
    expect(said.at(-1)).toBe('The run is being RIPped.');
    expect([edits.laying.current.rule.gapX, edits.laying.pending]).toEqual([DEFAULT_RULE.gapX, false]);
  });

  it('is kept here while the server is away, and said to be gone where it is', async () => {
    server.isAway = true;
    rule({ gapX: 20 });
    copies(1, 5);
    await pass(5000);
    expect(edits.laying.pending).toBe(true);
    server.isAway = false;
    await pass(3000);
    expect([server.rule.gapX, server.dockets.get(1)?.choices.copies, edits.laying.pending]).toEqual([20, 5, false]);
    server.isGone = true;
    rule({ gapX: 30 });
    await pass(5000);
    expect(said.at(-1)).toBe('There is no such run.');
    expect([edits.laying.pending, edits.laying.current.rule.gapX]).toEqual([false, 20]);
    // Nor are copies asked for again and again that are not taken.
    copies(1, 500);
    await pass(5000);
    expect(said.at(-1)).toBe('At most 100 copies.');
    expect([edits.laying.pending, edits.laying.current.copies[1]]).toEqual([false, 5]);
  });

  it('forgets where a search was stopped once anything else is changed, here or elsewhere', async () => {
    rule({ steps: 400 });
    await pass(1000);
    expect(server.rule.steps).toBe(400);
    server.other({ pins: [pinned(1, 10)] });
    rule({ gapX: 6, steps: null });
    await pass(1000);
    server.other({ rule: { ...server.rule, steps: 90 } });
    change({ held: [2] });
    await pass(1000);
    expect(server.rule.steps).toBe(null);
    expect([server.held, server.pins]).toEqual([[2], [pinned(1, 10)]]);
  });

  it('comes to what both windows asked for, whatever the order', async () => {
    const step = fc.record({
      does: fc.constantFrom('gap', 'pin', 'hold', 'copies', 'they pin', 'they add', 'they hold', 'news', 'away', 'back'),
      n: fc.integer({ min: 1, max: 3 }),
      ms: fc.constantFrom(0, 30, 270, 2500)
    });
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 25 }), async (steps) => {
        server = new FakeServer();
        edits = new RunEdits(server.run);
        const asked = { gap: DEFAULT_RULE.gapX, pins: new Map<number, number>(), copies: new Map<number, number>(), held: [false, false] }; // prettier-ignore
        for (const [i, { does, n, ms }] of steps.entries()) {
          const { current } = edits.laying;
          if (does === 'gap') rule({ gapX: (asked.gap = n + i) });
          if (does === 'copies') {
            copies(n, 10 + i);
            asked.copies.set(n, 10 + i);
          }
          // Copies of docket 1 and 2 are pinned and held here, those of 3 there.
          if (does === 'pin' && n < 3) {
            change({ pins: [...current.pins.filter(({ id }) => id !== `${n}`), pinned(n, i)] });
            asked.pins.set(n, i);
          }
          if (does === 'they pin') {
            server.other({ pins: [...server.pins.filter(({ id }) => id !== '3'), pinned(3, i)] });
            asked.pins.set(3, i);
          }
          if (does === 'hold') {
            asked.held[0] = !asked.held[0];
            change({ held: [...current.held.filter((id) => id !== 1), ...(asked.held[0] ? [1] : [])] });
          }
          if (does === 'they hold') {
            asked.held[1] = !asked.held[1];
            server.other({ held: [...server.held.filter((id) => id !== 3), ...(asked.held[1] ? [3] : [])] });
          }
          if (does === 'they add') server.other({ order: [...new Set([...server.order, 3 + (n % 2) + 1])] });
          if (does === 'news') edits.adopt(server.run);
          if (does === 'away' || does === 'back') server.isAway = does === 'away';
          await pass(ms);
        }
        const orders = server.order;
        server.isAway = false;
        await pass(6000);
        edits.adopt(server.run);
        expect(edits.laying.pending).toBe(false);
        expect(server.rule.gapX).toBe(asked.gap);
        expect(server.order).toEqual(orders);
        expect(new Map(server.pins.map(({ id, x }) => [Number(id), x]))).toEqual(asked.pins);
        expect([server.held.includes(1), server.held.includes(3)]).toEqual(asked.held);
        for (const [id, n] of asked.copies) expect(server.dockets.get(id)?.choices.copies).toBe(n);
        expect(layingOf(server.run)).toEqual(edits.laying.current);
        expect(said.filter((text) => !text.includes('does not answer'))).toEqual([]);
      }),
      { numRuns: 200 }
    );
  });
});
