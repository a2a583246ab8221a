import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CameFrom, copiesOf, isTable, tablePlaces, WatchedFolder } from './arrivals';

describe('a table beside artwork', () => {
  it('has its name, whatever kind of table it is, and lies in the same folder', () => {
    expect(tablePlaces('Gull/Badges 2.v1.pdf')).toContain('Gull/Badges 2.v1.csv');
    expect(tablePlaces('Gull/Badges.pdf')).toContain('Gull/Badges.XLSX');
    expect(tablePlaces('Gull/Badges.pdf')).not.toContain('Badges.csv');
    for (const name of ['a.csv', 'A.CSV', 'b/c.ods', 'x.y.tsv']) expect([name, isTable(name)]).toEqual([name, true]);
    for (const name of ['csv', 'a.csv.pdf', 'a.csv/b', 'a.pdf', 'a.json']) expect([name, isTable(name)]).toEqual([name, false]);
    fc.assert(
      fc.property(fc.stringMatching(/^[\w ./]{1,20}$/), (place) => {
        for (const table of tablePlaces(place)) expect(isTable(table)).toBe(true);
      })
    );
  });
});

describe('copies in a file’s name', () => {
  it('are found by the pattern, the last of them, and never out of a longer figure', () => {
    const cases: [string, string, number | undefined][] = [
      ['Sign_24x.pdf', '_#x', 24],
      ['Sign_24X.PDF', '_#x', 24],
      ['Sign_2x_30x.pdf', '_#x', 30],
      ['Sign 24 off.pdf', ' # off', 24],
      ['Sign.pdf', '_#x', undefined],
      ['Sign_0x.pdf', '_#x', undefined],
      ['Sign_1000000x.pdf', '_#x', undefined],
      ['Sign_200000x.pdf', '_#x', undefined],
      ['A4_100x70.pdf', '#x', 100],
      ['q(5)+.pdf', '(#)+', 5],
      ['Sign_24x.pdf', '', undefined],
      ['шильд_12шт.pdf', '_#шт', 12]
    ];
    for (const [name, pattern, copies] of cases) expect(copiesOf(name, pattern), `${name} ${pattern}`).toBe(copies);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 100_000 }), fc.stringMatching(/^[a-z ]{0,8}$/), (count, base) => {
        expect(copiesOf(`${base}_${count}x.tif`, '_#x')).toBe(count);
      })
    );
    const wrong = (copies: string) => WatchedFolder.safeParse({ path: 'in', recipeId: null, way: 'release', copies }).success;
    expect([wrong('#'), wrong('_##x'), wrong('x'), wrong(''), wrong('_#x')]).toEqual([false, false, false, true, true]);
  });
});

describe('where things came from', () => {
  it('is a folder or a printer by its number, or all programs', () => {
    expect(CameFrom.parse('folder-12')).toEqual({ source: 'folder', id: 12 });
    expect(CameFrom.parse('printer-3')).toEqual({ source: 'printer', id: 3 });
    expect(CameFrom.parse('program')).toEqual({ source: 'program', id: null });
    for (const wrong of ['', 'folder', 'folder-', 'folder-0', 'folder--1', 'folder-1.5', 'program-1', 'disk-1', 'folder-1; DROP'])
      expect([wrong, CameFrom.safeParse(wrong).success]).toEqual([wrong, false]);
  });
});
