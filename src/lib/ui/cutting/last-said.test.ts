import { describe, expect, it } from 'vitest';
import type { Machine } from '$lib/server/machines/machines';
import { LastSaid } from './last-said';

const cutter = (id: number, roll: string | null, online = true) =>
  ({ id, name: `Tern ${id}`, online, cutter: online ? { roll: roll && { id: roll } } : null }) as unknown as Machine;

describe('a cutter that does not answer', () => {
  it('is shown with the roll that it had when it answered last, and said to be away', () => {
    const last = new LastSaid();
    expect(last.of(cutter(1, 'a')).cutter?.roll?.id).toBe('a');
    last.of(cutter(2, 'b'));
    const away = last.of(cutter(1, null, false));
    expect([away.online, away.cutter?.roll?.id]).toEqual([false, 'a']);
    // What it says when it is back counts, also that its roll was taken out.
    expect(last.of(cutter(1, null)).cutter?.roll).toBeNull();
    expect(last.of(cutter(1, null, false)).cutter?.roll).toBeNull();
    expect(last.of(cutter(2, null, false)).cutter?.roll?.id).toBe('b');
  });

  it('from the start is one that nothing is known of', () => {
    expect(new LastSaid().of(cutter(3, null, false)).cutter).toBeNull();
  });
});
