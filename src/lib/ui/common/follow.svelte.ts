import { untrack } from 'svelte';

/**
 * Has what is edited follow what the page has loaded, from the next load on. For the set-up of a component. What came while something
 * was saved is taken after that.
 */
export function follow<K>(loaded: () => K, edits: { readonly saving: boolean }, adopt: (newest: K) => void): void {
  let seen = untrack(loaded);
  $effect(() => {
    const newest = loaded();
    if (edits.saving || newest === seen) return;
    seen = newest;
    untrack(() => adopt(newest));
  });
}
