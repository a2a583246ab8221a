import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { D50, type Triple } from './lab';
import { screenOf, stackXyz, xyzOf, type Ground, type SeenLayer, type View } from './stack-look';

const PAPER: Ground = { body: 'opaque', colour: D50 };
const BOARD: Ground = { body: 'dark', colour: xyzOf('#1a1b1e') };
const CLEAR: Ground = { body: 'clear', colour: D50 };
const front: View = { from: 'front', backing: D50 };
const y = (layers: SeenLayer[], ground: Ground, view = front) => stackXyz(layers, ground, view)[1];
const white = (amount: number): SeenLayer => ({ ink: 'white', amount });
const cyan: SeenLayer = { ink: 'colour', filter: xyzOf('#00a0e0') };
const near = (p: Readonly<Triple>, q: Readonly<Triple>) => p.forEach((v, i) => expect(v).toBeCloseTo(q[i]!, 3));

describe('layers on a media', () => {
  it('are as light as the media lets them be: white makes a dark one lighter, the more the lighter', () => {
    const amounts = fc.tuple(fc.double({ min: 0, max: 4, noNaN: true }), fc.double({ min: 0, max: 4, noNaN: true }));
    fc.assert(
      fc.property(amounts, ([p, q]) => {
        const [less, more] = [Math.min(p, q), Math.max(p, q)];
        expect(y([white(more)], BOARD)).toBeGreaterThanOrEqual(y([white(less)], BOARD) - 1e-9);
        expect(y([white(more)], BOARD)).toBeLessThan(1);
      })
    );
    expect(y([], BOARD)).toBeLessThan(0.02);
    expect(y([white(1)], BOARD)).toBeGreaterThan(0.35);
  });

  it('of colour are seen on what lies beneath them: hardly on a board, on white as on paper', () => {
    expect(y([cyan], BOARD)).toBeLessThan(0.02);
    const onWhite = stackXyz([white(4), cyan], BOARD, front);
    const onPaper = stackXyz([cyan], PAPER, front);
    onWhite.forEach((v, i) => expect(v / onPaper[i]!).toBeGreaterThan(0.8));
    // White over it hides it.
    near(stackXyz([cyan, white(50)], BOARD, front), stackXyz([white(50)], BOARD, front));
  });

  it('are seen the other way round from behind, and only through media that let light through', () => {
    const behind: View = { from: 'behind', backing: xyzOf('#404040') };
    const both = [cyan, white(4)];
    expect(stackXyz(both, PAPER, behind)).toEqual(stackXyz(both, PAPER, { ...behind, from: 'front' }));
    // From behind the cyan lies before the white: far less red than green.
    const [x, , z] = stackXyz(both, CLEAR, behind);
    expect(z / x).toBeGreaterThan(2);
    const fromFront = stackXyz(both, CLEAR, { ...behind, from: 'front' });
    expect(fromFront[2] / fromFront[0]).toBeLessThan(1.5);
  });

  it('leave a bare media as it is: white paper white, and what is clear as the grey behind it', () => {
    screenOf({ body: 'opaque', colour: '#ffffff' }).forEach((v) => expect(v).toBeCloseTo(1, 2));
    const [r, g, b] = screenOf({ body: 'clear', colour: '#ffffff' });
    expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(0.02);
    expect(r).toBeGreaterThan(0.4);
    expect(r).toBeLessThan(0.6);
  });
});
