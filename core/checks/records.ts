import { matchNames } from '../records/names';
import { askedColumns } from '../records/new-field';
import { counted } from '../units/counted';
import { type CheckInput, type Found } from './check';

/** What is wrong with a docket's records that its choices alone tell; what of single records is at risk is told beside their table. */

/** Fields without a table print nothing, and a table without fields says nothing. */
export function unfilled({ records }: CheckInput): Found[] {
  if (!records) return [];
  const { fields, table } = records;
  if (fields.length > 0 && !table)
    return [
      {
        id: 'records-no-table',
        level: 'stop',
        figure: counted(fields.length, 'field'),
        limit: 'a table',
        sentence: `${counted(fields.length, 'field is', 'fields are')} on the piece, and no table fills them: they would stay empty. Take a table, or take the fields out.`
      }
    ];
  if (table && fields.length === 0)
    return [
      {
        id: 'records-no-field',
        level: 'look',
        figure: table.name,
        limit: 'a field',
        sentence: `Nothing of the table ${table.name} is printed: no field says anything of it. All copies would be the same.`
      }
    ];
  return [];
}

/** Names that no column has. */
export function columns({ records }: CheckInput): Found[] {
  if (!records?.table) return [];
  const names = records.fields.flatMap(({ content }) => askedColumns(content));
  const { open } = matchNames(names, records.table.columns, records.chosen);
  return open.map(({ name, near }) => ({
    id: `records-column-${name}`,
    level: 'stop',
    figure: name,
    limit: records.table!.columns.slice(0, 5).join(', '),
    sentence: `A field asks for “${name}”, and no column is called so: it would stay empty.${near[0] === undefined ? '' : ` Is it “${near[0]}”?`} Choose its column beside the table.`
  }));
}
