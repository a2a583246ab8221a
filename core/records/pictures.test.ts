import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ALONG, DOWN, FITS, type PictureField } from './field';
import { newPicture } from './new-field';
import { placePicture, plainPicture, ppiInField } from './pictures';

const field = (more: Partial<PictureField>): PictureField => ({
  ...newPicture([], { x: 5, y: 5, width: 40, height: 20, turn: 0 }),
  ...more
});

describe('a picture', () => {
  it('is found by its name, whatever folder, ending, case and signs it is written with', () => {
    for (const name of ['Ada Vik.JPG', 'portraits/ada_vik.jpeg', 'C:\\Pictures\\ADA-VIK', ' ada vik .png', 'Ádà Vik.tif'])
      expect(plainPicture(name)).toBe('adavik');
    expect(plainPicture('crew.2.jpg')).toBe('crew2');
    expect(plainPicture('no.ending')).toBe('noending');
    expect(plainPicture('folder/')).toBe('');
  });

  it('whole in its place never reaches out of it, filling it leaves nothing free, and keeps its shape', () => {
    const side = fc.integer({ min: 1, max: 20_000 });
    fc.assert(
      fc.property(
        side,
        side,
        fc.constantFrom(...FITS),
        fc.constantFrom(...ALONG),
        fc.constantFrom(...DOWN),
        (width, height, fit, along, down) => {
          const one = field({ fit, along, down });
          const box = placePicture(one, { width, height });
          expect(box.width / box.height / (width / height)).toBeCloseTo(1, 9);
          const [left, right] = [box.x, box.x + box.width - one.place.width];
          const [top, bottom] = [box.y, box.y + box.height - one.place.height];
          const touches = Math.min(Math.abs(box.width - one.place.width), Math.abs(box.height - one.place.height));
          expect(touches).toBeLessThan(1e-9);
          const out = fit === 'whole' ? [-left, right, -top, bottom] : [left, -right, top, -bottom];
          for (const by of out) expect(by).toBeLessThan(1e-6);
          if (along === 'left') expect(left).toBeCloseTo(0, 9);
          if (down === 'bottom') expect(bottom).toBeCloseTo(0, 6);
        }
      )
    );
  });

  it('tells how fine it is where it lies', () => {
    // 400 pixels on 40 mm, or on 20 mm of a square in a place that is 40 × 20.
    expect(ppiInField(field({ fit: 'filled' }), { width: 400, height: 400 })).toBeCloseTo(254, 6);
    expect(ppiInField(field({ fit: 'whole' }), { width: 400, height: 400 })).toBeCloseTo(508, 6);
  });
});
