import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { plainName } from '../units/names';
import { COLOUR_FORMATS, ColourFileError, readColours, writeColours } from './colour-files';
import { isNear, stemOf } from './colour-names';
import { D50, xyzToLab, type Triple } from './lab';
import type { NamedColour } from './named-colour';
import { spectrumToXyz } from './observer';

const DAY = new Date('2026-06-01T08:00:00Z');
const figure = (least: number, most: number) => fc.integer({ min: least * 100, max: most * 100 }).map((v) => v / 100);
const words = (most: number) =>
  fc.string({ maxLength: most, unit: 'grapheme' }).map((text) => text.replace(/[\p{C}\s]+/gu, ' ').trim());
const name = words(40).filter((text) => plainName(text) !== '' && text.length <= 120);
const colour: fc.Arbitrary<NamedColour> = fc.record({
  name,
  lab: fc.tuple(figure(0, 100), figure(-120, 120), figure(-120, 120)),
  others: fc.array(
    name
      .map((text) => text.replace(/[;|]/g, ''))
      .filter((text) => plainName(text) !== '')
      .map((text) => text.trim()),
    { maxLength: 3 }
  ),
  collection: words(30),
  from: words(30),
  note: words(60)
});

describe('files of colours', () => {
  it.each(COLOUR_FORMATS)('come back from %s as they went', (format) => {
    fc.assert(
      fc.property(fc.array(colour, { minLength: 1, maxLength: 8 }), (colours) => {
        const { colours: back, refused } = readColours(writeColours(colours, format, DAY));
        expect(refused).toEqual([]);
        if (format === 'cgats') {
          // It has no place for more than a name and its colour, nor for double quotation marks.
          expect(back.map(({ lab }) => lab)).toEqual(colours.map(({ lab }) => lab));
          expect(back.map((one) => plainName(one.name))).toEqual(colours.map((one) => plainName(one.name)));
        } else expect(back).toEqual(colours);
      }),
      { numRuns: 150 }
    );
  });

  it('keep names that look like comments', () => {
    const named = (name: string) => ({ name, lab: [48.5, 62, -33] as Triple, others: [], collection: '', from: '', note: '' });
    const names = ['Red #3', '#3', 'Red#3 # coated', 'A  # B'];
    for (const format of COLOUR_FORMATS) {
      const { colours, refused } = readColours(writeColours(names.map(named), format, DAY));
      expect([colours.map((one) => one.name), refused], format).toEqual([names, []]);
    }
    const commented = writeColours([named('Dawn')], 'cgats', DAY).replace(
      'END_DATA\n',
      '# nothing more\nEND_DATA # so it ends\n'
    );
    expect(readColours(commented).colours.map(({ name }) => name)).toEqual(['Dawn']);
  });

  it('are tables of any delimiter, with points or commas, columns by their names', () => {
    const told = readColours(
      'Collection;Colour name;CIE L;CIE a;CIE b\nHarbour;Ferry red;48,5;62,1;−33,25\nHarbour;;1;2;3\nHarbour;Dawn;x;2;3'
    );
    expect(told.kind).toBe('CSV');
    expect(told.colours).toMatchObject([{ name: 'Ferry red', lab: [48.5, 62.1, -33.25], collection: 'Harbour' }]);
    expect(told.refused.map(({ why }) => why)).toEqual([
      'Row 4: “x”, “2”, “3” are no three figures.',
      'A colour’s name needs a letter or a figure.'
    ]);
  });

  it('are refused in a sentence where they are none', () => {
    expect(() => readColours('Name,a*,b*\nFerry red,1,2')).toThrow(/no column L\*\./);
    expect(() => readColours('<svg xmlns="http://www.w3.org/2000/svg"/>')).toThrow('This is an XML file, but no CxF3.');
    expect(() => readColours('<!DOCTYPE x [<!ENTITY a "b">]><x/>')).toThrow(/document type/);
    expect(() => readColours('   ')).toThrow('The file is empty.');
    fc.assert(
      fc.property(fc.string(), (text) => {
        try {
          readColours(text);
        } catch (error) {
          expect(error).toBeInstanceOf(ColourFileError);
        }
      })
    );
  });
});

