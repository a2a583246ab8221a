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

/** Prints metres for roll lengths: always two decimals, as on a tape. */
export function formatMetres(mm: number): string {
  return `${(mm / 1000).toFixed(2)} m`;
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
