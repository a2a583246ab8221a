import { spawnSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FONT_FILES, faceOf, type FaceName } from '../../tests/made/faces';
import { TextFace } from './shaping';

/** What HarfBuzz’s own program makes of a text of one script and direction; it stands on most Debian machines. */
interface Told {
  g: number;
  dx: number;
  dy: number;
  ax: number;
}
const SHAPER = '/usr/bin/hb-shape';
const hasShaper = spawnSync(SHAPER, ['--version']).status === 0;
function told(file: string, text: string): Told[] {
  const { stdout, status } = spawnSync(SHAPER, ['--output-format=json', '--no-glyph-names', file, text], { encoding: 'utf8' });
  expect(status).toBe(0);
  return JSON.parse(stdout) as Told[];
}

/** A line as whole units of the font. */
function units(name: FaceName, text: string) {
  const face = faceOf(name);
  let x = 0;
  return face.line(text).glyphs.map(({ id, x: at, y, advance }) => {
    const one = {
      g: id,
      dx: Math.round((at - x) * face.upem),
      dy: Math.round(y * face.upem),
      ax: Math.round(advance * face.upem)
    };
    x += advance;
    return one;
  });
}

const TEXTS: [FaceName, string][] = [
  ['latin', 'AVATAR To Wave'],
  ['latin', 'Łódź, Žižkov & Ærø'],
  ['latin', 'e\u0301tude o\u0308'],
  ['serif', 'office fluff Taxi'],
  ['latin', 'Ξεσκεπάζω τὴν ψυχοφθόρα'],
  ['latin', 'Съешь ещё этих'],
  ['arabic', 'السلام عليكم'],
  ['arabic', 'لا إله'],
  ['arabic', 'מזל טוב'],
  ['devanagari', 'क्षत्रिय हिन्दी'],
  ['devanagari', 'श्री र्क्षि ज्ञान']
];

describe.skipIf(!hasShaper)('lettering of one script', () => {
  it.each(TEXTS)('in %s, %s, is shaped as HarfBuzz itself does', (name, text) => {
    const wanted = told(FONT_FILES[name], text);
    expect(wanted.length).toBeGreaterThan(2);
    expect(units(name, text)).toEqual(wanted.map(({ g, dx, dy, ax }) => ({ g, dx, dy, ax })));
  });
});

describe('a line', () => {
  const clusters = (name: FaceName, text: string) =>
    faceOf(name)
      .line(text)
      .glyphs.map(({ cluster }) => cluster);

  it('of two directions is ordered as it is read', () => {
    // Latin, then a word from right to left that the number after it belongs to, itself as it is.
    const text = 'No אבג 12 x';
    expect(clusters('arabic', text)).toEqual([0, 1, 2, 7, 8, 6, 5, 4, 3, 9, 10]);
    const other = 'אב 12 גד';
    expect(clusters('arabic', other)).toEqual([7, 6, 5, 3, 4, 2, 1, 0]);
  });

  it('turns brackets round where it runs from right to left', () => {
    const face = faceOf('arabic');
    const [first] = face.line('(א)').glyphs;
    expect(first!.id).toBe(face.line('(').glyphs[0]!.id);
  });

  it('tells what the font does not have, each once, and where its ink is', () => {
    const { missing, ink, width } = faceOf('latin').line('a 漢字漢 b');
    expect(missing).toEqual(['漢', '字']);
    expect(ink!.right).toBeGreaterThan(0);
    expect(ink!.left).toBeLessThan(0.2);
    expect(width).toBeGreaterThan(ink!.right - 0.2);
    expect(faceOf('latin').line('   ').ink).toBeUndefined();
    expect(faceOf('latin').line('')).toEqual({ glyphs: [], width: 0, ink: undefined, missing: [] });
  });

  it('is as much wider as its letters are set apart, and marks stay with their letters', () => {
    const face = faceOf('serif');
    const plain = face.line('fi ab');
    const apart = face.line('fi ab', 0.1);
    expect(apart.glyphs).toHaveLength(5);
    expect(apart.width).toBeCloseTo(face.line('f').width + face.line('i').width + face.line(' ab').width + 0.4, 6);
    expect(plain.width).toBeLessThan(apart.width);
    const marked = faceOf('devanagari').line('कि', 0.5);
    expect(marked.width).toBeCloseTo(faceOf('devanagari').line('कि').width, 6);
  });

  it('is whole whatever is written', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 30 }), (text) => {
        const { glyphs, width } = faceOf('arabic').line(text);
        expect(Number.isFinite(width)).toBe(true);
        for (const { cluster, x } of glyphs) expect(cluster < text.length && Number.isFinite(x)).toBe(true);
      })
    );
  });
});

describe('a font', () => {
  it('that is none is refused', () => {
    expect(() => new TextFace(new Uint8Array(400))).toThrow(/no letters, or it is broken/);
    expect(() => new TextFace(new Uint8Array(0))).toThrow();
  });
});
