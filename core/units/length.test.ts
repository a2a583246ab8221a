import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatArea, formatSheet, formatSize, formatTape, formatWidth, SHOP_UNITS, sizeFigure } from './length';
import { parseLength } from './typed';

const units = fc.constantFrom(...SHOP_UNITS);
const mm = (max: number) => fc.double({ min: 0, max, noNaN: true });

describe('lengths as a shop reads them', () => {
  it('of one roll and one sheet in each unit', () => {
    const said = SHOP_UNITS.map((unit) => [
      formatWidth(1300.4, unit),
      formatSheet(2440, 1220, unit),
      formatSize(101.6, 76.2, unit),
      formatTape(2020, unit),
      formatArea(2.626, unit)
    ]);
    expect(said).toEqual([
      ['1300 mm', '2440 × 1220 mm', '101.6 × 76.2 mm', '2.02 m', '2.63 m²'],
      ['130 cm', '244 × 122 cm', '10.16 × 7.62 cm', '2.02 m', '2.63 m²'],
      ['51.2 in', '96.1 × 48 in', '4 × 3 in', '6.63 ft', '28.27 ft²']
    ]);
  });

  it('are typed back as near as they are shown', () => {
    fc.assert(
      fc.property(units, mm(5000), mm(200_000), (unit, across, along) => {
        expect(Math.abs(parseLength(formatWidth(across, unit)) - across)).toBeLessThan(1.3);
        // A tenth of a millimetre, or a hundredth of an inch.
        expect(Math.abs(parseLength(`${sizeFigure(across, unit)} ${unit}`) - across)).toBeLessThan(unit === 'in' ? 0.128 : 0.051);
        // Half a centimetre, or half a hundredth of a foot.
        expect(Math.abs(parseLength(formatTape(along, unit)) - along)).toBeLessThan(5.01);
      })
    );
  });

  it('agree with the area that they make', () => {
    fc.assert(
      fc.property(units, fc.double({ min: 500, max: 5000, noNaN: true }), mm(50_000), (unit, across, along) => {
        const [side, length] = [across, along].map((one) => Number.parseFloat(formatTape(one, unit))) as [number, number];
        const area = Number.parseFloat(formatArea((across * along) / 1e6, unit));
        expect(Math.abs(area - side * length)).toBeLessThan(0.01 + 0.005 * (side + length + 0.01));
      })
    );
  });
});
