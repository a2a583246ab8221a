export interface PrintRow {
  id: number;
  run_id: number;
  machine_id: number;
  /** What the machine is told to know it by; nothing for one of an earlier version. */
  key: string | null;
  /** The prints that were asked for at once have the same. */
  request: string | null;
  job: number | null;
  state: 'sending' | 'printing' | 'stopped' | 'done' | 'cancelled' | 'failed';
  reason: string | null;
  length_mm: number;
  printed_mm: number;
  from_mm: number;
  rest_of: number | null;
  plates: string | null;
  kept_mm: number | null;
  ink_ml: string;
  usage: string | null;
  cancelled_at: number | null;
  given_up: number;
  started_at: number;
  ended_at: number | null;
}

export interface Print {
  id: number;
  runId: number;
  machineId: number;
  machine: string;
  /** What was asked for at once has the same. */
  request: string;
  state: PrintRow['state'];
  reason: string | null;
  lengthMm: number;
  printedMm: number;
  /** Where in the run it began, mm: above 0 for one that went on. */
  fromMm: number;
  /** The print that broke off and that it goes on with. */
  restOf: number | null;
  /** How far along the run it is kept, mm, where it broke off and the rest was put into another run. */
  keptMm: number | null;
  inkMl: number[];
  /** Ended by a person while the machine did not answer: what it did is written down when it does. */
  givenUp: boolean;
  startedAt: number;
  endedAt: number | null;
}

/** How a print ended, by what its machine says. */
export interface PrintEnd {
  state: 'done' | 'cancelled' | 'failed';
  reason: string | null;
  printedMm: number;
  inkMl: number[];
  /** How long the machine was at it, s. */
  seconds: number;
}

/** A print that a record came out in. */
export interface RecordPrinted {
  runId: number;
  machine: string;
  endedAt: number;
}
