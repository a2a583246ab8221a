import { describe, expect, it } from 'vitest';
import { wholePage } from '../artwork/preparation';
import { evenSides } from '../geometry/box';
import type { PieceSource } from '../layout/pieces';
import { drawnAlike } from './plan';

const page = wholePage({ widthMm: 90, heightMm: 26 });
const source = (x: number, over: Partial<PieceSource> = {}): PieceSource => ({
  file: 'wall',
  page: 0,
  widthMm: 300,
  heightMm: 260,
  bleed: evenSides(0),
  intent: 'relative',
  prepare: { ...page, region: { x, y: 0, width: 30, height: 26 } },
  sources: { rgb: '', cmyk: '', grey: '' },
  ...over
});

describe('drawings that pieces share', () => {
  it('are one for parts of a page at one scale, whatever part, bleed and turn they have', () => {
    const turned = { ...page, turn: 180 as const, region: { x: 60, y: 0, width: 30, height: 26 } };
    expect(drawnAlike({ sources: [source(0), source(30), source(60, { prepare: turned, bleed: evenSides(5) })] })).toEqual([
      0, 0, 0
    ]);
  });

  it('are others where what is drawn differs: scale, file, page, intent, profiles, what is left out, layers and overlays', () => {
    const others: Partial<PieceSource>[] = [
      { widthMm: 330 },
      { file: 'other' },
      { page: 1 },
      { intent: 'perceptual' },
      { sources: { rgb: 'own', cmyk: '', grey: '' } },
      { prepare: { ...source(0).prepare, leftOut: { spots: ['Cut'], layers: [] } } },
      { prepare: { ...source(0).prepare, blackText: true } },
      { overlays: { files: ['a'], each: 1 } },
      { stack: { layers: [], marks: { white: { spots: ['White'], layers: [] } } } }
    ];
    const all = [source(0), ...others.map((over) => source(0, over))];
    expect(drawnAlike({ sources: all })).toEqual(all.map((_, i) => i));
  });
});
