import { SaxesParser } from 'saxes';
import { xyzToLab, type Triple } from './lab';
import type { NamedColour } from './named-colour';
import { spectrumToXyz } from './observer';

/** Colours as CxF3 (ISO 17972-1): each an object with a name and its values, which are of a light and an observer. */

export class CxfError extends Error {
  override name = 'CxfError';
}

const NAMESPACE = 'http://colorexchangeformat.com/CxF3-core';
/** What an object holds beside its colour stands in tags under this name. */
const TAGS = 'Library';
const MOST_DEPTH = 40;
const MOST_OBJECTS = 100_000;

interface Specification {
  illuminant: string;
  observer: string;
  firstNm: number | undefined;
  stepNm: number | undefined;
}

/** Values that an object has, as they stand there. */
interface Values {
  name: string;
  tags: Record<string, string>;
  labs: { specification: string; lab: Record<string, string> }[];
  xyzs: { specification: string; lab: Record<string, string> }[];
  spectra: { specification: string; firstNm: number | undefined; text: string }[];
}

/** @throws CxfError with what is wrong */
export function readCxf(text: string): { colours: NamedColour[]; refused: { name: string; why: string }[] } {
  const objects: Values[] = [];
  const specifications = new Map<string, Specification>();
  let object: Values | undefined;
  let specification: Specification | undefined;
  /** The values that are being read, and the text of the element. */
  let values: { specification: string; lab: Record<string, string> } | undefined;
  let isRoot = false;
  let said = '';
  const path: string[] = [];
  const parser = new SaxesParser({ xmlns: true });
  parser.on('doctype', () => {
    throw new CxfError('The file declares a document type, which no file of colours needs.');
  });
  parser.on('error', (error) => {
    throw new CxfError(`The file is broken: ${error.message.replace(/^\d+:\d+: /, '')}`);
  });
  parser.on('opentag', (tag) => {
    if (path.length > MOST_DEPTH) throw new CxfError(`The file is nested deeper than ${MOST_DEPTH} elements.`);
    path.push(tag.local);
    said = '';
    const attribute = (name: string) => tag.attributes[name]?.value;
    const number = (name: string) => (attribute(name) === undefined ? undefined : Number(attribute(name)));
    if (path.length === 1) isRoot = tag.local === 'CxF' && tag.uri === NAMESPACE;
    switch (tag.local) {
      case 'Object':
        if (objects.length >= MOST_OBJECTS) throw new CxfError(`The file has more than ${MOST_OBJECTS} objects.`);
        object = { name: attribute('Name') ?? '', tags: {}, labs: [], xyzs: [], spectra: [] };
        objects.push(object);
        break;
      case 'ColorCIELab':
      case 'ColorCIEXYZ':
        values = { specification: attribute('ColorSpecification') ?? '', lab: {} };
        object?.[tag.local === 'ColorCIELab' ? 'labs' : 'xyzs'].push(values);
        break;
      case 'ReflectanceSpectrum':
        object?.spectra.push({ specification: attribute('ColorSpecification') ?? '', firstNm: number('StartWL'), text: '' });
        break;
      case 'Tag':
        if (object && path.at(-2) === 'TagCollection') object.tags[attribute('Name') ?? ''] = attribute('Value') ?? '';
        break;
      case 'ColorSpecification':
        specification = { illuminant: '', observer: '', firstNm: undefined, stepNm: undefined };
        specifications.set(attribute('Id') ?? '', specification);
        break;
      case 'WavelengthRange':
        if (specification) Object.assign(specification, { firstNm: number('StartWL'), stepNm: number('Increment') });
        break;
    }
  });
  parser.on('text', (part) => (said += part));
  parser.on('closetag', ({ local }) => {
    path.pop();
    const parent = path.at(-1);
    if (parent === 'ColorCIELab' || parent === 'ColorCIEXYZ') values!.lab[local] = said;
    else if (local === 'ReflectanceSpectrum') Object.assign(object?.spectra.at(-1) ?? {}, { text: said });
    else if (local === 'Illuminant' && specification) specification.illuminant = said.trim();
    else if (local === 'Observer' && specification) specification.observer = said.trim();
    else if (local === 'Object') object = undefined;
    said = '';
  });
  parser.write(text).close();
  if (!isRoot) throw new CxfError('This is an XML file, but no CxF3.');
  const colours: NamedColour[] = [];
  const refused: { name: string; why: string }[] = [];
  for (const one of objects) {
    if (one.labs.length + one.xyzs.length + one.spectra.length === 0) continue;
    const found = colourOf(one, specifications);
    if (typeof found === 'string') refused.push({ name: one.name, why: found });
    else
      colours.push({
        name: one.name,
        lab: found,
        others: (one.tags['OtherNames'] ?? '')
          .split(';')
          .map((name) => name.trim())
          .filter(Boolean),
        collection: one.tags['Collection'] ?? '',
        from: one.tags['From'] ?? '',
        note: one.tags['Note'] ?? ''
      });
  }
  return { colours, refused };
}

