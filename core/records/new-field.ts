import { COUNTER, parseContent, columnsOf, listsOf } from './content';
import type { ShopList } from './lists';
import { freePlace } from './field-placing';
import type { CodeField, Field, FieldPlace, PictureField, TextField } from './field';
import { plainName } from '../units/names';

/** Fields as they begin, and fields for the columns of a table. */

const BLACK = { is: 'inks' as const, inks: [0, 0, 0, 1] as [number, number, number, number] };
/** What fields are lettered in that nobody chose a font for. */
export const USUAL_FONT = 'Arimo';

const nextId = (fields: readonly Field[]): number => fields.reduce((most, { id }) => Math.max(most, id), 0) + 1;

/** A name that no other field has. */
function freeName(fields: readonly Field[], wanted: string): string {
  const taken = new Set(fields.map(({ name }) => name));
  let name = wanted;
  for (let n = 2; taken.has(name); n++) name = `${wanted} ${n}`;
  return name;
}

export function newText(fields: readonly Field[], place: FieldPlace, content = '', name = 'Lettering'): TextField {
  return {
    id: nextId(fields),
    name: freeName(fields, name.slice(0, 90)),
    is: 'text',
    place,
    content,
    font: fields.find((field) => field.is === 'text')?.font ?? USUAL_FONT,
    size: { is: 'largest' },
    wrap: false,
    along: 'centre',
    down: 'middle',
    lineSpacing: 1,
    letterSpacing: 0,
    colour: BLACK,
    outline: null,
    bend: 0,
    shadow: null,
    cut: null
  };
}

export function newCode(fields: readonly Field[], place: FieldPlace, content = '', name = 'Code'): CodeField {
  return {
    id: nextId(fields),
    name: freeName(fields, name.slice(0, 90)),
    is: 'code',
    kind: 'QR',
    place,
    content,
    colour: BLACK,
    correction: 'middle',
    below: false,
    thinner: 0
  };
}

export function newPicture(fields: readonly Field[], place: FieldPlace, content = '', name = 'Picture'): PictureField {
  return {
    id: nextId(fields),
    name: freeName(fields, name.slice(0, 90)),
    is: 'picture',
    place,
    content,
    fit: 'filled',
    along: 'centre',
    down: 'middle',
    without: false
  };
}

/** A new field of a kind. */
export const NEW_FIELDS = { text: newText, code: newCode, picture: newPicture } as const;

/** A column as it is asked for in a field’s text. Signs that mean something there are left out: names match without them. */
export function askFor(column: string, form?: string): string {
  const plain = column.replace(/[{},]/g, ' ').replace(/\s+/g, ' ').trim();
  // The counter is written in small letters alone.
  return `{${plain === COUNTER ? plain.toUpperCase() : plain}${form === undefined ? '' : `, ${form}`}}`;
}

/** Columns that a content asks for; none where it cannot be understood. */
export function askedColumns(content: string): string[] {
  try {
    return columnsOf(parseContent(content));
  } catch {
    return [];
  }
}

/** Those of the shop's lists that fields ask for. */
export function askedLists(fields: readonly Pick<Field, 'content'>[], lists: readonly ShopList[]): ShopList[] {
  const names = new Set(
    fields.flatMap(({ content }) => {
      try {
        return listsOf(parseContent(content)).map(plainName);
      } catch {
        return [];
      }
    })
  );
  return lists.filter(({ name }) => names.has(plainName(name)));
}

/** What a column or an area is for, by its name. */
export function kindFor(name: string): Field['is'] {
  const plain = plainName(name);
  if (/code|qr|barcode|ean|gtin|matrix/.test(plain)) return 'code';
  return /picture|photo|portrait|image|logo|foto|bild/.test(plain) ? 'picture' : 'text';
}

/** A field for a column of a table: a code or a picture where its name says so. */
export function fieldFor(fields: readonly Field[], column: string, size: { widthMm: number; heightMm: number }): Field {
  const kind = kindFor(column);
  const place = freePlace(
    fields.map((field) => field.place),
    size,
    kind !== 'text'
  );
  return NEW_FIELDS[kind](fields, place, askFor(column), column);
}
