import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { PdfObjects, pdfName, pdfNumber } from './pdf-objects';
import { openBytes } from '../../tests/made/opened';

describe('a PDF written object by object', () => {
  it('has figures without exponents, as near as they are asked for', () => {
    fc.assert(
      fc.property(fc.double({ min: -1e7, max: 1e7, noNaN: true }), fc.integer({ min: 0, max: 7 }), (value, decimals) => {
        const text = pdfNumber(value, decimals);
        expect(text).toMatch(/^-?\d*\.?\d+$|^-?\d+$/);
        expect(Math.abs(Number(text) - value)).toBeLessThanOrEqual(0.5000001 * 10 ** -decimals);
      })
    );
    expect(pdfNumber(Infinity)).toBe('0');
    expect(pdfNumber(1e-9, 4)).toMatch(/^-?0$/);
  });

  it('has names of any letters, and opens', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', minLength: 1, maxLength: 20 }), (name) => {
        expect(pdfName(name)).toMatch(/^\/[A-Za-z0-9_.#-]+$/);
      })
    );
    const objects = new PdfObjects();
    const pages = objects.reserve();
    const contents = objects.reserve();
    objects.putContent(contents, '', '/Cut#20line cs 0 0 9 9 re f');
    const leaf = objects.add(`/Type/Page/Parent ${pages} 0 R/MediaBox[0 0 9 9]/Contents ${contents} 0 R`);
    objects.put(pages, `/Type/Pages/Kids[${leaf} 0 R]/Count 1`);
    const bytes = objects.finish(objects.add(`/Type/Catalog/Pages ${pages} 0 R`));
    const document = openBytes(bytes);
    expect(document.countPages()).toBe(1);
    expect(document.wasRepaired()).toBe(false);
  });
});