const isOurs = (specification: Specification | undefined) =>
  specification?.illuminant === 'D50' && /^2/.test(specification.observer);

/** L*a*b* under D50: as it stands there, or of the spectrum, whatever light other values are for. @returns why not */
function colourOf({ labs, xyzs, spectra }: Values, specifications: ReadonlyMap<string, Specification>): Triple | string {
  const three = (values: Record<string, string>, names: string[]) => {
    const figures = names.map((name) => Number(values[name]?.trim() || NaN));
    return figures.every(Number.isFinite) ? (figures as Triple) : undefined;
  };
  const lab = labs.find(({ specification }) => isOurs(specifications.get(specification)));
  const ofLab = lab && three(lab.lab, ['L', 'A', 'B']);
  if (ofLab) return ofLab;
  for (const { specification, firstNm, text } of spectra) {
    const range = specifications.get(specification);
    const first = firstNm ?? range?.firstNm;
    const figures = text.trim().split(/\s+/).map(Number);
    if (first === undefined || range?.stepNm === undefined || !figures.every(Number.isFinite)) continue;
    // Shares of all light; some write per cent.
    const scale = Math.max(...figures) > 2 ? 0.01 : 1;
    try {
      return xyzToLab(
        spectrumToXyz(
          figures.map((v) => v * scale),
          first,
          range.stepNm
        )
      );
    } catch (error) {
      if (error instanceof RangeError) return error.message;
      throw error;
    }
  }
  const xyz = xyzs.find(({ specification }) => isOurs(specifications.get(specification)));
  const ofXyz = xyz && three(xyz.lab, ['X', 'Y', 'Z']);
  if (ofXyz) return xyzToLab(ofXyz.map((v) => v / 100) as Triple);
  const other = specifications.get([...labs, ...xyzs][0]?.specification ?? '');
  return other
    ? `It is for ${other.illuminant || 'an unknown light'} and ${other.observer.replace('_', ' ') || 'an unknown observer'}, and has no spectrum to reckon D50 and 2° from.`
    : 'It does not say for which light its figures are, and has no spectrum.';
}

const SPECIFICATION = 'D50-2';

export function writeCxf(colours: readonly NamedColour[], created: Date): string {
  const day = created.toISOString();
  const tag = (name: string, value: string) => (value === '' ? '' : `<cc:Tag Name="${name}" Value="${escaped(value)}"/>`);
  const objects = colours.map(({ name, lab, others, collection, from, note }, i) => {
    const tags = [tag('OtherNames', others.join('; ')), tag('Collection', collection), tag('From', from), tag('Note', note)].join(
      ''
    );
    const [l, a, b] = lab.map((v) => v.toFixed(4));
    return `<cc:Object Name="${escaped(name)}" Id="c${i + 1}" ObjectType="Standard"><cc:CreationDate>${day}</cc:CreationDate><cc:ColorValues><cc:ColorCIELab ColorSpecification="${SPECIFICATION}"><cc:L>${l}</cc:L><cc:A>${a}</cc:A><cc:B>${b}</cc:B></cc:ColorCIELab></cc:ColorValues>${tags && `<cc:TagCollection Name="${TAGS}">${tags}</cc:TagCollection>`}</cc:Object>`;
  });
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<cc:CxF xmlns:cc="${NAMESPACE}">`,
    `<cc:FileInformation><cc:Creator>Zing Mast</cc:Creator><cc:CreationDate>${day}</cc:CreationDate><cc:Description>Named colours</cc:Description></cc:FileInformation>`,
    '<cc:Resources><cc:ObjectCollection>',
    ...objects,
    '</cc:ObjectCollection><cc:ColorSpecificationCollection>',
    `<cc:ColorSpecification Id="${SPECIFICATION}"><cc:TristimulusSpec><cc:Illuminant>D50</cc:Illuminant><cc:Observer>2_Degree</cc:Observer></cc:TristimulusSpec></cc:ColorSpecification>`,
    '</cc:ColorSpecificationCollection></cc:Resources></cc:CxF>',
    ''
  ].join('\n');
}

/** Characters that an XML 1.0 document cannot hold at all. */
const NEVER = /[^\t\n\r\x20-\uD7FF\uE000-\uFFFD\u{10000}-\u{10FFFF}]/gu;

const escaped = (text: string): string =>
  text
    .replace(NEVER, '')
    .replace(/&/g, '&amp;')
    .replace(/</g, '&lt;')
    .replace(/>/g, '&gt;')
    .replace(/"/g, '&quot;')
    .replace(/[\t\n\r]/g, (c) => `&#${c.charCodeAt(0)};`);
