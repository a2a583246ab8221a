import { invalidate } from '$app/navigation';
import { navigating } from '$app/state';
import { toast } from 'svelte-sonner';
import { SvelteMap } from 'svelte/reactivity';
import type { Machine } from '$lib/server/machines/machines';
import type { ShopEvent, TaskProgress } from '$lib/server/platform/events';

export type PrintProgress = Extract<ShopEvent, { kind: 'print' }>['print'];

/** Its machine is at it, or stands still over it; others wait for their turn, or have ended. */
export const goesOn = ({ state }: PrintProgress): boolean => state === 'printing' || state === 'stopped';

/** A screen is loaded anew at most so often. */
const LOOK_EVERY_MS = 700;
const ALL = [
  'machines',
  'settings',
  'conditions',
  'artwork',
  'dockets',
  'runs',
  'lanes',
  'cuts',
  'colours',
  'jigs',
  'recipes',
  'arrivals'
];

/** Stands for each row of a kind. */
const EACH = 'each';

/** What the server tells as it happens. Screens read from here; nothing polls. */
class Live {
  readonly tasks = new SvelteMap<number, TaskProgress>();
  readonly prints = new SvelteMap<number, PrintProgress>();
  /** What machines said since the page was made. */
  readonly machines = new SvelteMap<number, Machine>();
  connected = $state(true);
  #source: EventSource | undefined;

  /** @param changes how many there had been when the screen was made */
  open(changes: number): () => void {
    const source = new EventSource('/api/events');
    this.#source = source;
    let known = changes;
    source.onopen = () => (this.connected = true);
    source.onerror = () => (this.connected = false);
    source.onmessage = ({ data }: MessageEvent<string>) => {
      const event = JSON.parse(data) as ShopEvent;
      if (event.kind === 'hello') {
        // What happened before the line was up, or while it was down, is not told again.
        for (const told of [this.machines, this.prints, this.tasks]) told.clear();
        if (event.changes !== known) ALL.forEach((what) => this.#refresh(what));
        if (this.#stale.size > 0) this.#look();
        known = event.changes;
      } else if (event.kind === 'changed') {
        known++;
        this.#refresh(event.what, event.ids);
      } else if (event.kind === 'task') this.tasks.set(event.task.id, event.task);
      else if (event.kind === 'machine') this.machines.set(event.machine.id, event.machine as Machine);
      else if (event.kind === 'said') toast.warning(event.text);
      else this.prints.set(event.print.id, event.print);
    };
    return () => this.#source?.close();
  }

  readonly #stale = new Set<string>();
  #waiting = false;
  #looked = -Infinity;

  /**
   * Has the data behind the screen loaded anew: several changes at once, and never in the middle of going to another
   * page, which a reload would break off. A screen depends on all of a kind (`zing:dockets`) or on one row of it
   * (`zing:dockets/12`), and is left alone by changes of others.
   */
  #refresh(what: string, ids?: readonly number[]): void {
    this.#stale.add(`zing:${what}`);
    for (const row of ids ?? [EACH]) this.#stale.add(`zing:${what}/${row}`);
    this.#look();
  }

  #look(): void {
    if (this.#waiting) return;
    this.#waiting = true;
    const work = async () => {
      // At once where little happens; where much does, what a person can take in.
      const rest = this.#looked + LOOK_EVERY_MS - performance.now();
      await new Promise((resolve) => setTimeout(resolve, Math.max(20, rest)));
      while (navigating.complete) await navigating.complete.catch(() => undefined);
      this.#waiting = false;
      // What is shown stays while the server is away; it is asked when it is back.
      if (!this.connected) return;
      // Not followed by any screen.
      const names = new Set(this.#stale);
      this.#stale.clear();
      this.#looked = performance.now();
      await invalidate(({ href }) => names.has(href) || names.has(href.replace(/\/\d+$/, `/${EACH}`)));
    };
    void work();
  }

  /** A machine as it last said it is. */
  machine = (known: Machine): Machine => this.machines.get(known.id) ?? known;

  /** The newest that is known of some work. */
  task(kind: string, subject: string | number, fallback: TaskProgress | null): TaskProgress | null {
    let found = fallback;
    for (const task of this.tasks.values()) {
      if (task.kind === kind && task.subject === String(subject) && (!found || task.id >= found.id)) found = task;
    }
    return found;
  }
}

export const live = new Live();
