import type { RecordChoices } from '$core/records/choices';
import { fill, parseContent } from '$core/records/content';
import type { Field } from '$core/records/field';
import type { ShopList } from '$core/records/lists';
import { matchNames } from '$core/records/names';

/** What a field says of one record, for showing it beside its text; nothing where that cannot be told. @param place of the record in the table */
export function exampleOf(
  field: Field,
  { table, chosen }: RecordChoices,
  cells: readonly string[],
  place: number,
  lists: readonly ShopList[] = []
): string {
  if (!table || cells.length === 0) return '';
  try {
    const value = (name: string) => {
      const column = matchNames([name], table.columns, chosen).columns[name];
      return column === undefined ? undefined : cells[table.columns.indexOf(column)];
    };
    return fill(parseContent(field.content), value, Math.max(0, place), lists).text;
  } catch {
    return '';
  }
}
