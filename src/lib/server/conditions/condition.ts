import type { LayerPrices } from '$core/inks/ink-prices';
import type { Mixture } from '$core/inks/mixture';
import type { PrintMode } from '$core/media/modes';
import type { Family, Roll, Surface } from '$core/media/card';
import type { Press } from '$core/media/press';
import type { Step } from '$lib/calibration';
import type { WatchSummary } from '$lib/watch';

export interface ConditionRow {
  id: number;
  machine_id: number;
  media_id: number;
  mode_code: string;
  mode: string;
  seq: number;
  machine: string;
  media: string;
  card: string;
  width_mm: number | null;
  height_mm: number | null;
  bed: 'roll' | 'flatbed';
  away: number;
  machine_away: number;
  media_away: number;
  inks: string | null;
  ink_prices: string;
  layers: number;
}

export interface Condition {
  id: number;
  machineId: number;
  machine: string;
  mediaId: number;
  media: string;
  family: Family;
  surface: Surface;
  costPerM2: number;
  /** Across the roll or sheet as last loaded, or as the card says. */
  rollWidthMm: number;
  /** Rolls of its media that are in stock, beside what is loaded. */
  rolls: Roll[];
  /** The other side of a sheet; nothing on a roll. */
  sheetMm: number | null;
  mode: PrintMode;
  /** What is offered no more: itself, or all of its machine or media. */
  away: 'condition' | 'machine' | 'media' | null;
  /** What its machine lays under and over colour, and on what. */
  press: Press;
  /** What ink costs that does not cost what the shop pays for any. */
  inkPrices: LayerPrices;
  /** Where its profile comes from; none while the first is being made. */
  profile: 'start' | 'measured' | 'imported' | null;
  hasProfile: boolean;
  /** Most ink in all, shares of the fullest. */
  totalInk: number;
  /** Whether it still prints as it did: what is known of that. */
  watch: WatchSummary;
  steps: Record<Step, { state: 'open' | 'done' | 'stale'; madeAt: number | null }>;
}

/** What the RIP needs of a condition. */
export interface Colour {
  /** By channel, 256 values → share of the fullest drop: with what brings it back to its baseline, and without. */
  curves: number[][];
  plain: number[][];
  /** What goes before the curves to bring it back; nothing where they do it alone. */
  mixture: Mixture | undefined;
  profileHash: string;
}
