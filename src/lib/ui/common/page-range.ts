/** Numbers of pages that a person writes: `1-3, 7, 12-`. @returns indices from 0, rising; none where it cannot be understood */
export function readPages(text: string, count: number): number[] | undefined {
  const found = new Set<number>();
  for (const part of text.split(',').map((one) => one.trim())) {
    const match = /^(\d*)\s*(-|–|to)?\s*(\d*)$/.exec(part);
    if (!match || part === '') return undefined;
    const [, from = '', dash, to = ''] = match;
    const first = from === '' ? 1 : Number(from);
    const last = to !== '' ? Number(to) : dash ? count : first;
    if (first < 1 || last > count || last < first || (!dash && to !== '')) return undefined;
    for (let page = first; page <= last; page++) found.add(page - 1);
  }
  return [...found].sort((p, q) => p - q);
}
