import type { DropCounts } from '$core/inks/drops';
import type { Pin, Placement, Stock, StockJig } from '$core/layout/placement';
import type { RunPiece } from '$core/layout/run-piece';
import type { RipPlan } from '$core/rip/plan';
import { RunRule, type RunState } from '$lib/run-rule';
import type { Condition } from '../conditions/condition';
import type { Docket } from '../dockets/dockets';
import type { TaskProgress } from '../platform/events';
import { parsedOnce } from '../platform/parsed-once';

export interface RunDocketRow {
  docket_id: number;
  copies: number | null;
  first: number;
  held: number;
  /** Numbers of records, one a copy; nothing for the docket's own from the first copy on. */
  records: string | null;
  /** Pairs of a piece and how many copies of it, where only some are in the run. */
  pieces: string | null;
  /** How its wall was divided when these were chosen, or RIPped last. */
  division: string | null;
}

export interface RunRow {
  id: number;
  condition_id: number;
  rule: string;
  state: RunState;
  result: string | null;
  plates_name: string | null;
  version: number;
  chart_id: number | null;
  lane_id: number | null;
  pins: string;
  plan_key: string | null;
  released_at: number | null;
  by_hand: number;
  times: number;
  /** How often it came out whole. */
  came: number;
  added_at: number;
}

/** How large a run was RIPped, mm. */
export type RunSize = Pick<RipPlan, 'widthMm' | 'lengthMm'>;

/** The rule of a run or lane, as it is kept. */
export const ruleOf = parsedOnce((rule) => RunRule.parse(rule));

export interface RunResult {
  widthPx: number;
  heightPx: number;
  bytes: number;
  drops: DropCounts[];
  /** By ink of the machine. */
  inkMl: number[];
  /** The same by docket; older ones do not say it. */
  inkByDocket?: Record<number, number[]>;
  seconds: number;
}

/** Plates of before said a docket's ink in all: it is of each ink what all is. */
export function resultOf(text: string): RunResult {
  const result = JSON.parse(text) as Omit<RunResult, 'inkByDocket'> & { inkByDocket?: Record<number, number | number[]> };
  const all = result.inkMl.reduce((sum, ml) => sum + ml, 0);
  const byInk = (ml: number) => result.inkMl.map((ink) => (all === 0 ? 0 : (ml * ink) / all));
  const dockets = Object.entries(result.inkByDocket ?? {}).map(([id, ml]) => [id, typeof ml === 'number' ? byInk(ml) : ml]);
  return {
    ...result,
    ...(result.inkByDocket && { inkByDocket: Object.fromEntries(dockets) as Record<number, number[]> })
  } as RunResult;
}

export interface Run {
  id: number;
  state: RunState;
  rule: RunRule;
  version: number;
  laneId: number | null;
  condition: Condition;
  stock: Stock;
  /** Its jig as that is kept, not as it lies on the sheet; none once it is printed. */
  jig: StockJig | null;
  /** All of them, in the order of the list. */
  dockets: Docket[];
  /** Of every docket: how many of its copies are in this run (nothing for all), how many were in earlier ones, and whether it is held. */
  entries: {
    docketId: number;
    copies: number | null;
    first: number;
    held: boolean;
    /** Of a wall, how many copies of which panels, where only some are in it. */
    pieces: [piece: number, copies: number][] | null;
  }[];
  /** Pieces of the dockets that are not held, as they are laid out. */
  laid: RunPiece[];
  pins: Pin[];
  layout: Placement;
  /** The layout is one in rows until a better one is found. */
  provisional: boolean;
  /** When it was released to print; nothing while it waits for that. */
  releasedAt: number | null;
  /** Only a person releases it: one took it back, or it went wrong. */
  byHand: boolean;
  /** How often it is to be printed, since equal sheets are one run; and how often it came out whole. */
  times: number;
  came: number;
  result: RunResult | null;
  /** Its plates are there: those of printed runs are deleted after a while. */
  hasPlates: boolean;
  /** The plates are of an older layout. */
  stale: boolean;
  task: TaskProgress | null;
  /** Why it cannot be printed as its dockets are now: a wall of it is divided otherwise, or one is for another media. */
  hindrance: string | null;
}
