import type { ChartLayout } from '$core/charts/chart-layout';
import type { Allowed, ChartKind } from '$core/charts/patches';
import type { Triple } from '$core/colour/lab';
import type { Variant } from '$lib/variants';
import type { Inks, InkLimits } from '$core/colour/separation';

/** What charts hold and how they are printed, from what is given alone. */

export interface ChartRow {
  id: number;
  condition_id: number;
  kind: ChartKind;
  /** Of which it is, where it is of a colour. */
  colour_id: number | null;
  docket_id: number | null;
  document: string;
  readings: string;
  read_at: number | null;
  made_at: number;
}

export interface ChartDocument {
  layout: ChartLayout;
  /** Wanted colours of patches, against the media. */
  asked: Record<string, Triple>;
  /** The curves and profile that the condition had; charts of before this was kept have none. */
  madeOf?: string;
  /** Of a docket's tone, lettered in their order. */
  variants?: Variant[];
}

/** Ladders are printed raw, everything after them through the curves. */
export const isRaw = (kind: ChartKind) => kind === 'limits' || kind === 'linear';

/** Whether inks stay within limits, through the curves that they are printed with. */
export function within(curves: readonly (readonly number[])[], limits: Omit<InkLimits, 'amounts'>): Allowed {
  const ink = (inks: Readonly<Inks>, mask: number) =>
    inks.reduce((sum, v, i) => sum + ((mask >> i) & 1 ? (curves[i]![Math.round(v * 255)] ?? 0) : 0), 0);
  return (inks) =>
    ink(inks, 15) <= limits.total + 1e-9 &&
    ink(inks, 6) <= (limits.red ?? 9) &&
    ink(inks, 5) <= (limits.green ?? 9) &&
    ink(inks, 3) <= (limits.blue ?? 9);
}
