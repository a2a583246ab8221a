import { describe, expect, it } from 'vitest';
import { codeField, nameField } from '../../tests/made/fields';
import { fontsOfField, layCodeField } from './code-field';

describe('a code with what it says below it', () => {
  const field = { ...codeField, kind: 'EAN-13' as const, below: true };

  it('leaves room for its lettering, which has the check digit too', () => {
    const { laid, label } = layCodeField(field, '590123412345', 720);
    const bottom = Math.max(...laid.dark.map(({ y, height }) => y + height));
    expect(label!.text).toBe('5901234123457');
    expect(label!.top).toBeGreaterThan(bottom);
    expect(label!.top + label!.field.place.height).toBeCloseTo(field.place.height, 9);
    const alone = layCodeField({ ...field, below: false }, '590123412345', 720);
    expect(alone.label).toBeUndefined();
    expect(Math.max(...alone.laid.dark.map(({ y, height }) => y + height))).toBeCloseTo(field.place.height, 9);
  });

  it('needs a font for it, and only then', () => {
    expect(fontsOfField(field)).toEqual(['Arimo']);
    expect(fontsOfField(codeField)).toEqual([]);
    expect(fontsOfField({ ...nameField, font: 'Tinos' })).toEqual(['Tinos']);
  });
});
