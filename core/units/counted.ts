/** So many of something, as people say it: `1 copy`, `1,200 copies`. */
export const counted = (n: number, one: string, many = `${one}s`): string =>
  `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`;
