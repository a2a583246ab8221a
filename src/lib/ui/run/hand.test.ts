import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Item, Pin, PlacedCopy, Placement, Stock } from '$core/layout/placement';
import { DEFAULT_RULE, type RunRule } from '$lib/run-rule';
import { Hand, MOST_PINS } from './hand.svelte';

const said: string[] = [];
vi.mock('svelte-sonner', () => ({ toast: { error: (text: string) => said.push(text) } }));

const items = new Map<string, Item>([['7', { id: '7', width: 80, height: 30, copies: 9, mayTurn: true }]]);
const rule: RunRule = { ...DEFAULT_RULE, placing: 'hand', gapX: 4, gapY: 4, margin: 10, lead: 10 };
const ROLL: Stock = { kind: 'roll', width: 500 };
const at = (copy: number, x: number, y: number): PlacedCopy => ({ id: '7', copy, x, y, width: 80, height: 30, turn: 0, pinned: false }); // prettier-ignore
const layoutOf = (...copies: PlacedCopy[]) => ({ parts: [{ copies }] }) as unknown as Placement;
const name = (copy: number) => ({ id: '7', copy, part: 0 });
const pin = (copy: number, x: number, y: number, turn = 0): Pin => ({ ...name(copy), x, y, turn });

let layout: Placement;
let pins: Pin[];
let changed: Partial<RunRule>[];
let hand: Hand;
beforeEach(() => {
  said.length = 0;
  [pins, changed] = [[], []];
  layout = layoutOf(at(0, 10, 10), at(1, 94, 10), at(2, 10, 200));
  hand = new Hand(
    () => ({ layout, stock: ROLL, rule, items, pins }),
    (next, part = {}) => {
      pins = next;
      changed.push(part);
    }
  );
});

describe('copies taken in hand', () => {
  it('are held where they lie, and let go', () => {
    hand.selected = [name(0), name(2)];
    hand.hold(true);
    expect(pins).toEqual([pin(0, 10, 10), pin(2, 10, 200)]);
    hand.selected = [name(0)];
    hand.hold(false);
    expect(pins).toEqual([pin(2, 10, 200)]);
  });

  it('that are gone since they were chosen are in nobody’s hand', () => {
    hand.selected = [name(1), name(8)];
    expect(hand.found.map(({ copy }) => copy.copy)).toEqual([1]);
    layout = layoutOf();
    hand.nudge(5, 5);
    expect(pins).toEqual([]);
  });

  it('are dragged to what is within reach, all of them by the same way', () => {
    hand.selected = [name(1), name(2)];
    // 3 mm off a gap beside the first.
    hand.drag([name(1), name(2)], 3, 60);
    expect(pins).toEqual([pin(1, 94, 70), pin(2, 10, 260)]);
    // Not dragged are those that are chosen but not under the pointer.
    hand.drag([name(2)], 100, 0);
    expect(pins).toEqual([pin(1, 94, 70), pin(2, 110, 200)]);
  });

  it('stay where they are, with a sentence, where they would lie on another that is held', () => {
    hand.selected = [name(0), name(1)];
    hand.hold(true);
    const before = pins;
    hand.selected = [name(2)];
    hand.drag([name(2)], 40, -180);
    expect([pins, said]).toEqual([before, ['It would lie on another pinned copy, or nearer than the gap. It was put back.']]);
    hand.nudge(-5, 0);
    expect([pins, said.at(-1)]).toEqual([before, 'It would lie over the margin. It was put back.']);
  });

  it('turn about their middle, line up and spread', () => {
    hand.selected = [name(2)];
    hand.turn();
    expect(pins).toEqual([pin(2, 35, 175, 90)]);
    pins = [];
    hand.selected = [name(1), name(2)];
    hand.align('left');
    expect(pins).toEqual([pin(1, 10, 10), pin(2, 10, 200)]);
    pins = [];
    hand.selected = [name(0), name(1), name(2)];
    hand.distribute(true);
    expect(pins).toEqual([pin(0, 10, 10), pin(1, 94, 105), pin(2, 10, 200)]);
    expect(said).toEqual([]);
  });

  it('go into pockets of a jig with what lies there coming into theirs; too many are told', () => {
    layout = layoutOf({ ...at(0, 0, 0), pocket: 1 }, { ...at(1, 0, 0), pocket: 2 });
    hand.selected = [name(0)];
    hand.toPocket(2);
    expect(pins.map(({ copy, pocket }) => [copy, pocket]).sort()).toEqual([[0, 2], [1, 1]]); // prettier-ignore
    expect(changed.at(-1)?.pockets?.sharing).toBe('by hand');
    layout = layoutOf(...Array.from({ length: MOST_PINS + 1 }, (_, i) => ({ ...at(i, 0, 0), pocket: i + 1 })));
    const before = pins;
    hand.toPocket(3);
    expect([pins, said]).toEqual([before, ['2001 copies are too many to be put in pockets by hand; 2000 are the most.']]);
  });
});
