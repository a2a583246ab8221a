import { toast } from 'svelte-sonner';
import { isAway, send } from './client';
import type { Answer } from './history.svelte';

/**
 * Sends an edit of something that has a version, and says on the screen why it is not taken.
 *
 * @param version of what it was made from
 * @returns what became of it, and what there is now; nothing where that is gone
 * @throws Refusal where the server is away
 */
export async function putEdit<K extends { version: number }>(
  path: string,
  version: number,
  edit: object
): Promise<{ kind: Answer<K>['kind']; now: K | undefined }> {
  try {
    return { kind: 'saved', now: await send<K>('PUT', path, { version, ...edit }) };
  } catch (error) {
    if (isAway(error)) return sayAway(error);
    const now = await send<K>('GET', path).catch((gone: unknown) => (isAway(gone) ? sayAway(gone) : undefined));
    if (now && now.version !== version) return { kind: 'newer', now };
    sayRefused(error);
    return { kind: 'refused', now };
  }
}

function sayAway(error: unknown): never {
  sayRefused(error);
  throw error;
}

export const sayRefused = (error: unknown) =>
  toast.error(error instanceof Error ? error.message : String(error), { id: 'saving' });
