import { SvelteMap, SvelteSet } from 'svelte/reactivity';
import { PAGE_ROWS, type ListPage } from '$lib/listing';
import type { ListSource } from './source';

/** The rows of a list that were seen, page by page as they come into sight, and those that are ticked. */
export class ListRows<Row> {
  readonly #source: ListSource<Row>;
  readonly #idOf: (row: Row) => number;
  readonly #pages = new SvelteMap<number, readonly Row[]>();
  /** Asked for and not there yet. */
  // Nothing is shown of these: they need not be followed.
  // eslint-disable-next-line svelte/prefer-svelte-reactivity
  readonly #coming = new Set<number>();
  // eslint-disable-next-line svelte/prefer-svelte-reactivity
  #params = new URLSearchParams();
  /** Counts the lists that were shown: what comes late for an earlier one is not taken. */
  #turn = 0;
  count = $state(0);
  failed = $state('');
  readonly ticked = new SvelteSet<number>();
  /** Where the next range of ticks begins. */
  #anchor = 0;
  #ranges = 0;

  constructor(source: ListSource<Row>, idOf: (row: Row) => number) {
    this.#source = source;
    this.#idOf = idOf;
  }

  /** Shows another list, or the same as it is now. Rows that are on the screen stay until the new ones are there. */
  show(first: ListPage<Row>, params: URLSearchParams, inSight: { from: number; to: number }): void {
    const same = params.toString() === this.#params.toString();
    this.#turn++;
    this.#params = params;
    this.#coming.clear();
    this.count = first.count;
    this.failed = '';
    const needed = pagesOf(inSight).filter((page) => page * PAGE_ROWS < first.count);
    for (const page of [...this.#pages.keys()]) if (!same || !needed.includes(page)) this.#pages.delete(page);
    this.#pages.set(0, first.rows);
    if (!same) this.#anchor = 0;
    for (const page of needed) if (page > 0) void this.#load(page);
    void this.#dropTicks();
  }

  at(index: number): Row | undefined {
    const page = this.#pages.get(Math.floor(index / PAGE_ROWS));
    // A list whose rows are all at hand has one page.
    return page?.[index % PAGE_ROWS] ?? (index >= PAGE_ROWS ? this.#pages.get(0)?.[index] : undefined);
  }

  /** Asks for what is in sight or comes into sight soon, and is not there. */
  need({ from: first, to }: { from: number; to: number }): void {
    for (const page of pagesOf({ from: first - ROWS_AHEAD, to: to + ROWS_AHEAD })) {
      const from = page * PAGE_ROWS;
      if (from < this.count && !this.#pages.has(page) && this.at(from) === undefined && !this.#coming.has(page))
        void this.#load(page);
    }
  }

  async #load(page: number): Promise<void> {
    const turn = this.#turn;
    this.#coming.add(page);
    try {
      const { rows, count } = await this.#source.page(this.#params, page * PAGE_ROWS);
      if (turn !== this.#turn) return;
      this.#pages.set(page, rows);
      this.count = count;
      this.failed = '';
    } catch (error) {
      if (turn === this.#turn) this.failed = saysOf(error);
    } finally {
      if (turn === this.#turn) this.#coming.delete(page);
    }
  }

  /** Ticks on rows that others deleted, or that the filter leaves out, go. */
  async #dropTicks(): Promise<void> {
    if (this.ticked.size === 0) return;
    const turn = this.#turn;
    const asked = [...this.ticked];
    const known = await this.#source.known(this.#params, asked).catch(() => undefined);
    if (!known || turn !== this.#turn) return;
    // What was ticked meanwhile was not asked for, and stays.
    const there = new SvelteSet(known);
    for (const id of asked) if (!there.has(id)) this.ticked.delete(id);
  }

  /** Ticks a row or takes its tick off; with `range`, all from the last that was ticked. */
  async tick(index: number, how: 'this' | 'range' | 'alone'): Promise<void> {
    // Its end need not be at hand.
    if (how === 'range') return this.#tickRange(index);
    const row = this.at(index);
    if (!row) return;
    const id = this.#idOf(row);
    const was = this.ticked.has(id);
    if (how === 'alone') this.ticked.clear();
    if (how === 'this' && was) this.ticked.delete(id);
    else this.ticked.add(id);
    this.#anchor = index;
  }

  async #tickRange(to: number): Promise<void> {
    const from = Math.min(this.#anchor, to);
    const count = Math.abs(to - this.#anchor) + 1;
    const rows = Array.from({ length: Math.min(count, MOST_TICKED) }, (_, i) => this.at(from + i));
    if (rows.every((row) => row !== undefined)) this.#tickOnly(rows.map(this.#idOf));
    else await this.#tickAsked(from, count);
  }

  /** Ticks all of the list, as many as are acted on at once. */
  async tickAll(): Promise<void> {
    await this.#tickAsked(0, Math.max(1, Math.min(this.count, MOST_TICKED)));
  }

  async #tickAsked(from: number, count: number): Promise<void> {
    const mine = ++this.#ranges;
    try {
      const ids = await this.#source.ids(this.#params, from, count);
      // A range that was asked for since is meant.
      if (mine !== this.#ranges) return;
      this.#tickOnly(ids);
      this.failed = '';
    } catch (error) {
      if (mine === this.#ranges) this.failed = saysOf(error);
    }
  }

  #tickOnly(ids: readonly number[]): void {
    this.#ranges++;
    this.ticked.clear();
    for (const id of ids) this.ticked.add(id);
  }
}

/** Rows that are asked for before they are in sight. */
const ROWS_AHEAD = 60;
/** More are not acted on at once. */
export const MOST_TICKED = 5000;

const saysOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));

function pagesOf({ from, to }: { from: number; to: number }): number[] {
  const first = Math.floor(Math.max(0, from) / PAGE_ROWS);
  const last = Math.floor(Math.max(0, to) / PAGE_ROWS);
  return Array.from({ length: last - first + 1 }, (_, i) => first + i);
}
