import type { InkLimits } from '$core/colour/separation';
import type { Band, RipPlan, SpriteKey } from '$core/rip/plan';
import type { DropCounts } from '$core/inks/drops';
import type { Mixture } from '$core/inks/mixture';
import type { Halftone } from '$core/screening/screener';

/** Everything that a RIP needs, as files and plain data, so that any process could do it. */
export interface RipJob {
  /** Tells one job from the next: a thread keeps what it has opened for the job at hand. */
  id: string;
  plan: RipPlan;
  /** The condition's profile. Files of the plan's pieces and of their sources are paths. */
  profile: string;
  /** By channel of the profile, 256 values → share of the fullest drop. */
  curves: number[][];
  /** What goes before them. */
  mixture?: Mixture | undefined;
  /** What named colours may take of ink. */
  limits: InkLimits;
  kernels: string;
  mask: string;
  method: Halftone;
}

/** A job as all threads see it: said once, and not sent to each of them with every band. */
export interface SharedJob {
  id: string;
  /** The job as JSON. */
  json: SharedArrayBuffer;
}

export function shareJob(job: RipJob): SharedJob {
  const bytes = new TextEncoder().encode(JSON.stringify(job));
  const json = new SharedArrayBuffer(bytes.length);
  new Uint8Array(json).set(bytes);
  return { id: job.id, json };
}

/** The job of its shared form, a copy of the thread's own. */
export const ownJob = ({ json }: SharedJob): RipJob =>
  JSON.parse(new TextDecoder().decode(Uint8Array.from(new Uint8Array(json)))) as RipJob;

export interface SharedSprite {
  key: SpriteKey;
  buffer: SharedArrayBuffer;
}

export interface SpriteRequest {
  job: SharedJob;
  sprite: SharedSprite;
}

export interface BandRequest {
  job: SharedJob;
  band: Band;
  sprites: SharedSprite[];
  plates: string;
  overview: string;
  coarse: string;
  /** One BigInt64: where the next strip may go in the plate file. */
  end: SharedArrayBuffer;
  /** Error diffusion only: one Int32, the band whose turn it is, and then the errors. */
  errors?: SharedArrayBuffer;
}

/** What groups of pieces have of a run's ink is asked for by its coarse means. */
export interface InkRequest {
  plan: RipPlan;
  /** By piece of the plan. */
  groupOf: number[];
  groups: number;
  coarse: string;
}

export interface BandReport {
  index: number;
  offset: number;
  sizes: number[];
  drops: DropCounts[];
}
