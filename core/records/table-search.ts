import type { KeptTable } from './kept-table';

/**
 * Where in a table the rows are that have some words in them, in any order and case, or that are some records; the
 * number of a record counts as one of its words.
 *
 * @returns the places of rows, from 0, rising
 */
export function placesWith(table: KeptTable, words: string, records?: readonly number[]): number[] {
  const asked = words.toLocaleLowerCase('en').split(/\s+/).filter(Boolean);
  const wanted = records && new Set(records);
  return table.rows.flatMap((row, i) => {
    const number = table.numbers[i]!;
    if (wanted && !wanted.has(number)) return [];
    if (asked.length === 0) return [i];
    const text = `${number} ${row.join(' ')}`.toLocaleLowerCase('en');
    return asked.every((word) => text.includes(word)) ? [i] : [];
  });
}
