import { describe, expect, it } from 'vitest';
import { fourInks, shiftOf, type InkSet } from '../inks/ink-set';
import type { LaidLayer } from '../inks/stack';
import type { Mark } from './print-list';
import type { Press } from '../media/press';
import { markGround, seenOn, whiteUnder } from './white-grounds';

const inks: InkSet = [
  ...fourInks([6, 13, 21]),
  { name: 'White', role: 'white', channel: 'White', colour: '#b9c4d6', drops: [12, 24, 36], shift: shiftOf(4) }
];
const mark: Mark = { x: 50, y: 80, diameter: 6, shape: 'disc' };
const on = (body: Press['media']['body']): Pick<Press, 'media'> => ({
  media: { name: 'Board', body, colour: '#1a1b1e', printedSide: 'face', primer: false, black: 'gloss', stack: null }
});
const white = { ink: 'white' as const };
const colour = { ink: 'colour' as const };

describe('marks that a cutter looks for', () => {
  it('have white under and around them on media that is no light ground', () => {
    for (const body of ['dark', 'clear', 'translucent'] as const) {
      const [flat] = whiteUnder([markGround(mark)], inks, [white, colour], on(body));
      expect(flat!.inks).toEqual([0, 0, 0, 0, 1]);
      expect([flat!.x + flat!.width / 2, flat!.y + flat!.height / 2]).toEqual([50, 80]);
      expect(flat!.width).toBeGreaterThan(mark.diameter * 2);
    }
  });

  it('have none on white media, without white, and where white would hide them', () => {
    expect(whiteUnder([markGround(mark)], inks, [white, colour], on('opaque'))).toEqual([]);
    expect(whiteUnder([markGround(mark)], inks, [colour], on('dark'))).toEqual([]);
    expect(whiteUnder([markGround(mark)], inks, [colour, white], on('clear'))).toEqual([]);
  });
});

describe('marks for people', () => {
  it('are white on dark media, where the run has white, and otherwise as their docket says', () => {
    const inkOn = (body: Press['media']['body'], layers: LaidLayer[] = [white, colour]) =>
      seenOn(inks, layers, on(body))('black');
    expect(inkOn('dark')).toEqual([0, 0, 0, 0, 1]);
    expect(inkOn('dark', [colour])).toEqual([0, 0, 0, 1]);
    for (const body of ['opaque', 'clear', 'translucent'] as const) expect(inkOn(body)).toEqual([0, 0, 0, 1]);
  });
});
