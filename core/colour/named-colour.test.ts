import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readLab, showLab } from './named-colour';

describe('L*a*b* as it is typed', () => {
  it.each([
    ['48.5 62.1 -33.25', [48.5, 62.1, -33.25]],
    ['48.5, 62.1, −33.25', [48.5, 62.1, -33.25]],
    ['48,5 62,1 -33,25', [48.5, 62.1, -33.25]],
    ['48,5; 62,1; −33,25', [48.5, 62.1, -33.25]],
    ['48,62,-33', [48, 62, -33]],
    ['L* 48.5 a* 62.1 b* -33', [48.5, 62.1, -33]],
    ['L=48.5; a=62.1; b=-33', [48.5, 62.1, -33]]
  ])('%s', (text, lab) => expect(readLab(text)).toEqual(lab));

  it.each(['', '48', '48 62', '48 62 33 1', '148 0 0', '48 sixty 3', '48 200 0'])('“%s” is none', (text) =>
    expect(readLab(text)).toBeUndefined()
  );

  it('comes back as it is shown', () => {
    const figure = (least: number, most: number) => fc.integer({ min: least * 10, max: most * 10 }).map((v) => v / 10);
    fc.assert(
      fc.property(figure(0, 100), figure(-120, 120), figure(-120, 120), (...lab) => {
        expect(readLab(showLab(lab))).toEqual(lab.map((v) => v + 0));
      })
    );
  });
});
