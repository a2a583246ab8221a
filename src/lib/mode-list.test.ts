import { describe, expect, it } from 'vitest';
import { ALL_MODES } from '$standins/printer/modes';
import { localPage, localShape, readListQuery } from './listing';
import { MODE_LIST, toModeRows } from './mode-list';

const FILM = { id: 4, name: 'Gloss white film', family: 'calendered', costPerM2: 4.2, machines: ['Petrel 13'] };
const CODE = ALL_MODES.find(
  ({ code, machine }) => code.endsWith('calendered/720/8/both ways/quality') && machine === 'Petrel 13'
)!.code;
const [pinned, often] = [ALL_MODES.at(-1)!.code, ALL_MODES.find(({ machine }) => machine !== 'Petrel 13')!.code];
const MODES = toModeRows(
  ALL_MODES.map((mode) => ({
    ...mode,
    pinned: mode.code === pinned,
    used: mode.code === often ? 12 : mode.code === CODE ? 3 : 0,
    here: mode.machine === 'Petrel 13',
    inkTimes: mode.machine === 'Petrel 13' ? 1 : 1.5,
    inkPrices: mode.machine === 'Petrel 13' ? [] : [null, 0.4],
    conditions: mode.code === CODE ? [{ id: 1, media: 'Gloss white film', profiled: true }] : []
  })),
  [FILM]
);
const find = (address: string) => localPage(MODES, MODE_LIST, readListQuery(new URLSearchParams(address), localShape(MODE_LIST)));

describe('print modes', () => {
  it('that are pinned come first, then what is used most, then what the shop can print', () => {
    const codes = find('').rows.map(({ code }) => code);
    expect(codes.slice(0, 3)).toEqual([pinned, often, CODE]);
    const rest = find('').rows.slice(3);
    expect(rest.slice(0, rest.filter(({ here }) => here).length).every(({ here }) => here)).toBe(true);
  });

  it('say how many are left behind every choice', () => {
    expect(find('').count).toBe(MODES.length);
    const { rows, facets } = find('machine=Petrel+13&quality=fine');
    expect(rows.every((mode) => mode.machine === 'Petrel 13' && mode.quality === 'fine')).toBe(true);
    for (const [facet, values] of Object.entries(facets)) {
      expect(values.length).toBeGreaterThan(0);
      for (const { value, count } of values) {
        const params = new URLSearchParams({ machine: 'Petrel 13', quality: 'fine' });
        params.set(facet, value);
        expect(find(params.toString()).count).toBe(count);
      }
    }
    expect(find('').facets.dpi!.map(({ value }) => value)).toEqual(['360 dpi', '540 dpi', '720 dpi', '1080 dpi']);
    const passes = find('').facets.passes!.map(({ value }) => Number(value));
    expect(passes).toEqual([...passes].sort((p, q) => p - q));
  });

  it('are found by any words of theirs and of their media', () => {
    expect(find('q=gloss+white').count).toBe(16);
    expect(find('profile=yes').rows.map(({ code }) => code)).toEqual([CODE]);
    expect(find('q=skua+1080+dpi+fine').rows.every(({ machine, dpi }) => machine === 'Skua 25' && dpi === 1080)).toBe(true);
    expect(find('q=lighthouse').rows).toEqual([]);
  });

  it('fit the cards of their family that are for their machine', () => {
    for (const { family, machine, fitting } of MODES)
      expect(fitting).toEqual(family === 'calendered' && machine === 'Petrel 13' ? [FILM] : []);
  });
});
