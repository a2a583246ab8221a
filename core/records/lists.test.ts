import { describe, expect, it } from 'vitest';
import { fill, listsOf, parseContent } from './content';
import { entryAt, entryFor, ShopLists, type ShopList } from './lists';

const TIDES: ShopList = { name: 'Tides', entries: ['ebb', 'slack', 'flood'] };
const DUTIES: ShopList = { name: 'Duties', entries: ['H = Helm', 'h = hand', 'SB = Safety boat = red', 'Bow'] };
const said = (content: string, value: string, place = 0) => fill(parseContent(content), () => value, place, [TIDES, DUTIES]);

describe('a list of the shop', () => {
  it('says what stands for a short form, to the letter first, then as people mean it, or by its number', () => {
    expect(['H', 'h', 'sb', 'S.B.', 'bow', '4'].map((value) => entryFor(DUTIES, value))).toEqual([
      'Helm',
      'hand',
      'Safety boat = red',
      'Safety boat = red',
      'Bow',
      'Bow'
    ]);
    expect(['', '0', '5', 'x', '1.5'].map((value) => entryFor(DUTIES, value))).toEqual(Array(5).fill(undefined));
  });

  it('is gone through by a counter again and again', () => {
    expect([1, 2, 3, 4, 7, 0, -1].map((count) => entryAt(TIDES, count))).toEqual([
      'ebb',
      'slack',
      'flood',
      'ebb',
      'ebb',
      'flood',
      'slack'
    ]);
    expect(entryAt({ name: 'None', entries: [] }, 1)).toBeUndefined();
  });

  it('is asked for in a field’s text, with letters as they are asked for', () => {
    expect(said('{duty, in Duties, upper case}', 'sb').text).toBe('SAFETY BOAT = RED');
    expect(said('Tide: {count, from 2, in tides}', '', 2).text).toBe('Tide: ebb');
    expect(said('{duty, in Duties}', 'x')).toMatchObject({ text: 'x', unlike: ['duty'] });
    // One that the shop does not have is told of each record, not left out.
    expect(said('{duty, in Crew}', 'H')).toMatchObject({ text: 'H', unlike: ['duty'] });
    expect(said('{count, in Crew}', '', 4)).toMatchObject({ text: '5', unlike: ['count'] });
    expect(listsOf(parseContent('{a, in Duties}[ {count, in Tides} {b, in Duties}]'))).toEqual(['Duties', 'Tides']);
    expect(() => parseContent('{a, in }')).toThrow('After “in” stands the name of a list');
  });

  it('has a name that no other has', () => {
    expect(ShopLists.safeParse([TIDES, { name: 'TIDES ', entries: [] }]).success).toBe(false);
    expect(ShopLists.safeParse([TIDES, DUTIES]).success).toBe(true);
  });
});
