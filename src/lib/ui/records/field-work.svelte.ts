import type { FinishedSize } from '$core/artwork/preparation';
import { overridden, type RecordChoices } from '$core/records/choices';
import type { Field, FieldPlace } from '$core/records/field';
import { freePlace } from '$core/records/field-placing';
import { fieldOf, type FoundArea } from '$core/records/found-areas';
import { overrideOf, withField, withOwn, withoutField, withPlace } from '$core/records/for-one';
import { fieldFor, NEW_FIELDS, newText } from '$core/records/new-field';

/** A copy of a field lies that far from it, mm. */
const COPY_MM = 3;

/** A docket’s fields as they are seen. */
interface Seen {
  records: RecordChoices;
  /** The one that is shown. */
  record: number | null;
  size: FinishedSize;
}

/** The fields of a docket that are worked on: which is chosen, and what is done with it, for all records or for the one that is shown. */
export class FieldWork {
  chosen = $state<number | null>(null);
  /** What is changed is changed for the record that is shown, alone. */
  alone = $state(false);
  /** What kind of field a place is being drawn for. */
  drawing = $state<Field['is'] | null>(null);
  /** As the record that is shown has them. */
  readonly shown = $derived.by(() => {
    const { records, record } = this.#seen();
    return records.fields.map((field) => {
      const own = record === null ? undefined : overrideOf(records, record, field.id);
      return own ? overridden(field, own) : field;
    });
  });
  /** The chosen one, as the record has it. */
  readonly field = $derived.by(() => this.shown.find(({ id }) => id === this.chosen));
  /** What the record has otherwise of it. */
  readonly own = $derived.by(() => {
    const { records, record } = this.#seen();
    return record !== null && this.chosen !== null ? overrideOf(records, record, this.chosen) : undefined;
  });
  readonly #seen: () => Seen;
  readonly #change: (records: RecordChoices) => void;

  constructor(seen: () => Seen, change: (records: RecordChoices) => void) {
    this.#seen = seen;
    this.#change = change;
  }

  keep(next: Field): void {
    const { records, record } = this.#seen();
    this.#change(withField(records, next, this.alone ? record : null));
  }

  /** What it says in the record that is shown; nothing for what it says in all. */
  sayAlone(text: string | null): void {
    const { records, record } = this.#seen();
    if (record !== null && this.chosen !== null) this.#change(withOwn(records, record, this.chosen, { text }));
  }

  /** The record has the chosen field as all others do. */
  takeBack(): void {
    const { records, record } = this.#seen();
    const overrides = records.overrides.filter((one) => one.record !== record || one.field !== this.chosen);
    this.#change({ ...records, overrides });
  }

  /** Moved on the picture. */
  put(id: number, place: FieldPlace): void {
    const { records, record } = this.#seen();
    this.#change(withPlace(records, id, place, record, this.alone));
  }

  remove(id: number): void {
    this.#change(withoutField(this.#seen().records, id));
    this.chosen = null;
  }

  add(next: Field): void {
    const { records } = this.#seen();
    this.#change({ ...records, fields: [...records.fields, next] });
    this.chosen = next.id;
    this.alone = false;
  }

  addFor(column: string): void {
    const { records, size } = this.#seen();
    this.add(fieldFor(records.fields, column, size));
  }

  copy(): void {
    if (!this.field) return;
    const place = { ...this.field.place, x: this.field.place.x + COPY_MM, y: this.field.place.y + COPY_MM };
    const { id, name } = newText(this.#seen().records.fields, place, '', this.field.name);
    this.add({ ...this.field, id, name, place });
  }

  /** A place was drawn for what is being drawn; nothing has one found. */
  drawn(place: FieldPlace | null): void {
    const is = this.drawing;
    this.drawing = null;
    if (is === null) return;
    const { records, size } = this.#seen();
    const places = records.fields.map((one) => one.place);
    this.add(NEW_FIELDS[is](records.fields, place ?? freePlace(places, size, is !== 'text')));
  }

  /** What the artwork keeps free, and no field is in the place of yet. */
  freeOf(areas: readonly FoundArea[]): FoundArea[] {
    const { fields } = this.#seen().records;
    return areas.filter((area) => !fields.some(({ name }) => name === area.name));
  }

  /** Those and the fields that there are. */
  withFree(areas: readonly FoundArea[]): RecordChoices {
    const { records } = this.#seen();
    const fields = this.freeOf(areas).reduce<Field[]>((list, area) => [...list, fieldOf(list, area)], [...records.fields]);
    return { ...records, fields };
  }
}
