import { beforeEach, describe, expect, it, vi } from 'vitest';
import { z } from 'zod';
import { Draft } from './draft.svelte';

const Rule = z.object({ name: z.string(), copies: z.int() });
const KEPT = { version: 3, value: { name: 'Tags', copies: 4 } };
const NEWER = { version: 4, value: { name: 'Tallies', copies: 4 } };

let stored: Map<string, string>;
let isFull: boolean;
beforeEach(() => {
  [stored, isFull] = [new Map(), false];
  vi.stubGlobal('sessionStorage', {
    getItem: (key: string) => stored.get(key) ?? null,
    removeItem: (key: string) => stored.delete(key),
    setItem: (key: string, text: string) => {
      if (isFull) throw new Error('QuotaExceededError');
      stored.set(key, text);
    }
  });
});
const open = (kept = KEPT, key = 'rule 7') => {
  const draft = new Draft(key, kept, (value) => Rule.safeParse(value).data);
  draft.restore();
  return draft;
};

describe('a draft', () => {
  it('waits while the page is left, for what it is of alone, until it is kept or dropped', () => {
    const draft = open();
    draft.change({ ...draft.current, copies: 9 });
    expect([draft.isChanged, open().current.copies, open(KEPT, 'rule 8').current.copies]).toEqual([true, 9, 4]);
    draft.kept({ version: 4, value: draft.current }, draft.current);
    expect([draft.isChanged, draft.version, stored.size]).toEqual([false, 4, 0]);
    draft.change({ ...draft.current, copies: 1 });
    draft.drop();
    expect([draft.current.copies, open({ version: 4, value: draft.current }).isChanged]).toEqual([9, false]);
    // Typed back to what is kept, it is none any more.
    draft.change({ ...draft.current, copies: 2 });
    draft.change({ ...draft.current, copies: 9 });
    expect([draft.isChanged, stored.size]).toEqual([false, 0]);
  });

  it('shows what another window kept where nothing was changed here, and else says that there is something newer', () => {
    const draft = open();
    draft.adopt(NEWER);
    expect([draft.current, draft.version]).toEqual([NEWER.value, 4]);
    const changed = open();
    changed.change({ ...changed.current, copies: 9 });
    changed.adopt(NEWER);
    expect([changed.current.copies, changed.version, changed.isOverNewer]).toEqual([9, 3, true]);
    // So also when the page is left, and opened again.
    const again = open(NEWER);
    expect([again.current.copies, again.version, again.isOverNewer]).toEqual([9, 3, true]);
    again.drop();
    expect([again.current, again.version, again.isOverNewer, stored.size]).toEqual([NEWER.value, 4, false, 0]);
  });

  it('that is changed on while it is being kept is a draft still, of what is kept by then', () => {
    const draft = open();
    const sent = { ...draft.current, copies: 9 };
    draft.change(sent);
    draft.change({ ...sent, name: 'Tallies' });
    draft.kept({ version: 4, value: sent }, sent);
    expect([draft.current, draft.isChanged, draft.isOverNewer, draft.version]).toEqual([{ name: 'Tallies', copies: 9 }, true, false, 4]); // prettier-ignore
    expect(open({ version: 4, value: sent }).current.name).toBe('Tallies');
    draft.drop();
    // What was loaded before that is older.
    draft.adopt(KEPT);
    expect([draft.current, draft.version]).toEqual([sent, 4]);
  });

  it('that another window kept just so is none any more', () => {
    open().change(NEWER.value);
    const again = open(NEWER);
    expect([again.isChanged, again.isOverNewer, again.version, stored.size]).toEqual([false, false, 4, 0]);
  });

  it('that cannot be read is none, and where there is no room it is here as long as the page is', () => {
    for (const text of ['{', '[]', '{"version":3}', '{"version":3,"value":{"name":7}}', '{"version":"3","value":{}}']) {
      stored.set('zing-draft rule 7', text);
      expect(open().current).toEqual(KEPT.value);
    }
    isFull = true;
    const draft = open();
    draft.change({ ...draft.current, copies: 9 });
    expect([draft.current.copies, draft.isChanged]).toEqual([9, true]);
  });
});
