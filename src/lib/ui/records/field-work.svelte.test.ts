import * as fc from 'fast-check';
import { beforeEach, describe, expect, it } from 'vitest';
import { NO_RECORDS, type RecordChoices } from '$core/records/choices';
import type { Field, FieldPlace } from '$core/records/field';
import { NEW_FIELDS } from '$core/records/new-field';
import { FieldWork } from './field-work.svelte';

const PLACE: FieldPlace = { x: 10, y: 20, width: 30, height: 8, turn: 0 };
const SIZE = { widthMm: 90, heightMm: 50 };

/** A docket with two records, the second of which is shown. */
class Desk {
  records = $state.raw<RecordChoices>(NO_RECORDS);
  record = $state<number | null>(2);
  size = SIZE;
  readonly work = new FieldWork(
    () => this,
    (records) => (this.records = records)
  );

  /** As a record has it. */
  of(record: number, id: number): Field {
    this.record = record;
    return this.work.shown.find((field) => field.id === id)!;
  }
}

let desk: Desk;
let name: Field;
beforeEach(() => {
  desk = new Desk();
  name = NEW_FIELDS.text([], PLACE, '{name}');
  desk.work.add(name);
});

describe('the fields that are worked on', () => {
  it('are changed for all records, or for the one that is shown alone, and taken back', () => {
    const { work } = desk;
    work.put(name.id, { ...PLACE, x: 11 });
    expect([1, 2].map((record) => desk.of(record, name.id).place.x)).toEqual([11, 11]);
    work.alone = true;
    work.put(name.id, { ...PLACE, x: 40 });
    work.sayAlone('Anna');
    expect([1, 2].map((record) => desk.of(record, name.id).place.x)).toEqual([11, 40]);
    expect(work.own).toMatchObject({ record: 2, text: 'Anna' });
    work.takeBack();
    expect([desk.of(2, name.id).place.x, work.own, desk.records.overrides]).toEqual([11, undefined, []]);
  });

  it('never meet each other: whatever is done, ids and names are told apart, and what is chosen is there', () => {
    const acts = fc.array(
      fc.oneof(
        fc.record({ is: fc.constant('draw' as const), kind: fc.constantFrom(...(Object.keys(NEW_FIELDS) as Field['is'][])) }),
        fc.record({ is: fc.constant('column' as const), column: fc.constantFrom('name', 'Name', 'no', 'photo', 'qr') }),
        fc.record({ is: fc.constantFrom('copy' as const, 'remove' as const, 'choose' as const), nth: fc.nat(9) })
      ),
      { maxLength: 25 }
    );
    fc.assert(
      fc.property(acts, (list) => {
        desk = new Desk();
        const { work } = desk;
        for (const act of list) {
          const nth = 'nth' in act ? desk.records.fields[act.nth] : undefined;
          if (act.is === 'draw') {
            work.drawing = act.kind;
            work.drawn(null);
            expect(work.field).toMatchObject({ is: act.kind });
          } else if (act.is === 'column') work.addFor(act.column);
          else if (act.is === 'copy') work.copy();
          else if (nth && act.is === 'remove') work.remove(nth.id);
          else if (nth) work.chosen = nth.id;
          const { fields } = desk.records;
          for (const key of ['id', 'name'] as const) expect(new Set(fields.map((one) => one[key])).size).toBe(fields.length);
          expect(work.chosen === null || fields.some(({ id }) => id === work.chosen)).toBe(true);
          expect(work.shown.map(({ id }) => id)).toEqual(fields.map(({ id }) => id));
        }
      })
    );
  });

  it('are taken out with what single records have otherwise of them', () => {
    const { work } = desk;
    work.alone = true;
    work.sayAlone('Anna');
    work.remove(name.id);
    expect(desk.records).toMatchObject({ fields: [], overrides: [] });
  });

  it('take the places that the artwork keeps, each once', () => {
    const areas = [
      { name: 'Number', place: PLACE, wrap: false },
      { name: 'Berth', place: { ...PLACE, y: 30 }, wrap: false }
    ];
    desk.records = desk.work.withFree(areas);
    expect(desk.records.fields.slice(1)).toMatchObject(areas.map(({ name, place }) => ({ name, place })));
    expect(desk.work.freeOf(areas)).toEqual([]);
    expect(desk.work.withFree(areas)).toEqual(desk.records);
  });
});
