/** So many sheets in words; in a jig each is a load. */
export const sheetsInWords = (count: number, inJig: boolean): string =>
  `${count.toLocaleString('en-GB')} ${inJig ? 'load' : 'sheet'}${count === 1 ? '' : 's'}`;
