import { evenSides } from '../geometry/box';
import { describe, expect, it } from 'vitest';
import { madePdf } from '../../tests/made/pdf';
import { madePress } from '../../tests/made/press';
import { makeDrawing } from './drawing';
import type { ColourTarget, InkSpace } from './resolver/resolver';
import { drawingChoices, drawPiece } from './piece';
import { wholePage, type Enlarged } from './preparation';
import { openBytes } from '../../tests/made/opened';

/** Pictures of few pixels, drawn large: the screen and the inks must show the same edges. */

const { screen, inks } = madePress();

const SIDE = 12;
/** A code: black and white squares that do not repeat. */
const code = Uint8Array.from({ length: SIDE * SIDE * 3 }, (_, i) => {
  const [x, y] = [Math.floor(i / 3) % SIDE, Math.floor(i / 3 / SIDE)];
  return (x * 7 + y * 3 + ((x * y) >> 1)) % 3 === 0 ? 0 : 255;
});
/** A photograph: every pixel another colour. */
const photograph = Uint8Array.from({ length: SIDE * SIDE * 3 }, (_, i) => (i * 53 + (i >> 3) * 17) % 256);

/** The share of the pixels along the middle row that are like the one before: crisp pictures change in steps. */
function stillness(rgb: Uint8Array, target: ColourTarget | InkSpace, enlarged: Enlarged): number {
  const bytes = madePdf({
    width: 40,
    height: 40,
    content: '40 0 0 40 0 0 cm /P Do',
    picture: { width: SIDE, height: SIDE, rgb }
  });
  const document = openBytes(bytes);
  const piece = {
    widthMm: 40,
    heightMm: 40,
    bleed: evenSides(0),
    prepare: { ...wholePage({ widthMm: 40, heightMm: 40 }), enlarged }
  };
  const drawing = makeDrawing(document, 0, drawingChoices(piece), target);
  const px = SIDE * 20;
  const pixmap = drawPiece(piece, drawing, { x: 0, y: 0, width: px, height: px, turn: 0 }, 0, px);
  const n = pixmap.getNumberOfComponents();
  const pixels = pixmap.getPixels();
  let still = 0;
  for (let x = 1; x < px; x++) {
    const at = ((px / 2 + 3) * px + x) * n;
    if (Array.from({ length: n }, (_, k) => pixels[at + k] === pixels[at + k - n]).every(Boolean)) still++;
  }
  document.destroy();
  return still / (px - 1);
}

describe.each([
  ['on the screen', screen],
  ['in inks', inks]
] as const)('a picture that is enlarged, %s', (_where, target) => {
  it.each([
    ['a code stays crisp by itself', code, 'as it suits', true],
    ['a photograph becomes smooth by itself', photograph, 'as it suits', false],
    ['a code becomes smooth when asked', code, 'smooth', false],
    ['a photograph stays crisp when asked', photograph, 'crisp', true]
  ] as const)('%s', (_name, rgb, enlarged, crisp) => {
    const share = stillness(rgb, target, enlarged);
    if (crisp) expect(share).toBeGreaterThan(0.9);
    else expect(share).toBeLessThan(0.75);
  });
});
