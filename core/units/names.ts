/** A name without what people write now this way, now that: case, spaces, hyphens, points, accents. */
export const plainName = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLocaleLowerCase('en')
    .replace(/ß/g, 'ss')
    .replace(/[^\p{L}\p{N}]/gu, '');
