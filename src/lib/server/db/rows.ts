/** Rows as SQLite gives them; documents are JSON texts. */

export interface ArtworkRow {
  id: number;
  name: string;
  file_hash: string;
  bytes: number;
  state: 'reading' | 'ready' | 'refused';
  reason: string | null;
  pdf_hash: string | null;
  facts: string | null;
  added_at: number;
}

export interface MachineRow {
  id: number;
  kind: 'printer' | 'cutter' | 'instrument';
  name: string;
  url: string;
  model: string;
  handling: string | null;
  inks: string | null;
  cost_per_hour: number;
  bed: 'roll' | 'flatbed';
}

export interface LaneRow {
  id: number;
  machine_id: number;
  media_id: number;
  condition_id: number;
  rule: string;
  release: string;
  width_mm: number | null;
  height_mm: number | null;
  changed_at: number;
  released_on: string;
}

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
}

export interface DocketRow {
  id: number;
  artwork_id: number;
  page: number;
  name: string;
  customer: string;
  due_on: string;
  note: string;
  priority: 'low' | 'normal' | 'high';
  choices: string;
  version: number;
  step: number;
  previous_artwork_id: number | null;
  previous_page: number | null;
  added_at: number;
}

export type RunState = 'laying out' | 'ripping' | 'ripped' | 'printing' | 'printed';

export interface RunRow {
  id: number;
  condition_id: number;
  rule: string;
  state: RunState;
  plan: string | null;
  result: string | null;
  plates_name: string | null;
  version: number;
  chart_id: number | null;
  lane_id: number | null;
  pins: string;
  placement: string | null;
  plan_key: string | null;
  released_at: number | null;
  by_hand: number;
  times: number;
  added_at: number;
}

export interface RunDocketRow {
  docket_id: number;
  copies: number | null;
  first: number;
  held: number;
}

export interface TaskRow {
  id: number;
  kind: 'artwork' | 'rip' | 'start' | 'build';
  subject: string;
  state: 'waiting' | 'working' | 'done' | 'failed' | 'cancelled';
  error: string | null;
  added_at: number;
  ended_at: number | null;
}

export interface PrintRow {
  id: number;
  run_id: number;
  machine_id: number;
  job: number | null;
  state: 'sending' | 'printing' | 'stopped' | 'done' | 'cancelled' | 'failed';
  reason: string | null;
  length_mm: number;
  printed_mm: number;
  from_mm: number;
  ink_ml: string;
  usage: string | null;
  started_at: number;
  ended_at: number | null;
}

export interface CutRow {
  id: number;
  code: string;
  print_id: number;
  state: 'waiting' | 'loaded' | 'registered' | 'cut';
  knife: string;
  registration: string | null;
  hpgl_hash: string | null;
  added_at: number;
  cut_at: number | null;
}
