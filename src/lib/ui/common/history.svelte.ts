import { apart, isAlike } from './together';
import { touched } from './touched';

const SAVE_AFTER_MS = 250;
const RETRY_MS = 2000;
const ONE_STEP_MS = 800;
const MOST_STEPS = 200;
/** Levels of a document that tell one figure from another; what is dragged about lies deeper. */
const FIGURES_DEEP = 2;

/** What became of what was sent, and what the server has now. `newer`: another window was first, and nothing was taken. */
export interface Answer<T> {
  kind: 'saved' | 'refused' | 'newer';
  now: T;
}

interface Ways<T> {
  /** Says itself why something is refused. What it throws means that the server is away: the edit is sent again later. */
  save(next: T, before: T): Promise<Answer<T>>;
  /** What another window made of the same state, with mine over it. */
  together(base: T, mine: T, theirs: T): T;
}

/**
 * Edits that save themselves and can be taken back. The newest edit waits a moment, so that typing saves once. What another window
 * does comes under what is edited here, and under the steps back: these take back nothing of it.
 */
export class Edits<T> {
  current = $state.raw() as T;
  saving = $state(false);
  readonly #ways: Ways<T>;
  /** As the server has it, as far as is known. */
  #kept: T;
  #past = $state.raw<T[]>([]);
  #future = $state.raw<T[]>([]);
  #timer: ReturnType<typeof setTimeout> | undefined;
  #lastEdit = 0;
  #lastPlaces = '';
  #busy: Promise<void> = Promise.resolve();
  #unsaved = $state(false);
  #refusals = 0;

  constructor(kept: T, ways: Ways<T>) {
    this.current = this.#kept = kept;
    this.#ways = ways;
  }

  get canUndo(): boolean {
    return this.#past.length > 0;
  }

  get canRedo(): boolean {
    return this.#future.length > 0;
  }

  get pending(): boolean {
    return this.#unsaved;
  }

  change(next: T): void {
    // Keystrokes of one figure are one step back.
    const places = touched(this.current, next, FIGURES_DEEP).join();
    if (places !== this.#lastPlaces || Date.now() - this.#lastEdit > ONE_STEP_MS)
      this.#past = [...this.#past.slice(1 - MOST_STEPS), this.current];
    this.#lastEdit = Date.now();
    this.#lastPlaces = places;
    this.#future = [];
    this.#set(next);
  }

  undo(): void {
    const back = this.#past.at(-1);
    if (back === undefined) return;
    this.#past = this.#past.slice(0, -1);
    this.#lastPlaces = '';
    this.#future = [...this.#future, this.current];
    this.#set(back);
  }

  redo(): void {
    const next = this.#future.at(-1);
    if (next === undefined) return;
    this.#future = this.#future.slice(0, -1);
    this.#past = [...this.#past, this.current];
    this.#set(next);
  }

  /** Takes what the server has by now. While something is being saved, its answer is waited for: call again then. */
  adopt(now: T): void {
    if (this.saving) return;
    const base = this.#kept;
    this.#kept = now;
    this.#rebase(base, now);
  }

  /** For a page that is being closed: saves at once, and has the browser ask while something is not saved. */
  holdPage(event: BeforeUnloadEvent): void {
    if (!this.#unsaved && !this.saving) return;
    void this.flush();
    event.preventDefault();
  }

  /** Saves what waits at once. @returns whether all was taken: nothing was refused meanwhile, and the server is there */
  async flush(): Promise<boolean> {
    const before = this.#refusals;
    clearTimeout(this.#timer);
    if (this.#unsaved) this.#queue();
    await this.#busy;
    return !this.#unsaved && this.#refusals === before;
  }

  #set(value: T): void {
    this.current = value;
    this.#unsaved = true;
    this.#queueIn(SAVE_AFTER_MS);
  }

  #queueIn(ms: number): void {
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.#queue(), ms);
  }

  #queue(): void {
    this.#busy = this.#busy.then(() => this.#save());
  }

  async #save(): Promise<void> {
    // What is left over what was refused, or over what another window did first, is sent at once.
    while (this.#unsaved) {
      clearTimeout(this.#timer);
      const sent = this.current;
      const before = this.#kept;
      this.#unsaved = false;
      this.saving = true;
      try {
        const kind = await this.#send(sent);
        if (kind === 'refused') await this.#eachForItself(before, sent);
        this.#rebase(kind === 'newer' ? before : sent, this.#kept);
        if (kind === 'saved') break;
      } catch {
        this.#unsaved = true;
        // Some of it may be saved, or something of another window known, since.
        this.#rebase(before, this.#kept);
        this.#queueIn(RETRY_MS);
        break;
      } finally {
        this.saving = false;
      }
    }
  }

  async #send(next: T): Promise<Answer<T>['kind']> {
    const { kind, now } = await this.#ways.save(next, this.#kept);
    this.#kept = now;
    return kind;
  }

  /** Of what was refused together each is sent for itself: one figure that is not allowed keeps no other. */
  async #eachForItself(before: T, refused: T): Promise<void> {
    this.#refusals++;
    const parts = apart(before, refused, FIGURES_DEEP);
    // What came alone was refused just now.
    for (const part of parts.length > 1 ? parts : []) {
      while ((await this.#send(this.#ways.together(before, part, this.#kept))) === 'newer');
    }
  }

  /** Puts what was edited since a state, and the steps back and forth, over what the server has instead of it. */
  #rebase(base: T, now: T): void {
    if (!isAlike(base, now)) {
      const over = (mine: T) => this.#ways.together(base, mine, now);
      this.current = over(this.current);
      // A step to what is there already would do nothing.
      const steps = (list: T[]) => list.map(over).filter((one, i, all) => !isAlike(one, all[i + 1] ?? this.current));
      this.#past = steps(this.#past);
      this.#future = steps(this.#future);
    }
    const waits = this.#unsaved;
    this.#unsaved = !isAlike(this.current, now);
    if (this.#unsaved && !waits) this.#queueIn(SAVE_AFTER_MS);
  }
}
