import type { Registration } from '$core/cutting/registration';
import type { CutLine } from '$core/cutting/order';
import type { Box } from '$core/geometry/box';
import type { Mark } from '$core/marks/print-list';
import type { FrozenRun } from '../production/frozen-run';
import type { KnifeChoice } from '$core/media/knife';

/** What cut lines are written as, for cutters that are not sent them. */
export const CUT_FORMS = {
  svg: 'image/svg+xml',
  dxf: 'image/vnd.dxf',
  pdf: 'application/pdf',
  hpgl: 'application/vnd.hp-hpgl'
} as const;
export type CutForm = keyof typeof CUT_FORMS;

/** What a person says of a print that needs no cutter here any more. */
export const CUT_CLOSED = ['cut elsewhere', 'not to be cut'] as const;
export type CutClosed = (typeof CUT_CLOSED)[number];

export interface CutRow {
  id: number;
  code: string;
  print_code: string | null;
  print_id: number;
  state: 'waiting' | 'loaded' | 'registered' | 'cutting' | 'cut';
  knife: string;
  registration: string | null;
  sheet: string | null;
  reason: string | null;
  lines_cut: number;
  line_offset: number;
  machine_id: number | null;
  /** By a cutter that asks; else its lines are sent. */
  asked: number;
  reach_mm: number | null;
  /** How far a print that broke off is cut, mm along the run. */
  part_mm: number | null;
  allowed: number;
  /** By a person; its state is 'cut' then. */
  closed: CutClosed | null;
  hpgl_hash: string | null;
  added_at: number;
  cut_at: number | null;
}

/** What is cut of a print: of its plates as they were made. */
export interface CutPlan {
  widthMm: number;
  lengthMm: number;
  marks: Mark[];
  codes?: Box[];
  cuts: FrozenRun['cuts'];
  inOrder?: boolean | undefined;
}

export interface CutTask {
  id: number;
  code: string;
  state: CutRow['state'];
  /** What a person said of it, where no cutter of the shop cut it; it counts as cut then. */
  closed: CutClosed | null;
  /** What a person should know before it is cut again. */
  reason: string | null;
  printId: number;
  runId: number;
  names: string[];
  knife: KnifeChoice;
  registration: Registration | null;
  /** Of its lines, in their order. */
  linesCut: number;
  /** The cutter that it lies in, or lay in last. */
  machineId: number | null;
  /** That asked for it, going along a roll; else it was laid in by itself. */
  onRoll: boolean;
  addedAt: number;
  cutAt: number | null;
}

export interface CutDetail extends CutTask {
  /** The print that is to be cut, mm. */
  widthMm: number;
  lengthMm: number;
  marks: { x: number; y: number; diameter: number }[];
  /** Where its code stands. */
  codes: Box[];
  /** In cutting order, run coordinates. */
  lines: CutLine[];
  cutMm: number;
  travelMm: number;
  secondsAtSpeed: number;
}
