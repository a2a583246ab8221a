import { toast } from 'svelte-sonner';
import { isAway, send } from './client';
import { Edits, type Answer } from './history.svelte';
import { isAlike, together } from './together';

/** Something that the server keeps, and counts the changes of. */
interface Kept {
  id: number;
  version: number;
}

interface Ways<K extends Kept, T> {
  /** Where it is got and put. */
  path: string;
  /** What of it is edited. */
  valueOf(kept: K): T;
  /** What is put, beside the version. */
  bodyOf(value: T): object;
  /** Field by field where nothing is said. */
  together?(base: T, mine: T, theirs: T): T;
}

/** Edits of something that has a version. What another window makes of it comes under what is edited here. */
export class KeptEdits<K extends Kept, T> {
  readonly edits: Edits<T>;
  readonly #id: number;
  readonly #valueOf: (kept: K) => T;
  #version: number;

  constructor(kept: K, { path, valueOf, bodyOf, together: join = together }: Ways<K, T>) {
    this.#id = kept.id;
    this.#version = kept.version;
    this.#valueOf = valueOf;
    this.edits = new Edits(valueOf(kept), {
      save: async (next, before) => {
        const { kind, now } = await putEdit<K>(path, this.#version, bodyOf(next));
        if (now) this.#version = now.version;
        return { kind, now: now ? valueOf(now) : before };
      },
      together: join
    });
  }

  /** Takes it as the page has it loaded, unless that is older than what is known, or something is being saved. */
  adopt(kept: K): void {
    if (kept.id !== this.#id || this.edits.saving || kept.version < this.#version) return;
    this.#version = kept.version;
    this.edits.adopt(this.#valueOf(kept));
  }
}

/**
 * Edits of something without a version: what was changed alone is sent, and what is not changed here is not written over.
 *
 * @param put sends it @returns all of it as it is kept then
 * @param get what there is after a refusal; nothing for what was known before
 */
export const partEdits = <T extends object>(
  value: T,
  put: (changed: Partial<T>) => Promise<T>,
  get?: () => Promise<T>
): Edits<T> =>
  new Edits<T>(value, {
    save: async (next, before) => {
      const changed = Object.entries(next).filter(([name, part]) => !isAlike(part, before[name as keyof T]));
      try {
        return { kind: 'saved', now: await put(Object.fromEntries(changed) as Partial<T>) };
      } catch (error) {
        sayRefused(error);
        if (isAway(error)) throw error;
        return { kind: 'refused', now: get ? await get() : before };
      }
    },
    together
  });

/**
 * Sends an edit of something that has a version, and says on the screen why it is not taken.
 *
 * @param version of what it was made from
 * @returns what became of it, and what there is now; nothing where that is gone
 * @throws Refusal where the server is away
 */
export async function putEdit<K extends Kept>(
  path: string,
  version: number,
  edit: object
): Promise<{ kind: Answer<K>['kind']; now: K | undefined }> {
  try {
    return { kind: 'saved', now: await send<K>('PUT', path, { version, ...edit }) };
  } catch (error) {
    if (isAway(error)) return sayAway(error);
    const now = await getKept<K>(path);
    if (now && now.version !== version) return { kind: 'newer', now };
    sayRefused(error);
    return { kind: 'refused', now };
  }
}

/** What there is now; nothing where it is gone. @throws Refusal where the server is away */
export const getKept = <K>(path: string): Promise<K | undefined> =>
  send<K>('GET', path).catch((gone: unknown) => (isAway(gone) ? sayAway(gone) : undefined));

function sayAway(error: unknown): never {
  sayRefused(error);
  throw error;
}

export const sayRefused = (error: unknown) =>
  toast.error(error instanceof Error ? error.message : String(error), { id: 'saving' });
