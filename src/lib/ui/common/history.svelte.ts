import { touched } from './touched';

const RETRY_MS = 2000;
const ONE_STEP_MS = 800;
/** Levels of a document that tell one figure from another; what is dragged about lies deeper. */
const FIGURES_DEEP = 2;

/**
 * Edits that save themselves and can be taken back. The newest edit waits a moment, so that typing saves once.
 * `save` settles refusals itself; what it throws means that the server is away, and the edit is tried again.
 */
export class Edits<T> {
  current = $state.raw() as T;
  saving = $state(false);
  readonly #save: (value: T) => Promise<void>;
  #past = $state.raw<T[]>([]);
  #future = $state.raw<T[]>([]);
  #timer: ReturnType<typeof setTimeout> | undefined;
  #lastEdit = 0;
  #lastPlaces = '';
  #busy: Promise<void> = Promise.resolve();
  #unsaved = $state(false);

  constructor(initial: T, save: (value: T) => Promise<void>) {
    this.current = initial;
    this.#save = save;
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
      this.#past = [...this.#past.slice(-199), this.current];
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

  /** Takes what the server has, unless something here is newer. */
  adopt(value: T): void {
    if (!this.#unsaved) this.current = value;
  }

  /** Drops what is not saved and takes the server's. */
  replace(value: T): void {
    clearTimeout(this.#timer);
    this.#unsaved = false;
    this.#past = [];
    this.#future = [];
    this.current = value;
  }

  /** For a page that is being closed: saves at once, and has the browser ask while something is not saved. */
  holdPage(event: BeforeUnloadEvent): void {
    if (!this.#unsaved && !this.saving) return;
    void this.flush();
    event.preventDefault();
  }

  /** Saves what waits at once, and waits until all is saved. */
  async flush(): Promise<void> {
    clearTimeout(this.#timer);
    if (this.#unsaved) this.#queue();
    await this.#busy;
  }

  #set(value: T): void {
    this.current = value;
    this.#unsaved = true;
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.#queue(), 250);
  }

  #queue(): void {
    this.#busy = this.#busy.then(async () => {
      if (!this.#unsaved) return;
      this.#unsaved = false;
      this.saving = true;
      try {
        await this.#save(this.current);
      } catch {
        // The server is away: the edit is kept here and tried again.
        this.#unsaved = true;
        clearTimeout(this.#timer);
        this.#timer = setTimeout(() => this.#queue(), RETRY_MS);
      }
      this.saving = false;
    });
  }
}