describe('CxF3', () => {
  const file = (values: string, specifications: string) =>
    `<CxF xmlns="http://colorexchangeformat.com/CxF3-core"><Resources><ObjectCollection><Object Name="Beacon" Id="1" ObjectType="Standard"><ColorValues>${values}</ColorValues></Object></ObjectCollection><ColorSpecificationCollection>${specifications}</ColorSpecificationCollection></Resources></CxF>`;
  const light = (id: string, illuminant: string, range = '') =>
    `<ColorSpecification Id="${id}"><TristimulusSpec><Illuminant>${illuminant}</Illuminant><Observer>2_Degree</Observer></TristimulusSpec><MeasurementSpec>${range}</MeasurementSpec></ColorSpecification>`;
  const d65 = '<ColorCIELab ColorSpecification="d65"><L>50</L><A>40</A><B>20</B></ColorCIELab>';
  const flat = (share: number) =>
    `<ReflectanceSpectrum ColorSpecification="s" StartWL="380">${Array.from({ length: 36 }, () => share).join(' ')}</ReflectanceSpectrum>`;

  it('for another light is reckoned of its spectrum, or said to be for another', () => {
    const range = light('s', 'D65', '<WavelengthRange StartWL="380" Increment="10"/>');
    const [grey] = readColours(file(d65 + flat(0.184), light('d65', 'D65') + range)).colours;
    expect(grey!.lab[0]).toBeCloseTo(50, 0);
    expect(Math.hypot(grey!.lab[1], grey!.lab[2])).toBeLessThan(0.1);
    expect(() => readColours(file(d65, light('d65', 'D65')))).toThrow(/It is for D65 and 2 Degree, and has no spectrum/);
    expect(readColours(file(d65, light('d65', 'D50'))).colours[0]?.lab).toEqual([50, 40, 20]);
  });

  it('of a spectrum that is cut short says so', () => {
    const short = '<ReflectanceSpectrum ColorSpecification="s" StartWL="500">0.1 0.2 0.3</ReflectanceSpectrum>';
    expect(() => readColours(file(short, light('s', 'D50', '<WavelengthRange StartWL="500" Increment="10"/>')))).toThrow(
      /goes from 500 to 520 nm/
    );
  });
});

describe('the observer', () => {
  it('sees the perfect reflector as the white of D50', () => {
    const white = spectrumToXyz(
      Array.from({ length: 36 }, () => 1),
      380,
      10
    );
    white.forEach((v, i) => expect(Math.abs(v - D50[i]!)).toBeLessThan(0.0015));
  });
  it('sees what is measured finely, coarsely or not to the ends as the same colour', () => {
    const bump = (nm: number) => 0.1 + 0.6 / (1 + Math.exp(-(nm - 590) / 18));
    const seen = (first: number, step: number, last: number) => {
      const list = Array.from({ length: Math.floor((last - first) / step) + 1 }, (_, i) => bump(first + i * step));
      return xyzToLab(spectrumToXyz(list, first, step));
    };
    const fine = seen(380, 5, 730);
    for (const other of [seen(380, 10, 730), seen(400, 10, 700), seen(400, 20, 700)])
      expect(Math.hypot(...(fine.map((v, i) => v - other[i]!) as Triple))).toBeLessThan(1);
  });
});

describe('names of colours', () => {
  it.each(['Ferry Red', 'ferry-red', 'FERRY_RED coated', 'Ferry Red Uncoated', 'ferry.red  matt coated'])(
    '%s is Ferry red',
    (said) => {
      expect(stemOf(said)).toBe('ferryred');
    }
  );
  it('that are an ending alone stay', () => expect(stemOf('Coated')).toBe('coated'));
  it('are near with a letter more, less or other, and not with another figure', () => {
    expect(isNear('ferryred', 'feryred')).toBe(true);
    expect(isNear('ferryred', 'ferrygreen')).toBe(false);
    expect(isNear('harbour1204', 'harbour1205')).toBe(false);
    expect(isNear('red', 'rad')).toBe(false);
    fc.assert(fc.property(fc.string(), fc.string(), (p, q) => isNear(p, q) === isNear(q, p)));
  });
});
