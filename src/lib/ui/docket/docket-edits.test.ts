import * as fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { DocketDocument } from '$lib/docket-choices';
import type { Docket } from '$lib/server/dockets/dockets';
import { DocketEdits, documentOf } from './docket-edits.svelte';

vi.mock('svelte-sonner', () => ({ toast: {} }));

/** A server with one docket, which may be away, slow, or have the docket changed by others. */
class FakeServer {
  docket = { id: 7, version: 1, canUndo: false, canRedo: false, name: 'Flag', note: '', customer: 'Gull', choices: { copies: 1, widthMm: 90 } } as unknown as Docket; // prettier-ignore
  isAway = false;
  isGone = false;
  /** Before it answers. */
  slowMs = 20;
  /** Versions that were asked to join the step before, or to be one of their own. */
  steps: boolean[] = [];
  /** As it was before each step. */
  past: Docket[] = [];

  answer = async (path: string, init: RequestInit = {}): Promise<Response> => {
    await new Promise((resolve) => setTimeout(resolve, this.slowMs));
    if (this.isAway) throw new TypeError('fetch failed');
    const says = (status: number, body: unknown) => new Response(JSON.stringify(body), { status });
    if (path === '/api/dockets/7/step') {
      const { version } = JSON.parse(init.body as string) as { version: number };
      if (version !== this.docket.version) return says(409, { error: 'This docket was changed in another window meanwhile.' });
      this.docket = { ...this.past.pop()!, version: version + 1 };
      return says(200, this.docket);
    }
    expect(path).toBe('/api/dockets/7');
    if (this.isGone) return says(404, { error: 'There is no such docket.' });
    if (init.method !== 'PUT') return says(200, this.docket);
    const { version, joins, ...document } = JSON.parse(init.body as string) as DocketDocument & { version: number; joins: boolean }; // prettier-ignore
    if (version !== this.docket.version) return says(409, { error: 'This docket was changed in another window meanwhile.' });
    if (document.choices.copies > 100) return says(422, { error: 'At most 100 copies.' });
    this.steps.push(joins);
    this.past.push(this.docket);
    this.docket = { ...this.docket, ...document, version: version + 1 };
    return says(200, this.docket);
  };

  /** Another window was here. */
  other(change: Partial<Docket>): void {
    this.docket = { ...this.docket, ...change, version: this.docket.version + 1 };
  }
}

