import { describe, expect, it } from 'vitest';
import { faceOf } from '../../tests/made/faces';
import type { CodeField, TextField } from './field';
import { newCode, newText } from './new-field';
import { keptTable } from './kept-table';
import { Filling, lookAt, sizesForAll, type LookedAt, type LookLimits } from './records';
import type { RiskKind } from './risks';
import { readText } from './read-table';

/** Crew passes: a name, a number and a code. */

const PLACE = { x: 5, y: 5, width: 60, height: 12, turn: 0 };
const name: TextField = {
  ...newText([], PLACE, '{first name} {last name}[, {club}]', 'Name'),
  font: 'Sans',
  size: { is: 'one for all' },
  along: 'left'
};
const number: TextField = {
  ...name,
  id: 2,
  name: 'Number',
  content: 'No. {number, like 0001}',
  size: { is: 'fixed', pt: 18 },
  place: { ...PLACE, width: 30 }
};
const code: CodeField = { ...newCode([name, number], { ...PLACE, width: 12 }, '{number}', 'Code'), kind: 'Data Matrix' };
const faces = new Map([['Sans', faceOf('latin')]]);

const TABLE = `FIRST_NAME;Last-Name;Club;No
Ada;Vik;;1
Bartholomäus Maximilian;von der Ærø-Sund;Royal Harbour and Lantern Club;2
Li;漢;Quay;3
;Pier;;B41
Ada;Vik;;1
Zoë;;Slip;`;
const filling = (chosen: Record<string, string> = { number: 'No' }, fields = [name, number, code]) =>
  new Filling({ table: keptTable(readText(TABLE).table), fields, chosen });
function looked(of = filling(), limits: LookLimits = { leastPt: 12, dpi: 720 }): LookedAt {
  const looking = lookAt(of, { faces, ...limits });
  for (let step = looking.next(); ; step = looking.next()) if (step.done) return step.value;
}
const told = (kind: RiskKind, { risks } = looked()) =>
  risks.filter((risk) => risk.kind === kind).map(({ record, sentence }) => [record, sentence]);

describe('records', () => {
  it('fill their fields by columns that are called otherwise, parts that are empty left out', () => {
    const texts = (index: number) =>
      filling()
        .texts(index)
        .map(({ text }) => text);
    expect(texts(1)).toEqual(['Ada Vik', 'No. 0001', '1']);
    expect(texts(3)).toEqual(['Li 漢, Quay', 'No. 0003', '3']);
    // Nobody said which column the number is.
    expect(filling({}).texts(1)[1]!.text).toBe('No. ');
  });

  it('are looked at before they are printed: each that is at risk is told, and why', () => {
    expect(told('empty')).toEqual([
      [4, 'Name: there is no “first name”.'],
      [6, 'Name: there is no “last name”.'],
      [6, 'Number: there is no “number”.'],
      [6, 'Code: there is no “number”.']
    ]);
    expect(told('other form')).toEqual([[4, 'Number: “number” is no number or date as its example is, or is not in its list.']]);
    expect(told('missing letters')).toEqual([[3, 'Name: Sans does not have “漢”.']]);
    expect(told('double')).toEqual([[5, 'It says the same as record 1: Ada Vik, No. 0001, 1.']]);
    expect(told('small')).toEqual([
      [2, expect.stringMatching(/^Name: “Bartholomäus Maximilian von der Ærø-Sun…” fits at \d+\.\d pt, less than 12 pt\.$/)]
    ]);
    expect(told('does not fit')).toEqual([]);
    expect(told('no code')).toEqual([]);
  });

  it('that do not fit, or have no code, are told with their figures', () => {
    const fields = [
      { ...number, content: '{first name}' },
      { ...code, kind: 'EAN-8' as const }
    ];
    const found = looked(filling({ number: 'No' }, fields as [TextField, TextField, CodeField]));
    expect(told('does not fit', found)).toEqual([
      [
        2,
        expect.stringMatching(
          /^Number: “Bartholomäus Maximilian” needs \d+(\.\d)? × \d+(\.\d)? mm, and its place has 30 × 12 mm\.$/
        )
      ]
    ]);
    const inInches = looked(filling({ number: 'No' }, fields as [TextField, TextField, CodeField]), {
      leastPt: 12,
      dpi: 720,
      unit: 'in'
    });
    expect(told('does not fit', inInches)[0]).toEqual([
      2,
      expect.stringMatching(/ needs \d\S* × \S+ in, and its place has 1\.18 × 0\.47 in\.$/)
    ]);
    expect(found.counts['no code']).toBe(5);
    expect(told('no code', found)[0]).toEqual([1, 'Code: EAN-8 has 7 figures and a check digit; “1” is none.']);
    expect(looked(filling(), { leastPt: 1, dpi: 20 }).counts['no code']).toBeGreaterThan(0);
  });

  it('have one size for all: that of the one that is longest', () => {
    const { sizes, smallest, longest } = looked();
    expect(smallest.get(1)!.record).toBe(2);
    expect(longest.get(1)!.record).toBe(2);
    expect(sizes.get(1)).toBe(smallest.get(1)!.size);
    expect([...sizesForAll(filling(), [name, number, code], faces)]).toEqual([[1, sizes.get(1)]]);
  });

  it('can be given up on, and many of a kind are counted and not all kept', () => {
    const rows = Array.from({ length: 1000 }, () => ['']);
    const many = new Filling({ table: keptTable({ columns: ['number'], rows }), fields: [number], chosen: {} });
    const looking = lookAt(many, { faces, leastPt: 1 });
    expect(looking.next().value).toBe(0);
    expect(looking.next().value).toBe(200);
    looking.return(undefined as never);
    const all = looked(many);
    expect(all.counts).toMatchObject({ empty: 1000, double: 999 });
    expect(all.risks.filter(({ kind }) => kind === 'empty')).toHaveLength(200);
  });

  it('ask for fonts that the shop has', () => {
    expect(
      () =>
        lookAt(filling(), { faces: new Map(), leastPt: 1 }).next() && looked(filling({}, [{ ...name, font: 'Gone' }] as never))
    ).toThrow('The shop has no font Gone.');
  });
});
