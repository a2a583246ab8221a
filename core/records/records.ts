import { overridden, type Override, type RecordChoices } from './choices';
import { layCodeField } from './code-field';
import { CodeError } from './codes';
import { columnsOf, fill, parseContent, type Content, type Filled } from './content';
import type { Field, PictureField, TextField } from './field';
import type { KeptTable } from './kept-table';
import type { ShopList } from './lists';
import { matchNames } from './names';
import { RISKS, type Risk, type RiskKind } from './risks';
import { ppiInField, type PictureSize } from './pictures';
import { layText, oneSize, type FieldText } from './overlay';
import type { TextFace } from './shaping';
import { formatSize, MM_PER_POINT, type ShopUnit } from '../units/length';

/** Fields filled from a table, record by record, and what of them is at risk before anything is printed. */

export interface Records extends Pick<RecordChoices, 'fields' | 'chosen'> {
  table: KeptTable;
  overrides?: RecordChoices['overrides'];
  /** Of the shop, those that fields ask for. */
  lists?: readonly ShopList[];
}

/** A field with its content understood. */
interface Understood {
  field: Field;
  content: Content;
}

/** Fills fields of one table. */
export class Filling {
  /** Records that are gone through. */
  readonly numbers: ArrayLike<number> & Iterable<number>;
  readonly #rows: KeptTable['rows'];
  /** By number of a record its row. */
  readonly #rowOf: Map<number, number>;
  readonly #fields: readonly Understood[];
  readonly #lists: readonly ShopList[];
  /** By name, in which column of a row its value is. */
  readonly #places = new Map<string, number>();
  /** By record and field. */
  readonly #overrides: Map<string, Override>;

  /**
   * @param numbers of the records that are gone through; all of the table
   * @throws ContentError for a field whose text cannot be understood
   */
  constructor({ table, fields, chosen, overrides = [], lists = [] }: Records, numbers: Filling['numbers'] = table.numbers) {
    this.numbers = numbers;
    this.#rows = table.rows;
    this.#lists = lists;
    this.#rowOf = new Map(table.numbers.map((number, i) => [number, i]));
    this.#overrides = new Map(overrides.map((one) => [`${one.record}/${one.field}`, one]));
    this.#fields = fields.map((field) => ({ field, content: parseContent(field.content) }));
    const names = this.#fields.flatMap(({ content }) => columnsOf(content));
    for (const [name, column] of Object.entries(matchNames(names, table.columns, chosen).columns))
      this.#places.set(name, table.columns.indexOf(column));
  }

  /** What each field says of a record, by its number. @throws RangeError for one that the table does not have */
  record(number: number): (Filled & { field: Field })[] {
    const index = this.#rowOf.get(number);
    if (index === undefined) throw new RangeError(`The table has no record ${number}.`);
    const row = this.#rows[index]!;
    const value = (name: string) => {
      const place = this.#places.get(name);
      return place === undefined ? undefined : row[place];
    };
    return this.#fields.map(({ field, content }) => {
      const own = this.#overrides.get(`${number}/${field.id}`);
      const filled = own?.text != null ? { text: own.text, empty: [], unlike: [] } : fill(content, value, index, this.#lists);
      return { field: own ? overridden(field, own) : field, ...filled };
    });
  }

  texts(number: number): FieldText[] {
    return this.record(number).map(({ field, text }) => ({ field, text }));
  }
}

/** What all records come to. */
export interface LookedAt {
  /** By field of one size for all, that size, mm. */
  sizes: Map<number, number>;
  /** By field of lettering the record that is smallest, and its size, mm. */
  smallest: Map<number, { record: number; size: number }>;
  /** By field the record with the longest text. */
  longest: Map<number, { record: number; text: string }>;
  /** At most so many of a kind are kept; `counts` says how many there are. */
  risks: Risk[];
  counts: Record<RiskKind, number>;
}

export interface LookLimits {
  /** How much larger it prints than its finished size, in a pocket. */
  scale?: number | undefined;
  /** Lettering below this is told. */
  leastPt: number;
  /** What lengths are told in. */
  unit?: ShopUnit | undefined;
  /** Of the finished size: modules of codes are whole drops of it. */
  dpi?: number | undefined;
  /** Pictures with fewer pixels of an inch are told. */
  leastPpi?: number | undefined;
}

/** What records are held against. */
export interface LookAgainst extends LookLimits {
  /** By name of a font. */
  faces: ReadonlyMap<string, TextFace>;
  /** By what a field of pictures says: those that there are. */
  pictures?: ReadonlyMap<string, PictureSize> | undefined;
}

const MOST_OF_A_KIND = 200;
/** Records between two turns of whoever looks. */
const A_TURN = 200;

const isOneForAll = (field: Field): field is TextField => field.is === 'text' && field.size.is === 'one for all';
const shortened = (text: string) => (text.length > 40 ? `${text.slice(0, 39)}…` : text);

/**
 * Looks at all records: how large their lettering is, and what of them is at risk.
 *
 * @returns yields how many were looked at, so that it can be told, or given up
 * @throws RangeError for a font that is not there
 */
