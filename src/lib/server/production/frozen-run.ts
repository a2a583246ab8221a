import type { Tool } from '$core/artwork/roles';
import type { InkLimits } from '$core/colour/separation';
import { evenSides, type Box, type Sides } from '$core/geometry/box';
import type { Path } from '$core/geometry/path';
import type { Flat, Letters, Mark } from '$core/marks/print-list';
import type { RipPlan } from '$core/rip/plan';
import type { DropVolumes } from '$core/inks/drops';
import { fourInks } from '$core/inks/ink-set';
import type { OverlayFiles } from '$core/layout/pieces';
import type { Mixture } from '$core/inks/mixture';
import type { Halftone } from '$core/screening/screener';
import { MOST_ROWS } from '$core/records/table';
import type { RecordsOf } from '../records/overlays';

/** Raised when a figure in it means something else than before. */
export const FROZEN_VERSION = 5;

/** A run as it was RIPped: all that its plates and cuts depend on, as plain data; files are named by hash. */
export interface FrozenRun {
  version: typeof FROZEN_VERSION;
  plan: RipPlan;
  cuts: { docket: string; piece: number; copy: number; tool: Tool; path: Path }[];
  /** They are cut in the order that they stand in. */
  inOrder?: boolean;
  method: Halftone;
  profile: string;
  /** By channel of the profile, 256 values → share of the fullest drop. */
  curves: number[][];
  /** What goes before them. */
  mixture?: Mixture | undefined;
  /** The most of two colour inks together that named colours may take, beside the plan's limit of all; none on runs from before. */
  pairs?: Pick<InkLimits, 'red' | 'green' | 'blue'>;
  /** What is printed beside what will be cut, where, and the dockets that it is cut of (a hash); none on runs from before. */
  code?: { text: string; boxes: Box[]; of?: string };
  /** Records that are drawn before the RIP begins: the sources that they lie over, and those that have a page, in their order. */
  toDraw?: { sources: number[]; of: RecordsOf; records: number[]; cut?: CutPiece[] }[];
}

/** A piece that is cut along the lettering of its record. */
interface CutPiece {
  /** Its place among those of the plan. */
  index: number;
  docket: string;
  record: number;
  copy: number;
}

/** What runs held before there was a version. */
interface Older {
  version?: number;
  drops?: DropVolumes;
  cuts: { tool?: Tool; through?: boolean; piece?: number; copy?: number }[];
  toDraw?: { source?: number; sources?: number[] }[];
  plan: {
    pieces: { turn?: number; turned?: boolean }[];
    sources: { bleedMm?: number; bleed?: Sides; overlays?: string | OverlayFiles }[];
  };
}

/** @param text as it was stored by this program or an older one */
export function thaw(text: string): FrozenRun {
  const older = JSON.parse(text) as Older;
  // One from before there were several tools tells its through cuts apart otherwise.
  for (const cut of older.cuts) cut.tool ??= cut.through ? 'through cut' : 'kiss cut';
  // One from before pieces were turned by any angle knows quarter turns only.
  for (const piece of older.plan.pieces) piece.turn ??= piece.turned ? 90 : 0;
  // One that waits for its RIP from before a piece could be several sources says the one.
  for (const one of older.toDraw ?? []) one.sources ??= one.source === undefined ? [] : [one.source];
  const frozen = older as unknown as FrozenRun;
  // Amounts of ink were 0…255.
  if ((older.version ?? 1) < 2) {
    const { marks, flats = [], rings = [], letters = [] } = frozen.plan;
    for (const printed of [...marks, ...flats, ...rings, ...letters] as (Mark | Flat | Letters)[])
      if (printed.inks) printed.inks = printed.inks.map((v) => v / 255) as typeof printed.inks;
  }
  // Every machine had four inks, and their drops stood beside the plan. A run from before print modes does not say them.
  if ((older.version ?? 1) < 3) {
    const { drops = [6, 13, 21] } = older;
    frozen.plan = { ...frozen.plan, inks: fourInks(drops), totalInk: null };
    delete older.drops;
  }
  // A docket was one piece, with as much bleed on each side. Which copy a line was of was not kept.
  if ((older.version ?? 1) < 4) {
    for (const source of older.plan.sources) {
      source.bleed ??= evenSides(source.bleedMm ?? 0);
      delete source.bleedMm;
    }
    for (const cut of older.cuts) {
      cut.piece ??= 0;
      cut.copy ??= 0;
    }
  }
  // The pages of all records lay in one file.
  if ((older.version ?? 1) < 5)
    for (const source of older.plan.sources)
      if (typeof source.overlays === 'string') source.overlays = { files: [source.overlays], each: MOST_ROWS };
  return { ...frozen, version: FROZEN_VERSION };
}
