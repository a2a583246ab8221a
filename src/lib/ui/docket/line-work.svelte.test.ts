import * as fc from 'fast-check';
import { beforeEach, describe, expect, it } from 'vitest';
import { DEFAULT_CUT, type CutChoices, type MadeLine } from '$core/artwork/cut-choices';
import { wholePage, type Preparation } from '$core/artwork/preparation';
import type { PageLine } from '$core/artwork/facts';
import type { Role } from '$core/artwork/roles';
import { finishedLines } from '$core/cutting/docket-lines';
import { moveNode, withLine } from '$core/cutting/nodes';
import type { Point } from '$core/geometry/matrix';
import { parsePathData } from '$core/geometry/path';
import { LineWork } from './line-work.svelte';

const PAGE = { widthMm: 100, heightMm: 60 };
const MADE: MadeLine = { id: 'mine', tool: 'through cut', from: { kind: 'page', shape: 'rectangle', radiusMm: 0 }, offsetMm: -5, corners: 'round', smoothMm: 0.05, holes: true, smallestMm2: 0, bridgeMm: 0 }; // prettier-ignore
/** A triangle of the customer’s, in a spot colour that is a kiss cut. */
const CUSTOMERS: PageLine[] = [{ spot: 'Cut', path: parsePathData('M 10 10 L 90 10 L 50 50 Z') }];
const roleOf = (name: string): Role | undefined => (name === 'Cut' ? 'kiss cut' : undefined);

/** A docket whose lines are worked on, as the desk of dockets holds it. */
class Desk {
  preparation = $state.raw<Preparation>(wholePage(PAGE));
  choices = $state.raw({ widthMm: 200, heightMm: 120, lines: { ...DEFAULT_CUT, made: [MADE] } as CutChoices });
  changes = 0;
  readonly work = new LineWork(
    () => this,
    (lines) => {
      this.changes++;
      this.choices = { ...this.choices, lines };
    }
  );

  get finished() {
    return finishedLines(CUSTOMERS, roleOf, this.preparation, this.choices, this.choices.lines);
  }
}

let desk: Desk;
beforeEach(() => {
  desk = new Desk();
});
const places = (): Point[] => desk.work.edited.flatMap(({ nodes }) => nodes.map(({ at }) => at));
const key = (name: string, more: Partial<KeyboardEvent> = {}) => {
  let isTaken = false;
  const take = () => (isTaken = true);
  desk.work.keys({ key: name, preventDefault: take, stopPropagation: take, ...more } as unknown as KeyboardEvent);
  return isTaken;
};

describe('a cut line whose nodes are edited', () => {
  it('is the one that was chosen, until it is chosen again', () => {
    expect(places()).toEqual([]);
    desk.work.turn('mine');
    expect(places()).toHaveLength(4);
    desk.work.turn('customer');
    expect(places()).toHaveLength(3);
    desk.work.turn('customer');
    expect([desk.work.editing, places()]).toEqual([null, []]);
    expect(desk.changes).toBe(0);
  });

  it('becomes one drawn by hand, and lies as it was put, however the page is turned and mirrored', () => {
    const turns = fc.constantFrom(0, 90, 180, 270) as fc.Arbitrary<Preparation['turn']>;
    const figure = fc.integer({ min: 300, max: 5000 }).map((v) => v / 10);
    fc.assert(
      fc.property(
        turns,
        fc.boolean(),
        figure,
        figure,
        fc.integer({ min: 0, max: 3 }),
        (turn, mirror, widthMm, heightMm, node) => {
          desk = new Desk();
          desk.preparation = { ...desk.preparation, turn, mirror };
          desk.choices = { ...desk.choices, widthMm, heightMm };
          desk.work.turn('mine');
          const before = places();
          const to = { x: before[node]!.x + 1.5, y: before[node]!.y - 2.25 };
          desk.work.keep(withLine(desk.work.edited, 0, (line) => moveNode(line, node, to)));
          expect(desk.choices.lines.made).toMatchObject([
            { id: 'mine', tool: 'through cut', from: { kind: 'drawn' }, offsetMm: 0 }
          ]);
          const wanted = before.with(node, to);
          // Written with four decimals of a page that may be enlarged tenfold.
          for (const [i, at] of places().entries())
            expect(Math.hypot(at.x - wanted[i]!.x, at.y - wanted[i]!.y)).toBeLessThan(0.002);
        }
      )
    );
  });

  it('of the customer’s becomes one of the docket’s own, which the same tool cuts, and goes on as that', () => {
    desk.work.turn('customer');
    desk.work.keep(withLine(desk.work.edited, 0, (line) => moveNode(line, 2, { x: 100, y: 90 })));
    const own = desk.choices.lines.made[1]!;
    expect(own).toMatchObject({ tool: 'kiss cut', from: { kind: 'drawn' } });
    expect(desk.choices.lines.customer.use).toBe(false);
    expect(desk.work.editing).toBe(own.id);
    expect(places()[2]!.y).toBeCloseTo(90, 3);
    expect(desk.finished.map(({ id }) => id)).toEqual(['mine', own.id]);
  });

  it('hears the keys of its node, and no others', () => {
    desk.work.turn('mine');
    expect(key('ArrowRight')).toBe(false);
    desk.work.chosen = { line: 0, node: 1 };
    const before = places()[1]!;
    expect(key('ArrowRight', { shiftKey: true })).toBe(true);
    expect(places()[1]!.x - before.x).toBeCloseTo(1, 3);
    for (const [name, more] of [
      ['q', {}],
      ['z', { ctrlKey: true }],
      ['ArrowRight', { metaKey: true }]
    ] as const)
      // prettier-ignore
      expect([name, key(name, more)]).toEqual([name, false]);
    expect(desk.changes).toBe(1);
  });
});