let server: FakeServer;
let edits: DocketEdits;
beforeEach(() => {
  vi.useFakeTimers();
  server = new FakeServer();
  vi.stubGlobal('fetch', (path: string, init?: RequestInit) => server.answer(path, init));
  edits = new DocketEdits(server.docket);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms);
const type = (change: Partial<DocketDocument>) => edits.change({ ...edits.current, ...change });
const copies = (n: number) => type({ choices: { ...edits.current.choices, copies: n } });

describe('a docket that saves itself', () => {
  it('is saved when typing pauses; what is typed in one breath is one step, and what comes elsewhere another', async () => {
    for (const n of [3, 31]) copies(n);
    await pass(150);
    copies(2);
    type({ name: 'Flag, matt' });
    expect(edits.unsaved).toBe(true);
    await pass(300);
    expect([edits.unsaved, edits.saving, server.docket.name, server.docket.choices.copies]).toEqual([false, false, 'Flag, matt', 2]); // prettier-ignore
    expect(server.steps).toEqual([false, false]);
    type({ name: 'Flag, matt, two' });
    await pass(300);
    expect(server.steps).toEqual([false, false, true]);
  });

  it('keeps what is typed while the server is away, and saves it when it is there again', async () => {
    server.isAway = true;
    copies(5);
    await pass(3000);
    expect([edits.unsaved, edits.away]).toEqual([true, 'The server does not answer. Is Zing Mast still running?']);
    type({ note: 'By Friday' });
    server.isAway = false;
    await pass(3000);
    expect([edits.unsaved, edits.away]).toEqual([false, '']);
    expect(documentOf(server.docket)).toEqual(edits.current);
    expect([server.docket.note, server.docket.choices.copies]).toEqual(['By Friday', 5]);
  });

  it('leaves out what the server refuses, with its sentence, and saves what was typed meanwhile', async () => {
    server.slowMs = 100;
    copies(500);
    await pass(250);
    type({ note: 'Typed while it was sent' });
    await pass(60);
    type({ note: 'Typed while it was sent, and on' });
    await pass(1000);
    expect(edits.current.choices.copies).toBe(1);
    expect([edits.unsaved, server.docket.note]).toEqual([false, 'Typed while it was sent, and on']);
    // A figure on its way to what is meant is refused, and the one that is meant counts.
    copies(400);
    await pass(250);
    copies(40);
    await pass(1000);
    expect([edits.current.choices.copies, server.docket.choices.copies]).toEqual([40, 40]);
    copies(101);
    expect(await Promise.all([edits.flush(), pass(1000)])).toEqual([false, expect.anything()]);
    expect([edits.refused, edits.unsaved, edits.current.choices.copies]).toEqual(['At most 100 copies.', false, 40]);
    // What was refused before is no matter of what is saved now.
    expect(await edits.flush()).toBe(true);
    // It is told anew when it is refused anew.
    copies(102);
    await pass(250);
    expect(edits.refused).toBe('');
    await pass(1000);
    expect(edits.refused).toBe('At most 100 copies.');
  });

  it('brings together what two windows did, and tells what of mine did not make it', async () => {
    server.other({ note: 'Theirs', customer: 'Tern' });
    type({ note: 'Mine' });
    copies(9);
    await pass(1000);
    expect(server.docket).toMatchObject({ note: 'Theirs', customer: 'Tern', choices: { copies: 9 } });
    expect(edits.other?.lost.map(({ change, mine }) => [change.key, mine])).toEqual([['note', 'Mine']]);
    edits.useMine();
    await pass(1000);
    expect(server.docket.note).toBe('Mine');
    expect([edits.other, edits.unsaved]).toEqual([null, false]);
  });

  it('is saved whole before anything else is done with it, also where another window was first', async () => {
    server.other({ customer: 'Tern' });
    copies(12);
    let isDone = false;
    const all = edits.flush().then((isTaken) => {
      isDone = true;
      // Refused first, asked for, and sent once more.
      expect(server.docket).toMatchObject({ customer: 'Tern', choices: { copies: 12 } });
      return isTaken;
    });
    await pass(30);
    expect(isDone).toBe(false);
    await pass(1000);
    expect(await all).toBe(true);
    server.isAway = true;
    copies(13);
    expect(await Promise.all([edits.flush(), pass(100)])).toEqual([false, expect.anything()]);
  });

  it('shows what another window did just after a save, told before the answer to that was here', async () => {
    const { answer } = server;
    server.answer = async (path, init) => {
      const reply = await answer(path, init);
      if (init?.method !== 'PUT' || server.docket.customer === 'Tern') return reply;
      server.other({ customer: 'Tern' });
      edits.adopt(server.docket);
      return reply;
    };
    copies(8);
    await pass(1000);
    expect([edits.current.customer, edits.current.choices.copies, edits.unsaved]).toEqual(['Tern', 8, false]);
    expect(edits.other?.changes.map(({ key }) => key)).toEqual(['customer']);
    // The same while a step back is on its way.
    server.answer = async (path, init) => {
      const reply = await answer(path, init);
      if (path.endsWith('/step')) {
        server.other({ note: 'By Friday' });
        edits.adopt(server.docket);
      }
      return reply;
    };
    server.past.push(server.docket);
    await Promise.all([edits.step(-1), pass(1000)]);
    expect(edits.current.note).toBe('By Friday');
  });

  it('loses nothing where the server goes just after it said that another window was first', async () => {
    server.other({ customer: 'Tern' });
    const answer = server.answer;
    let asked = 0;
    server.answer = (path, init) => {
      asked++;
      server.isAway = asked === 2;
      return answer(path, init);
    };
    copies(9);
    await pass(500);
    expect([edits.unsaved, edits.away]).toEqual([true, 'The server does not answer. Is Zing Mast still running?']);
    await pass(5000);
    expect([edits.unsaved, edits.away]).toEqual([false, '']);
    expect(server.docket).toMatchObject({ customer: 'Tern', choices: { copies: 9 } });
  });

  it('goes as many steps back as were asked for, however fast, and after what was typed last', async () => {
    for (const n of [11, 22, 33, 44]) {
      copies(n);
      await pass(1000);
    }
    copies(55);
    const back = Promise.all([1, 2, 3].map(() => edits.step(-1)));
    await pass(2000);
    await back;
    expect([edits.current.choices.copies, server.docket.choices.copies, edits.saving]).toEqual([22, 22, false]);
    // What cannot be done is told to who asked, and what is asked for after it is done.
    const failed = edits.byServer(() => Promise.reject(new Error('There is nothing to take back.')));
    const next = edits.step(-1);
    await Promise.all([expect(failed).rejects.toThrow('nothing to take back'), pass(500)]);
    await next;
    expect([edits.current.choices.copies, edits.saving]).toEqual([11, false]);
    // What is typed after a step was asked for, and before it is made, stays over it.
    copies(66);
    await pass(1000);
    copies(77);
    const later = edits.step(-1);
    type({ note: 'After that' });
    await pass(2000);
    await later;
    expect(edits.current).toMatchObject({ note: 'After that', choices: { copies: 66 } });
    expect(documentOf(server.docket)).toEqual(edits.current);
    // While the server is away it is told, and not forgotten without a word.
    server.isAway = true;
    copies(88);
    await pass(1000);
    const away = edits.step(-1);
    await Promise.all([expect(away).rejects.toThrow('does not answer'), pass(500)]);
    server.isAway = false;
    await pass(3000);
    expect(server.docket.choices.copies).toBe(88);
  });

  it('that was deleted elsewhere says so', async () => {
    server.isGone = true;
    copies(9);
    await pass(1000);
    expect([edits.refused, edits.current.choices.copies]).toEqual(['There is no such docket.', 9]);
  });

  it('is what both windows typed last, whatever comes between', async () => {
    const act = fc.record({
      what: fc.constantFrom('copies', 'refused', 'name', 'note', 'wait', 'wait', 'away', 'back', 'other', 'news'),
      n: fc.integer({ min: 1, max: 90 })
    });
    await fc.assert(
      fc.asyncProperty(fc.array(act, { maxLength: 25 }), async (acts) => {
        server = new FakeServer();
        edits = new DocketEdits(server.docket);
        const last: Record<string, unknown> = { name: 'Flag', note: '', copies: 1 };
        let theirs = 'Gull';
        for (const { what, n } of acts) {
          if (what === 'copies') copies((last['copies'] = n) as number);
          else if (what === 'refused') copies((last['copies'] = 100 + n) as number);
          else if (what === 'name' || what === 'note') type({ [what]: (last[what] = `${what} ${n}`) });
          else if (what === 'wait') await pass(n * 10);
          else if (what === 'away') server.isAway = true;
          else if (what === 'back') server.isAway = false;
          else if (what === 'other') server.other({ customer: (theirs = `Tern ${n}`) });
          else edits.adopt(server.docket);
        }
        server.isAway = false;
        await pass(10_000);
        edits.adopt(server.docket);
        await pass(1000);
        expect([edits.unsaved, edits.saving, edits.away]).toEqual([false, false, '']);
        expect(documentOf(server.docket)).toEqual(edits.current);
        expect(edits.current).toMatchObject({ name: last['name'], note: last['note'], customer: theirs });
        const { copies: now } = edits.current.choices;
        if ((last['copies'] as number) <= 100) expect(now).toBe(last['copies']);
        else expect(now).toBeLessThanOrEqual(100);
      }),
      { numRuns: 400 }
    );
  });
});
