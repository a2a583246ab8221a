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

export interface Print {
  id: number;
  runId: number;
  machineId: number;
  machine: string;
  state: PrintRow['state'];
  reason: string | null;
  lengthMm: number;
  printedMm: number;
  /** Where in the run it began, mm: above 0 for one that went on. */
  fromMm: number;
  inkMl: number[];
  startedAt: number;
  endedAt: number | null;
}
