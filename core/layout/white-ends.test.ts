import { describe, expect, it } from 'vitest';
import { madePiece } from '../../tests/made/laid';
import { evenSides } from '../geometry/box';
import { boxRing } from '../panels/wall';
import { fourInks, shiftOf, type InkSet } from '../inks/ink-set';
import { whiteEnds } from './white-ends';

const INKS: InkSet = [
  ...fourInks([6, 13, 21]),
  { name: 'White', role: 'white', channel: 'White', colour: '#b9c4d6', drops: [12, 24, 36], shift: shiftOf(4) }
];
const WHITE = [0, 0, 0, 0, 1];

/** A panel of 1000 × 2000 mm whose last 8 mm lie beneath the next one. */
const panel = madePiece({
  id: 'wall',
  docket: 'wall',
  widthMm: 1000,
  heightMm: 2000,
  caption: 'Panel 1 of 2',
  panel: {
    number: 1,
    wall: { widthMm: 1992, heightMm: 2000 },
    part: { x: 0, y: 0, width: 1000, height: 2000 },
    pictureBeyondMm: 0,
    clip: undefined,
    white: [boxRing({ x: 992, y: 0, width: 8, height: 2000 })],
    lines: [],
    marks: [],
    room: evenSides(0)
  }
});
const at = (turn: number, width: number, height: number) => ({
  copies: [{ id: 'wall', copy: 0, x: 30, y: 50, width, height, turn, pinned: false }]
});

describe('the far end of a panel’s overlap', () => {
  it('is white where it comes to lie, upright, upside down and lying', () => {
    const ends = (...place: Parameters<typeof at>) =>
      whiteEnds([panel], at(...place), INKS, [{ ink: 'white' }, { ink: 'colour' }]);
    const [upright] = ends(0, 1000, 2000);
    expect(upright).toMatchObject({ inks: WHITE });
    expect([upright!.x, upright!.y, upright!.width, upright!.height].map(Math.round)).toEqual([1022, 50, 8, 2000]);
    const [headToFoot] = ends(180, 1000, 2000);
    expect([headToFoot!.x, headToFoot!.y, headToFoot!.width, headToFoot!.height].map(Math.round)).toEqual([30, 50, 8, 2000]);
    const [lying] = ends(90, 2000, 1000);
    expect([lying!.x, lying!.width, lying!.height].map(Math.round)).toEqual([30, 2000, 8]);
    // At one of the two long sides of where it lies.
    expect([50, 1042]).toContain(Math.round(lying!.y));
  });

  it('is left blank where the run lays no white, and is none of what is no panel', () => {
    expect(whiteEnds([panel], at(0, 1000, 2000), INKS, [{ ink: 'colour' }])).toEqual([]);
    const plain = { ...panel, panel: undefined };
    expect(whiteEnds([plain], at(0, 1000, 2000), INKS, [{ ink: 'white' }, { ink: 'colour' }])).toEqual([]);
  });
});
