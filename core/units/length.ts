/** Lengths are millimetres throughout; this module prints the units that people write, and typed.ts reads them. */

export const MM_PER_INCH = 25.4;
export const MM_PER_POINT = 25.4 / 72;

export type LengthUnit = 'mm' | 'cm' | 'm' | 'in' | 'ft' | 'pt';

/** Millimetres by unit. */
export const MM_PER: Record<LengthUnit, number> = {
  mm: 1,
  cm: 10,
  m: 1000,
  in: MM_PER_INCH,
  ft: 12 * MM_PER_INCH,
  pt: MM_PER_POINT
};

const DECIMALS: Record<LengthUnit, number> = { mm: 1, cm: 2, m: 3, in: 3, ft: 3, pt: 1 };

/** Prints a length for a person, without needless zeros: `90 mm`, `1.04 m`. */
export function formatLength(mm: number, unit: LengthUnit = 'mm', decimals = DECIMALS[unit]): string {
  return `${formatFigure(mm / MM_PER[unit], decimals)} ${unit}`;
}

/** The same as close as it was typed: a hundredth of a millimetre below 10 mm, a thousandth below 1 mm. */
export function formatClosely(mm: number, unit: LengthUnit = 'mm'): string {
  const more = Math.abs(mm) < 1 ? 2 : Math.abs(mm) < 10 ? 1 : 0;
  return formatLength(mm, unit, DECIMALS[unit] + more);
}

/** What a shop may measure in. */
export const SHOP_UNITS = ['mm', 'cm', 'in'] as const;
export type ShopUnit = (typeof SHOP_UNITS)[number];

/** What the shop takes for what is long: rolls, runs, walls. */
export const longUnit = (unit: ShopUnit): 'm' | 'ft' => (unit === 'in' ? 'ft' : 'm');

/** Decimals that come as near as media are sold by: a millimetre, or a tenth of an inch. */
const NEAR: Record<ShopUnit, number> = { mm: 0, cm: 1, in: 1 };

/** Prints how wide media is: `1300 mm`, `51.2 in`. */
export function formatWidth(mm: number, unit: ShopUnit): string {
  return formatLength(mm, unit, NEAR[unit]);
}

/** Prints a sheet of media: `1300 × 900 mm`. */
export function formatSheet(widthMm: number, heightMm: number, unit: ShopUnit): string {
  return `${formatFigure(widthMm / MM_PER[unit], NEAR[unit])} × ${formatWidth(heightMm, unit)}`;
}

/** A side of a finished size as near as it is asked for, without its unit: what stands in a column. */
export function sizeFigure(mm: number, unit: ShopUnit): string {
  return formatFigure(mm / MM_PER[unit], { mm: 1, cm: 2, in: 2 }[unit]);
}

/** Prints a finished size: `101.6 × 76.2 mm`. */
export function formatSize(widthMm: number, heightMm: number, unit: ShopUnit): string {
  return `${sizeFigure(widthMm, unit)} × ${sizeFigure(heightMm, unit)} ${unit}`;
}

/** Prints a length of a roll: always two decimals, as on a tape. */
export function formatTape(mm: number, unit: ShopUnit): string {
  const long = longUnit(unit);
  return `${(mm / MM_PER[long]).toFixed(2)} ${long}`;
}

/** What areas of media are told in, and how many m² one of it is. */
export function areaUnit(unit: ShopUnit): { name: string; m2: number } {
  const long = longUnit(unit);
  return { name: `${long}²`, m2: (MM_PER[long] / 1000) ** 2 };
}

/** Prints an area that is given in m². */
export function formatArea(m2: number, unit: ShopUnit, decimals = 2): string {
  const one = areaUnit(unit);
  return `${(m2 / one.m2).toFixed(decimals)} ${one.name}`;
}

/** A figure with at most `decimals` places and no trailing zeros. */
export function formatFigure(value: number, decimals: number): string {
  const text = value.toFixed(decimals);
  const trimmed = text.includes('.') ? text.replace(/\.?0+$/, '') : text;
  return trimmed === '-0' ? '0' : trimmed;
}

/** Device pixels that cover a length, rounded to the nearest whole pixel. */
export function pixels(mm: number, dpi: number): number {
  return Math.round((mm * dpi) / MM_PER_INCH);
}