export function* lookAt(filling: Filling, against: LookAgainst): Generator<number, LookedAt> {
  const faceOf = (field: TextField): TextFace => {
    const face = against.faces.get(field.font);
    if (!face) throw new RangeError(`The shop has no font ${field.font}.`);
    return face;
  };
  const looked: LookedAt = {
    sizes: new Map(),
    smallest: new Map(),
    longest: new Map(),
    risks: [],
    counts: Object.fromEntries(RISKS.map((kind) => [kind, 0])) as Record<RiskKind, number>
  };
  const tell = (risk: Risk) => {
    if (++looked.counts[risk.kind] <= MOST_OF_A_KIND) looked.risks.push(risk);
  };
  const first = new Map<string, number>();
  let done = 0;
  for (const record of filling.numbers) {
    if (done % A_TURN === 0) yield done;
    done++;
    const filled = filling.record(record);
    for (const { field, text, empty, unlike } of filled) {
      const said = { record, field: field.id };
      if (text.length > (looked.longest.get(field.id)?.text.length ?? -1)) looked.longest.set(field.id, { record, text });
      if (empty.length > 0)
        tell({
          ...said,
          kind: 'empty',
          sentence: `${field.name}: there is no ${empty.map((name) => `“${name}”`).join(' and no ')}.`
        });
      for (const name of unlike)
        tell({
          ...said,
          kind: 'other form',
          sentence: `${field.name}: “${name}” is no number or date as its example is, or is not in its list.`
        });
      if (field.is === 'text') lookAtText(field, text, faceOf(field), record, against, looked, tell);
      else if (field.is === 'picture') lookAtPicture(field, text, record, against, tell);
      else if (text.trim() !== '') {
        const why = codeFault(field, text, against.dpi);
        if (why) tell({ ...said, kind: 'no code', sentence: `${field.name}: ${why}` });
      }
    }
    const key = JSON.stringify(filled.map(({ text }) => text));
    const before = first.get(key);
    if (before === undefined) first.set(key, record);
    else if (filled.length > 0)
      tell({
        kind: 'double',
        record,
        sentence: `It says the same as record ${before}: ${shortened(filled.map(({ text }) => text).join(', '))}.`
      });
  }
  return looked;
}

function lookAtText(
  field: TextField,
  text: string,
  face: TextFace,
  record: number,
  { leastPt, scale = 1, unit = 'mm' }: LookLimits,
  looked: LookedAt,
  tell: (risk: Risk) => void
): void {
  if (text.trim() === '') return;
  const said = { record, field: field.id };
  const { size, block, inside } = layText(field, text, face);
  if (isOneForAll(field)) looked.sizes.set(field.id, Math.min(looked.sizes.get(field.id) ?? Infinity, size));
  if (size < (looked.smallest.get(field.id)?.size ?? Infinity)) looked.smallest.set(field.id, { record, size });
  const pt = (size * scale) / MM_PER_POINT;
  if (!inside)
    tell({
      ...said,
      kind: 'does not fit',
      sentence: `${field.name}: “${shortened(text)}” needs ${formatSize(block.width * size, block.height * size, unit)}, and its place has ${formatSize(field.place.width, field.place.height, unit)}.`
    });
  else if (pt < leastPt)
    tell({
      ...said,
      kind: 'small',
      sentence: `${field.name}: “${shortened(text)}” fits at ${pt.toFixed(1)} pt${scale === 1 ? '' : ' in its pocket'}, less than ${leastPt} pt.`
    });
  if (block.missing.length > 0)
    tell({
      ...said,
      kind: 'missing letters',
      sentence: `${field.name}: ${field.font} does not have ${block.missing.map((letter) => `“${letter}”`).join(', ')}.`
    });
}

function lookAtPicture(
  field: PictureField,
  text: string,
  record: number,
  { pictures, leastPpi = 0, scale = 1 }: LookAgainst,
  tell: (risk: Risk) => void
): void {
  const name = text.trim();
  // An empty value is told as one.
  if (name === '') return;
  const said = { record, field: field.id };
  const size = pictures?.get(name);
  if (!size) {
    if (!field.without)
      tell({ ...said, kind: 'no picture', sentence: `${field.name}: there is no picture called “${shortened(name)}”.` });
    return;
  }
  const ppi = ppiInField(field, size) / scale;
  if (ppi < leastPpi)
    tell({
      ...said,
      kind: 'coarse picture',
      sentence: `${field.name}: “${shortened(name)}” has ${size.width} × ${size.height} pixels, ${Math.round(ppi)} of an inch as it is placed; ${Math.round(leastPpi)} are needed.`
    });
}

/** Why a value has no code at its place, in a sentence. */
function codeFault(field: Field & { is: 'code' }, text: string, dpi: number | undefined): string | undefined {
  try {
    layCodeField(field, text, dpi);
    return undefined;
  } catch (error) {
    if (error instanceof CodeError) return error.message;
    throw error;
  }
}

/** The sizes of fields of one size for all, mm: for whoever draws records without having looked at them. */
export function sizesForAll(
  filling: Filling,
  fields: readonly Field[],
  faces: ReadonlyMap<string, TextFace>
): Map<number, number> {
  const sizes = new Map<number, number>();
  for (const { id } of fields.filter(isOneForAll)) {
    let face: TextFace | undefined;
    const styles = new Map<string, TextField>();
    const texts = new Map<string, Set<string>>();
    for (const number of filling.numbers) {
      const { field, text } = filling.record(number).find((one) => one.field.id === id)!;
      // One with a size of its own is none of them; one at another place has that room.
      if (!isOneForAll(field)) continue;
      const key = `${field.place.width}/${field.place.height}`;
      styles.set(key, field);
      texts.set(key, (texts.get(key) ?? new Set()).add(text));
    }
    for (const [key, field] of styles) {
      face ??= faces.get(field.font);
      if (!face) throw new RangeError(`The shop has no font ${field.font}.`);
      sizes.set(id, Math.min(sizes.get(id) ?? Infinity, oneSize(field, texts.get(key)!, face)));
    }
  }
  return sizes;
}
