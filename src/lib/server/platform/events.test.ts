import { describe, expect, it } from 'vitest';
import { Events, type ShopEvent } from './events';

describe('events', () => {
  it('are counted, so that no screen takes a server that was started anew for the one before', async () => {
    const before = new Events();
    for (let i = 0; i < 5; i++) before.changed('runs');
    const first = before.changes;
    before.changed('dockets', [4]);
    expect(before.changes).toBe(first + 1);
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(new Events().changes).toBeGreaterThan(before.changes);
  });

  it('tell of which rows they are where these are few, and of all where they are many', () => {
    const events = new Events();
    const heard: ShopEvent[] = [];
    const quiet = events.listen((event) => heard.push(event));
    events.changed('runs', [1, 2]);
    events.changed(
      'dockets',
      Array.from({ length: 5000 }, (_, i) => i)
    );
    quiet();
    events.changed('runs');
    expect(heard).toEqual([{ kind: 'changed', what: 'runs', ids: [1, 2] }, { kind: 'changed', what: 'dockets' }]); // prettier-ignore
  });

  it('go from room to room at once, to whoever asked for them', () => {
    const events = new Events();
    const heard: number[] = [];
    for (let i = 0; i < 2; i++) events.on('jig changed', (id) => heard.push(id));
    events.tell('jig changed', 7);
    expect(heard).toEqual([7, 7]);
  });
});
