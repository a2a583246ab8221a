import { afterAll, describe, expect, it } from 'vitest';
import { madePdf } from '../../tests/made/pdf';
import { madePress } from '../../tests/made/press';
import { openBytes } from '../../tests/made/opened';
import { makeDrawing } from '../artwork/drawing';
import { drawingChoices, drawPiece, type Piece } from '../artwork/piece';
import { wholePage, type Preparation } from '../artwork/preparation';
import type { PDFDocument } from '../interpreter/interpreter';
import { pixels } from '../units/length';
import { panelPiece, preparedPart } from './panel-piece';
import { planWall, type Panel } from './panels';
import { newWall, type Wall } from './wall';

const { inks } = madePress();
const opened: PDFDocument[] = [];
afterAll(() => opened.forEach((document) => document.destroy()));

/** A page at a tenth: slanted lines, a round, a gradient's worth of greys in a picture, lettering as fine bars. */
const WIDE = 90;
const HIGH = 26;
const rgb = Uint8Array.from({ length: 64 * 32 * 3 }, (_, i) => (i * 37) % 256);
const bars = Array.from({ length: 120 }, (_, i) => `${(i * 0.737).toFixed(3)} 14 0.31 5 re f`).join(' ');
const page = {
  width: WIDE,
  height: HIGH,
  content: `0.2 0.1 0 0 k 0 0 ${WIDE} ${HIGH} re f q 60 0 0 10 13.3 1.7 cm /P Do Q 0 1 0.3 0 K 0.4 w 0 3 m 90 23 l S 0 0 0 1 k ${bars} 1 0 0 0 k 40 20 m 44 26 50 26 51 20 c 50 12 42 12 40 20 c f`,
  picture: { width: 64, height: 32, rgb }
};
const DPI = 72;
const SIZE = { widthMm: 900, heightMm: 260 };
const FILM = { usableMm: 300, dpi: DPI, family: 'banner' as const };

/** Composed inks of a panel: a byte for each of four channels. */
function drawn(wall: Wall, panel: Panel, prepare: Preparation, size = SIZE) {
  const document = openBytes(madePdf(page));
  opened.push(document);
  const { part, bleed } = panelPiece(wall, panel, size);
  const from = { x: part.x - bleed.left, y: part.y - bleed.top };
  const piece: Piece = { widthMm: part.width, heightMm: part.height, bleed, from, prepare: preparedPart(prepare, size, part) };
  const drawing = makeDrawing(document, 0, drawingChoices(piece), inks);
  const grid = { x: 0, y: 0, width: pixels(panel.box.width, DPI), height: pixels(panel.box.height, DPI), turn: 0 };
  const pixmap = drawPiece(piece, drawing, grid, 0, grid.height);
  const bytes = Uint8Array.from(pixmap.getPixels());
  pixmap.destroy();
  drawing.list.destroy();
  return { ...grid, left: pixels(panel.box.x, DPI), top: pixels(panel.box.y, DPI), bytes };
}

const channelsAt = (of: ReturnType<typeof drawn>, x: number, y: number): number[] => {
  const at = ((y - of.top) * of.width + x - of.left) * 4;
  return [...of.bytes.subarray(at, at + 4)];
};

/** How many pixels that two panels both have differ, and how many they both have. */
function differences(a: ReturnType<typeof drawn>, b: ReturnType<typeof drawn>) {
  let [both, different, inked] = [0, 0, 0];
  for (let y = Math.max(a.top, b.top); y < Math.min(a.top + a.height, b.top + b.height); y++)
    for (let x = Math.max(a.left, b.left); x < Math.min(a.left + a.width, b.left + b.width); x++) {
      both++;
      const [p, q] = [channelsAt(a, x, y), channelsAt(b, x, y)];
      if (p.some((v, i) => v !== q[i])) different++;
      if (p.some((v) => v > 60)) inked++;
    }
  return { both, different, inked };
}

describe('neighbours print the same where they overlap, to the last bit of every ink', () => {
  const whole = wholePage({ widthMm: WIDE, heightMm: HIGH });
  const cases: [string, Partial<Wall>, Preparation][] = [
    ['as the page is', {}, whole],
    ['with bleed made by mirroring', {}, { ...whole, bleed: { from: 'mirror' } }],
    ['mirrored', {}, { ...whole, mirror: true }],
    ['turned about', {}, { ...whole, turn: 180, bleed: { from: 'stretch' } }],
    ['in rows too', { rows: { how: 'count', count: 2, widestMm: 1, seams: null } }, whole],
    ['from the middle, overlapped by both', { order: 'from middle', side: 'both' }, whole]
  ];
  for (const [name, over, prepare] of cases)
    it(name, () => {
      const wall: Wall = { ...newWall(13), ...over };
      const { panels } = planWall(wall, SIZE, FILM);
      expect(panels.length).toBeGreaterThan(3);
      const all = panels.map((panel) => drawn(wall, panel, prepare));
      let compared = 0;
      for (const panel of panels)
        for (const edge of Object.values(panel.edges)) {
          if (edge.is !== 'seam' || edge.neighbour < panel.index) continue;
          const { both, different, inked } = differences(all[panel.index]!, all[edge.neighbour]!);
          expect(both).toBeGreaterThan(1000);
          expect(inked).toBeGreaterThan(100);
          expect(different).toBe(0);
          compared++;
        }
      expect(compared).toBeGreaterThanOrEqual(panels.length - 1);
    });

  it('and show together what the page drawn whole shows', () => {
    const wall = newWall(0);
    const { panels } = planWall(wall, SIZE, FILM);
    const one = planWall(wall, SIZE, { ...FILM, usableMm: 2000 }).panels[0]!;
    const whole = drawn(wall, one, wholePage({ widthMm: WIDE, heightMm: HIGH }));
    for (const panel of panels) {
      const { both, different } = differences(drawn(wall, panel, wholePage({ widthMm: WIDE, heightMm: HIGH })), whole);
      expect(both).toBeGreaterThan(100_000);
      expect(different).toBe(0);
    }
  });
});
