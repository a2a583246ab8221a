import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { overridden, RecordChoices } from './choices';
import type { TextField } from './field';
import { overrideOf, withField, withOverride, withoutField, withOwn, withPlace } from './for-one';
import { newText } from './new-field';

const PLACE = { x: 10, y: 20, width: 40, height: 8, turn: 0 };
const name = newText([], PLACE, '{Name}', 'Name');
const role = newText([name], { ...PLACE, y: 40 }, '{Role}', 'Role');
const records: RecordChoices = { ...RecordChoices.parse({}), fields: [name, role] };
/** A field as a record has it. */
function seen(all: RecordChoices, record: number, id = name.id): TextField {
  const field = all.fields.find((one) => one.id === id)!;
  const own = overrideOf(all, record, id);
  return (own ? overridden(field, own) : field) as TextField;
}

describe('what one record has otherwise', () => {
  it('is of it alone, and nothing once nothing of it is left', () => {
    const own = { record: 7, field: name.id, text: 'Zoe', size: null, place: null };
    const once = withOverride(withOverride(records, own), { ...own, text: 'Zoë' });
    expect(once.overrides).toEqual([{ ...own, text: 'Zoë' }]);
    expect(withOverride(once, { ...own, text: null }).overrides).toEqual([]);
    expect(withOverride(once, { ...own, record: 8 }).overrides).toHaveLength(2);
  });

  it('is changed in parts, and what is not said stays', () => {
    const said = withOwn(records, 7, name.id, { text: 'Zoë' });
    const moved = withPlace(said, name.id, { ...PLACE, x: 12 }, 7, true);
    expect(overrideOf(moved, 7, name.id)).toMatchObject({ text: 'Zoë', place: { x: 12 } });
    // Put back where all others have it, it has no place of its own.
    expect(overrideOf(withPlace(moved, name.id, PLACE, 7, false), 7, name.id)).toMatchObject({ text: 'Zoë', place: null });
  });

  it('moves with what is seen: its own place where it has one, and else that of all', () => {
    const at = { ...PLACE, x: 30 };
    const own = withPlace(records, name.id, at, 7, true);
    const further = withPlace(own, name.id, { ...at, x: 33 }, 7, false);
    expect([seen(further, 7).place.x, seen(further, 8).place.x]).toEqual([33, 10]);
    const all = withPlace(own, name.id, at, 8, false);
    expect([seen(all, 8).place.x, seen(all, 9).place.x]).toEqual([30, 30]);
    expect(withPlace(records, 99, at, 7, true)).toBe(records);
  });

  it('of a field that is changed for it alone is its place and size; the rest all have', () => {
    const next: TextField = { ...seen(records, 7), font: 'Tinos', place: { ...PLACE, y: 22 }, size: { ...name.size } };
    const changed = withField(records, next, 7);
    expect([seen(changed, 7).place.y, seen(changed, 8).place.y]).toEqual([22, 20]);
    expect([seen(changed, 7).font, seen(changed, 8).font]).toEqual(['Tinos', 'Tinos']);
    // Changed on, with its own place seen: that stays its own.
    const again = withField(changed, { ...seen(changed, 7), font: 'Arimo' }, 7);
    expect([seen(again, 7).place.y, seen(again, 8).place.y, seen(again, 8).font]).toEqual([22, 20, 'Arimo']);
    expect(withField(records, { ...next, id: 99 }, 7)).toBe(records);
  });

  it('goes with its field', () => {
    const both = withOwn(withOwn(records, 7, name.id, { text: 'Zoë' }), 7, role.id, { text: 'Pilot' });
    const left = withoutField(both, name.id);
    expect([left.fields, left.overrides.map(({ field }) => field)]).toEqual([[role], [role.id]]);
  });

  it('never is of another record, or another field, whatever is done', () => {
    const place = fc.record({ x: fc.nat(99), y: fc.nat(99), width: fc.constant(40), height: fc.constant(8), turn: fc.constantFrom(0, 90) }); // prettier-ignore
    const step = fc.record({ record: fc.constantFrom(7, 8), field: fc.constantFrom(name.id, role.id), at: place, does: fc.constantFrom('say', 'put', 'keep') }); // prettier-ignore
    fc.assert(
      fc.property(fc.array(step, { maxLength: 12 }), (steps) => {
        let all = records;
        for (const { record, field, at, does } of steps) {
          const before = all;
          if (does === 'say') all = withOwn(all, record, field, { text: `${at.x}` });
          if (does === 'put') all = withPlace(all, field, at, record, true);
          if (does === 'keep') all = withField(all, { ...seen(all, record, field), place: at }, record);
          if (does !== 'say') expect(seen(all, record, field).place).toEqual(at);
          for (const other of [7, 8, 9])
            for (const id of [name.id, role.id]) {
              if (other === record && id === field) continue;
              expect(seen(all, other, id)).toEqual(seen(before, other, id));
              expect(overrideOf(all, other, id)).toEqual(overrideOf(before, other, id));
            }
          const keys = all.overrides.map((one) => `${one.record}/${one.field}`);
          expect(new Set(keys).size).toBe(keys.length);
        }
      })
    );
  });
});
