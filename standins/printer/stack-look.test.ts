import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { deltaE00, xyzToLab, type Triple } from '$core/colour/lab';
import { scattering, stackXyz, xyzOf, type Ground, type View } from '$core/colour/stack-look';
import type { LaidLayer } from '$core/inks/stack';
import { Physics } from './physics';
import { glossOf, groundOf, seenLayers, type CellLayer } from './stack-look';

const physics = new Physics('gloss');
const paper: Ground = { body: 'opaque', colour: physics.white };
const clear = groundOf('clear', '#ffffff');
const black = groundOf('dark', '#1a1a1c');
const front = (hex: string): View => ({ from: 'front', backing: xyzOf(hex) });
const behind = (hex: string): View => ({ from: 'behind', backing: xyzOf(hex) });
const CYAN: CellLayer = [0.8, 0, 0, 0];
const MAGENTA: CellLayer = [0, 0.8, 0, 0];
const NONE: CellLayer = [0, 0, 0, 0];
const colour: LaidLayer = { ink: 'colour' };
const white: LaidLayer = { ink: 'white' };
const lab = (layers: LaidLayer[], cell: CellLayer[], ground: Ground, view: View) =>
  xyzToLab(stackXyz(seenLayers(layers, cell, physics), ground, view));

describe('a scattering layer', () => {
  it('lightens what is dark, the more the thicker it is, and hides it in the end', () => {
    const amount = fc.double({ min: 0, max: 3, noNaN: true });
    fc.assert(
      fc.property(fc.double({ min: 0, max: 0.9, noNaN: true }), amount, amount, (beneath, p, q) => {
        const [thin, thick] = [Math.min(p, q), Math.max(p, q)];
        expect(scattering(beneath, thick)).toBeGreaterThanOrEqual(scattering(beneath, thin) - 1e-9);
        expect(scattering(beneath, thick)).toBeLessThanOrEqual(0.9 + 1e-9);
      })
    );
    expect(scattering(0.3, 0)).toBe(0.3);
    expect(Math.abs(scattering(0.02, 6) - scattering(0.8, 6))).toBeLessThan(0.01);
  });
});

describe('a stack', () => {
  it('of colour alone on white media is what the media and its inks are', () => {
    for (const cell of [CYAN, MAGENTA, NONE, [0.2, 0.3, 0.1, 0.4]])
      expect(deltaE00(lab([colour], [cell], paper, front('#ffffff')), xyzToLab(physics.xyz(cell)))).toBeLessThan(0.01);
  });

  it('on dark media is dark without white, and its colour comes back with it', () => {
    const without = lab([colour], [CYAN], black, front('#ffffff'));
    const once = lab([white, colour], [[1], CYAN], black, front('#ffffff'));
    const twice = lab([white, colour], [[2], CYAN], black, front('#ffffff'));
    const onPaper = xyzToLab(physics.xyz(CYAN));
    expect(without[0]).toBeLessThan(15);
    expect(deltaE00(twice, onPaper)).toBeLessThan(deltaE00(once, onPaper));
    expect(deltaE00(once, onPaper)).toBeLessThan(deltaE00(without, onPaper));
    expect(deltaE00(twice, onPaper)).toBeLessThan(12);
  });

  it('on clear media shows what is behind it, less where white lies', () => {
    const over = (hex: string) => lab([white, colour], [[1.6], NONE], clear, front(hex))[0];
    expect(over('#ffffff') - over('#000000')).toBeLessThan(12);
    const bare = (hex: string) => lab([white, colour], [[0], NONE], clear, front(hex))[0];
    expect(bare('#ffffff') - bare('#000000')).toBeGreaterThan(85);
  });

  it('is seen from behind in the other order: the colour that lies on the media, and white behind it', () => {
    const window: LaidLayer[] = [colour, white];
    const cell = [CYAN, [2]];
    const chroma = ([, a, b]: Triple) => Math.hypot(a, b);
    const seen = lab(window, cell, clear, behind('#000000'));
    expect(chroma(seen)).toBeGreaterThan(35);
    // From the front there is hardly more than white.
    expect(chroma(lab(window, cell, clear, front('#000000')))).toBeLessThan(15);
    // Colours on both sides of white do not mix.
    const both = [CYAN, [2], MAGENTA];
    const layers = [colour, white, colour];
    expect(lab(layers, both, clear, front('#ffffff'))[1]).toBeGreaterThan(30);
    expect(lab(layers, both, clear, behind('#ffffff'))[1]).toBeLessThan(-10);
  });

  it('lets nobody look through what is not clear', () => {
    expect(lab([colour], [CYAN], paper, behind('#000000'))).toEqual(lab([colour], [CYAN], paper, front('#000000')));
  });

  it('shines where varnish lies, as that is cured', () => {
    const gloss = (curing: 'gloss' | 'matt', amount: number) =>
      glossOf([colour, { ink: 'varnish', curing }], [CYAN, [amount]], 0.4);
    expect(gloss('gloss', 1)).toBeGreaterThan(0.85);
    expect(gloss('matt', 1)).toBeLessThan(0.2);
    expect(gloss('gloss', 0)).toBe(0.4);
  });
});
