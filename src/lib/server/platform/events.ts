import type { PrintMode } from '$core/media/modes';
import type { CutterRoll } from '$protocol/cutter';
import type { ShopSettings } from '$lib/shop-settings';

/**
 * What one room tells those below it, which it does not know. Who listens is called at once, within the transaction of who
 * tells: what goes wrong there goes wrong for both.
 */
export interface News {
  'settings changed': { before: ShopSettings; after: ShopSettings };
  'fonts changed': undefined;
  'modes told': PrintMode[];
  'media seen': { machineId: number; name: string; widthMm: number; sheetMm: number | null };
  /** What lies in a cutter, as it says itself; it was asked at that moment of `performance.now()`. */
  'cutter seen': { machineId: number; roll: CutterRoll | null; askedAt: number };
  /** Its places, or it was deleted. */
  'jig changed': number;
  /** Its places have other numbers: by the number of before that of now, or nothing where it is none to be filled any more. */
  'pockets renumbered': { jigId: number; numbers: ReadonlyMap<number, number | undefined> };
  /** It is new, or has come back. */
  'condition added': number;
  /** It is about to be deleted. */
  'condition goes': number;
  /** It is about to be put away: nothing new is printed in it. */
  'condition put away': number;
  /** What it prints with, or what is known of whether it prints as it did. */
  'condition changed': number;
  'artwork read': number;
  'colours changed': undefined;
  'folders changed': undefined;
  'printers changed': undefined;
  /** A run may be printed now that could not before. */
  'run released': number;
  /** `partMm`: it broke off, and is of use so far. */
  'print done': { printId: number; runId: number; partMm?: number };
  'print ended': number;
}

/** What the server tells open browsers: that something changed, or how far long work is. */
export type ShopEvent =
  /** The first on a line: how many changes there have been. */
  | { kind: 'hello'; changes: number }
  /** `ids`: of which rows; of any where it is not said. */
  | { kind: 'changed'; what: Changeable; ids?: readonly number[] }
  /** What a machine says of itself now. */
  | { kind: 'machine'; machine: { id: number } }
  /** Something that a person should know, and that no screen waits for. */
  | { kind: 'said'; text: string }
  | { kind: 'task'; task: TaskProgress }
  | {
      kind: 'print';
      print: {
        id: number;
        runId: number;
        machineId: number;
        state: string;
        reason: string | null;
        /** Of this print, and where in the run it began: above 0 for one that goes on. */
        printedMm: number;
        fromMm: number;
        lengthMm: number;
        /** Of the plates, on their way to the machine, 0…1. */
        sentShare: number;
        secondsLeft: number | null;
      };
    };

type Changeable =
  | 'artwork'
  | 'dockets'
  | 'runs'
  | 'lanes'
  | 'machines'
  | 'cuts'
  | 'settings'
  | 'conditions'
  | 'colours'
  | 'jigs'
  | 'recipes'
  | 'arrivals';
/** Of more rows than these it is not said which: each open page is told. */
const MOST_TOLD = 100;

export interface TaskProgress {
  id: number;
  kind: string;
  subject: string;
  state: string;
  error: string | null;
  share: number;
  secondsLeft: number | null;
}

export class Events {
  readonly #listeners = new Set<(event: ShopEvent) => void>();
  readonly #rooms = new Map<keyof News, ((news: never) => void)[]>();
  /** Counts changes: a screen that was made at another count has missed some. From the clock on, so that a server that was started anew is never at a count of the one before. */
  changes = Date.now();

  send(event: ShopEvent): void {
    for (const listener of this.#listeners) listener(event);
  }

  /** @param ids which rows, where no other can have changed */
  changed(what: Changeable, ids?: readonly number[]): void {
    this.changes++;
    this.send({ kind: 'changed', what, ...(ids && ids.length <= MOST_TOLD && { ids }) });
  }

  /** Asks to be told of what happens in a room above. */
  on<K extends keyof News>(what: K, listener: (news: News[K]) => void): void {
    this.#rooms.set(what, [...(this.#rooms.get(what) ?? []), listener as (news: never) => void]);
  }

  tell<K extends keyof News>(what: K, news: News[K]): void {
    for (const listener of this.#rooms.get(what) ?? []) (listener as (news: News[K]) => void)(news);
  }

  /** @returns what ends it */
  listen(listener: (event: ShopEvent) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }
}
