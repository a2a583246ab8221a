import { isAlike } from './together';

/** Something kept that counts its changes. */
export interface KeptValue<T> {
  version: number;
  value: T;
}

/**
 * A change that is made in peace and kept whole by a press. It waits in this window until then, also where the page is left or
 * loaded anew.
 */
export class Draft<T> {
  current = $state.raw() as T;
  #kept = $state.raw() as KeptValue<T>;
  /** What it was made from. */
  #version = $state(0);
  readonly #key: string;
  readonly #read: (stored: unknown) => T | undefined;

  /**
   * @param key names it among all drafts
   * @param read takes a draft that waited; nothing where it is none any more
   */
  constructor(key: string, kept: KeptValue<T>, read: (stored: unknown) => T | undefined) {
    this.#key = `zing-draft ${key}`;
    this.#read = read;
    this.#take(kept);
  }

  get isChanged(): boolean {
    return !isAlike(this.current, this.#kept.value);
  }

  /** Another window kept something else since it was begun. */
  get isOverNewer(): boolean {
    return this.#version !== this.#kept.version;
  }

  /** Of what it was made from. */
  get version(): number {
    return this.#version;
  }

  /** Brings back what waited. Where there is a page, once it is there. */
  restore(): void {
    const stored = parsed(sessionStorage.getItem(this.#key)) as Partial<KeptValue<unknown>> | undefined;
    const value = stored && typeof stored.version === 'number' ? this.#read(stored.value) : undefined;
    if (value === undefined) return;
    this.current = value;
    this.#version = stored!.version!;
    // What was kept as it is by then waits no more.
    if (!this.isChanged) this.drop();
  }

  change(next: T): void {
    this.current = next;
    if (this.isChanged || this.isOverNewer) {
      const waits: KeptValue<T> = { version: this.#version, value: next };
      try {
        sessionStorage.setItem(this.#key, JSON.stringify(waits));
      } catch {
        // There is no more room: it is here as long as the page is.
      }
    } else sessionStorage.removeItem(this.#key);
  }

  /** What the server has now: shown at once where nothing was changed here. */
  adopt(kept: KeptValue<T>): void {
    // Loaded before what was kept here last.
    if (kept.version < this.#kept.version) return;
    if (!this.isChanged) this.#take(kept);
    else this.#kept = kept;
  }

  /** Back to what is kept. */
  drop(): void {
    sessionStorage.removeItem(this.#key);
    this.#take(this.#kept);
  }

  /** It is kept now. @param sent what of it: what was changed since is a draft still */
  kept(kept: KeptValue<T>, sent: T): void {
    const since = this.current;
    this.#kept = kept;
    this.drop();
    if (since !== sent) this.change(since);
  }

  #take(kept: KeptValue<T>): void {
    this.#kept = kept;
    this.#version = kept.version;
    this.current = kept.value;
  }
}

function parsed(text: string | null): unknown {
  try {
    return text === null ? undefined : JSON.parse(text);
  } catch {
    return undefined;
  }
}
