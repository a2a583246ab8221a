import type { DropVolumes } from '$core/inks/drops';
import type { LaidLayer } from '$core/inks/stack';
import type { Black, Body, Handling, Surface } from '$core/media/card';
import type { LyingThing } from './bed';
import type { Unit } from './physics';

/** What a printer is told, and what it knows of its media, its faults and its jobs. */

export interface LoadedMedia {
  name: string;
  surface: Surface;
  body?: Body | undefined;
  /** As it looks on white. */
  colour?: string | undefined;
  widthMm: number;
  /** Left on the roll. */
  lengthMm: number;
  /** On a flatbed: how long a sheet is, and how many are left. */
  sheetMm?: number | undefined;
  sheets?: number | undefined;
  /** Of a roll, as it was said when it was loaded. */
  batch?: string | undefined;
}

export interface MediaChange {
  key: string | null;
  was: LoadedMedia;
}

export interface Faults {
  mediaOut: boolean;
  inkOut: boolean;
  coverOpen: boolean;
  /** The machine goes off the network when half of the next job is printed, for this many seconds, and drops the job. */
  lostForSeconds: number;
  /** The same, but that it prints on: it answers nobody meanwhile. */
  silentForSeconds: number;
}

/** What a job says of the media that it is for. */
export interface Wanted {
  name: string;
  widthMm: number;
  lengthMm: number;
}

/** What a program says of a job before it sends the plates. */
export interface JobTicket {
  name: string;
  /** The sender's own name for it: asked for again, it is the same job. */
  key: string | null;
  /** By ink, what the plates were made for. */
  drops: DropVolumes[];
  handling: Handling | null;
  media: Wanted | null;
  /** How high what is printed on stands above the sheet; nothing where it was not said. */
  thicknessMm: number | null;
  /** It lies on the bed already: the machine takes no sheet for it. */
  onBed: boolean;
  /** How each layer of varnish is cured, from the media upwards; gloss where nothing is said. */
  curing: LaidLayer['curing'][];
  black: Black;
  /** Of its print mode; as the machine usually prints where it was not said. */
  passes: number | null;
  oneWay: boolean;
}

export interface PrinterJob {
  id: number;
  name: string;
  key: string | null;
  media: Wanted | null;
  thicknessMm?: number | null;
  onBed?: boolean;
  /** What lay on the bed when it was printed. */
  things?: LyingThing[];
  state: number;
  reason: string;
  widthMm: number;
  lengthMm: number;
  printedMm: number;
  /** How long it has printed. */
  seconds: number;
  inkMl: number[];
  columns: number;
  rows: number;
  output: string;
  /** Mean amounts of ink of every cell of the output: what an instrument sees. */
  amounts: string;
  /** The layers that it was printed in; one of colour for a job of an earlier version. */
  layers?: LaidLayer[];
  curing?: LaidLayer['curing'][];
  black?: Black;
  passes?: number | null;
  oneWay?: boolean;
  body?: Body | undefined;
  colour?: string | undefined;
  /** mm of a cell; ink of a full drop on every pixel, pl an inch². */
  cellMm: { x: number; y: number };
  load: number;
  surface: Surface;
  /** How the machine was when it printed. */
  unit: Unit;
  /** By ink, what the plates were made for. */
  drops: DropVolumes[];
  /** How the media was set to be treated; nothing where it was not said. */
  handling: Handling | null;
}
