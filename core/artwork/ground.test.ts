import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { openBytes } from '../../tests/made/opened';
import { madePdf, type MadePage } from '../../tests/made/pdf';
import { madePress } from '../../tests/made/press';
import { evenSides } from '../geometry/box';
import { makeDrawing } from './drawing';
import { drawingChoices, drawPiece, isGrounded, type Piece } from './piece';
import { wholePage } from './preparation';

const { inks } = madePress();
const size = { widthMm: 30, heightMm: 20 };

/** Whether a page is told to be painted all over, and the least that any of its pixels is. */
function look(content: string, more: Partial<MadePage> = {}, over: Partial<Piece> = {}) {
  const document = openBytes(madePdf({ width: 30, height: 20, content, ...more }));
  const piece: Piece = { ...size, bleed: evenSides(0), prepare: wholePage(size), ...over };
  const drawing = makeDrawing(document, 0, drawingChoices(piece), inks);
  const pixmap = drawPiece(piece, drawing, { x: 0, y: 0, width: 120, height: 80, turn: 0 }, 0, 80, true);
  const least = pixmap.getPixels().reduce((low, v, i) => (i % 5 === 4 ? Math.min(low, v) : low), 255);
  const grounded = isGrounded(piece, drawing);
  pixmap.destroy();
  document.destroy();
  return { grounded, least };
}
const ALL = '0 0 30 20 re f';
const half = { states: { Half: '/ca 0.5' } };

describe('the ground of a page', () => {
  it.each<[string, string, Partial<MadePage>, boolean]>([
    ['a flat colour', `0.2 0 0 0 k ${ALL}`, {}, true],
    ['white paint', `0 0 0 0 k ${ALL}`, {}, true],
    ['a picture', 'q 30 0 0 20 0 0 cm /P Do Q', { picture: { width: 4, height: 4 } }, true],
    ['a colour within a clip that leaves all of it', `q 0 0 30 20 re W n 0.2 0 0 0 k -5 -5 50 50 re f Q`, {}, true],
    [
      'a picture with transparency',
      'q 30 0 0 20 0 0 cm /P Do Q',
      { picture: { width: 2, height: 1, alpha: new Uint8Array([255, 90]) } },
      false
    ],
    ['a colour that is half seen through', `/Half gs 0.2 0 0 0 k ${ALL}`, half, false],
    ['a colour within a smaller clip', `q 5 5 10 10 re W n 0.2 0 0 0 k ${ALL} Q`, {}, false],
    ['a colour within a round clip', `q 15 0 m 40 0 40 20 15 20 c -10 20 -10 0 15 0 c W n 0.2 0 0 0 k ${ALL} Q`, {}, false],
    ['a colour with a hole', `0.2 0 0 0 k 0 0 30 20 re 10 5 10 10 re f*`, {}, false],
    ['less than all of it', `0.2 0 0 0 k 0 0 30 19 re f`, {}, false],
    ['a shape as wide and high, with its corner off', `0.2 0 0 0 k 0 0 m 30 0 l 30 20 l 6 20 l 0 14 l h f`, {}, false],
    ['nothing', '', {}, false]
  ])('%s', (_, content, more, grounded) => {
    const found = look(content, more);
    expect(found.grounded).toBe(grounded);
    expect(found.least === 255).toBe(grounded);
  });

  it('is never told where a pixel is not painted', () => {
    const figure = fc.integer({ min: -6, max: 36 });
    const box = fc.record({ x: figure, y: figure, w: fc.integer({ min: 1, max: 44 }), h: fc.integer({ min: 1, max: 44 }) });
    const step = fc.record({ box, clip: fc.option(box), see: fc.boolean() });
    const re = ({ x, y, w, h }: { x: number; y: number; w: number; h: number }) => `${x} ${y} ${w} ${h} re`;
    fc.assert(
      fc.property(fc.array(step, { maxLength: 4 }), (steps) => {
        const content = steps
          .map(
            ({ box: own, clip, see }) => `q ${clip ? `${re(clip)} W n` : ''} ${see ? '/Half gs' : ''} 0 1 0 0 k ${re(own)} f Q`
          )
          .join('\n');
        const { grounded, least } = look(content, half);
        if (grounded) expect(least).toBe(255);
      }),
      { numRuns: 60 }
    );
  });

  it('must lie under bleed of the page’s own, and is under bleed that is made', () => {
    const bleed = { ...size, bleed: evenSides(2) };
    const content = `0.2 0 0 0 k ${ALL}`;
    expect(look(content, {}, bleed)).toEqual({ grounded: false, least: 0 });
    const made = { ...bleed, prepare: { ...wholePage(size), bleed: { from: 'mirror' as const } } };
    expect(look(content, {}, made)).toEqual({ grounded: true, least: 255 });
  });
});
