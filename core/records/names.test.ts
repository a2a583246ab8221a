import { describe, expect, it } from 'vitest';
import { matchNames } from './names';
import { plainName } from '../units/names';

describe('names', () => {
  it('are the same however they are written', () => {
    for (const name of ['Sail number', 'sail_number', 'SAIL-NUMBER', ' Sail  Number ', 'Sail.Number', 'Säil Number'])
      expect(plainName(name)).toBe('sailnumber');
    expect(plainName('Straße')).toBe(plainName('STRASSE'));
    expect(plainName('Имя')).not.toBe('');
  });

  it('are matched with columns, and near ones proposed, the nearest first', () => {
    const { columns, open, unused } = matchNames(
      ['name', 'sail no', 'Klub', 'qr'],
      ['NAME', 'Full name', 'Sail No.', 'Club', 'Notes']
    );
    expect(columns).toEqual({ name: 'NAME', 'sail no': 'Sail No.' });
    expect(open).toEqual([
      { name: 'Klub', near: ['Club'] },
      { name: 'qr', near: [] }
    ]);
    expect(unused).toEqual(['Full name', 'Club', 'Notes']);
    expect(matchNames(['crew name'], ['Name', 'crewnames']).open[0]!.near).toEqual(['crewnames', 'Name']);
  });

  it('go with what the operator chose, as long as the table has it; the same to the letter goes before the like', () => {
    expect(matchNames(['name'], ['Name', 'Full name'], { name: 'Full name' }).columns).toEqual({ name: 'Full name' });
    expect(matchNames(['name'], ['Name'], { name: 'Full name' }).columns).toEqual({ name: 'Name' });
    expect(matchNames(['name'], ['NAME', 'name']).columns).toEqual({ name: 'name' });
  });
});
