import { describe, expect, it } from 'vitest';
import { prepare } from '../artwork/choices';
import { readPageFacts } from '../artwork/read-facts';
import { DEFAULT_RULES, roleOf } from '../artwork/roles';
import { ArtworkChoices } from '../artwork/choices';
import { openBytes } from '../../tests/made/opened';
import { madePdf, type MadePage } from '../../tests/made/pdf';
import { Fields, type Field } from './field';
import { fieldOf, foundAreas } from './found-areas';

const PAGE: MadePage = {
  width: 100,
  height: 60,
  content:
    '/S0 cs 1 scn 10 40 50 10 re f /S1 CS 1 SCN 0.2 w 70 5 20 20 re S 70 30 20 20 re S /OC /L0 BDC 0 0 0 1 k 10 5 40 12 re f EMC',
  spots: { 'Data area: Full name': [0, 1, 0, 0], 'DATA_AREA QR code': [1, 0, 0, 0] },
  layers: { 'data area 3': true },
  forms: [
    { name: 'Boat', rect: [10, 22, 40, 8] },
    { name: 'Member', rect: [90, 2, 5, 5], is: 'tick' },
    { name: 'Boat again', rect: [60, 2, 8, 8], is: 'picture' }
  ]
};

function areasOf(page: MadePage, over: Partial<ArtworkChoices> = {}) {
  const { facts, lines } = readPageFacts(openBytes(madePdf(page)), 0);
  const choices = ArtworkChoices.parse({ widthMm: 100, heightMm: 60, bleedMm: 0, cut: false, ...over });
  const preparation = prepare(choices, facts, lines, DEFAULT_RULES);
  return {
    areas: foundAreas(facts, lines, (name) => roleOf(name, DEFAULT_RULES, choices.roles), preparation, choices),
    preparation
  };
}
const rounded = ({ x, y, width, height }: { x: number; y: number; width: number; height: number }) =>
  [x, y, width, height].map((v) => Math.round(v * 10) / 10);

describe('areas of an artwork', () => {
  it('are shapes of that role by spot colour or layer, and fields of a form, with what is left of their names', () => {
    const { areas, preparation } = areasOf(PAGE);
    expect(areas.map(({ name, place }) => [name, ...rounded(place)])).toEqual([
      ['Full name', 10, 10, 50, 10],
      ['QR code', 70, 35, 20, 20],
      ['QR code 2', 70, 10, 20, 20],
      ['3', 10, 43, 40, 12],
      ['Boat', 10, 30, 40, 8],
      ['Member', 90, 53, 5, 5],
      ['Boat again', 60, 50, 8, 8]
    ]);
    // They do not print.
    expect(preparation.leftOut.spots).toEqual(['Data area: Full name', 'DATA_AREA QR code']);
    expect(preparation.leftOut.layers).toEqual(['data area 3']);
  });

  it('lie where the piece has them, however it is turned and sized', () => {
    const { areas } = areasOf(PAGE, { turn: 90, widthMm: 120, heightMm: 200 });
    expect(rounded(areas[0]!.place)).toEqual([80, 20, 20, 100]);
  });

  it('become fields that ask for their columns', () => {
    const fields = areasOf(PAGE).areas.reduce<Field[]>((list, area) => [...list, fieldOf(list, area)], []);
    expect(Fields.parse(fields)).toEqual(fields);
    expect(fields.map(({ is, content }) => [is, content])).toEqual([
      ['text', '{Full name}'],
      ['code', '{QR code}'],
      ['code', '{QR code 2}'],
      ['text', '{3}'],
      ['text', '{Boat}'],
      ['text', '{Member, ticked}'],
      ['picture', '{Boat again}']
    ]);
  });

  it('are none where there are none', () => {
    expect(areasOf({ width: 100, height: 60, content: '0 0 0 1 k 10 10 20 20 re f' }).areas).toEqual([]);
  });
});
