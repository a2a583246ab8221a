/**
 * A name that nothing has yet: the wanted one, or it with a number after it.
 *
 * @param most characters that a name may have: a longer one could not be read again
 */
export function freeName(wanted: string, most: number, isTaken: (name: string) => boolean): string {
  for (let n = 1; ; n++) {
    const end = n === 1 ? '' : ` ${n}`;
    // No half of a character stays at the cut.
    const name = `${wanted.slice(0, most - end.length).replace(/[\uD800-\uDBFF]$/, '').trimEnd()}${end}`; // prettier-ignore
    if (!isTaken(name)) return name;
  }
}
