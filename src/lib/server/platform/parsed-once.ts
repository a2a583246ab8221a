import { LRUCache } from 'lru-cache';

/**
 * Parses texts that the database gives again and again, each once. What comes back is shared by all who asked for it, and
 * frozen, so that nobody changes it for the others.
 *
 * @param parse what the text's JSON is; what it refuses is refused each time
 * @param most texts that are kept at hand
 */
export function parsedOnce<T extends object>(parse: (value: unknown) => T, most = 500): (text: string) => T {
  const kept = new LRUCache<string, T>({ max: most });
  return (text) => {
    const known = kept.get(text);
    if (known) return known;
    const made = frozen(parse(JSON.parse(text)));
    kept.set(text, made);
    return made;
  };
}

/** Freezes plain data to its last corner. @returns the same */
export function frozen<T>(value: T): T {
  if (typeof value !== 'object' || value === null || Object.isFrozen(value)) return value;
  Object.freeze(value);
  for (const part of Object.values(value)) frozen(part);
  return value;
}
