/** A name without what people write now this way, now that: case, spaces, hyphens, points, accents. */
export const plainName = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLocaleLowerCase('en')
    .replace(/ß/g, 'ss')
    .replace(/[^\p{L}\p{N}]/gu, '');

/** The same, none twice: what is there more than once gets a number that no other has. */
export function toldApart(names: readonly string[]): string[] {
  const taken = new Set<string>();
  return names.map((name) => {
    let own = name;
    for (let n = 2; taken.has(own) || (own !== name && names.includes(own)); n++) own = `${name} ${n}`;
    taken.add(own);
    return own;
  });
}
