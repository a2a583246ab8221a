import { throwTraps, type PDFDocument, type PDFObject } from '../interpreter/interpreter';
import { readProfileFacts } from '../colour/icc-read';
import { xyzToLab, type Triple } from '../colour/lab';
import type { DeviceSpace, Engine } from '../colour/lcms';
import { absoluteFrom } from '../colour/media-relative';
import { readFunction } from './resolver/functions';
import type { ColourTarget } from './resolver/resolver';
import { eachOf, eachResources } from './resources';

/**
 * What a page means by its spot colours at full tint: the L*a*b* that stands there, or what their substitute in other colours is
 * through its profile. Under D50, against the perfect reflector.
 *
 * @param sources profiles for substitutes that have none
 * @returns by name; nothing of those that say nothing
 */
export function spotLabs(
  document: PDFDocument,
  index: number,
  sources: ColourTarget['sources'],
  engine: Engine
): Map<string, Triple> {
  const found = new Map<string, Triple>();
  const look = (space: PDFObject): void => {
    if (!space.isArray()) return;
    const kind = space.get(0).toString();
    if (kind === '/Indexed') return look(space.get(1));
    // A colour of many inks may tell of each by itself.
    if (kind === '/DeviceN') {
      const each = space.get(4).isDictionary() ? space.get(4).get('Colorants') : undefined;
      if (each?.isDictionary()) each.forEach(look);
      return;
    }
    if (kind !== '/Separation') return;
    const name = space.get(1).asName();
    if (found.has(name)) return;
    try {
      const full = readFunction(space.get(3))?.at([1]);
      const lab = full && labOf(space.get(2), full, sources, engine);
      if (lab?.every(Number.isFinite)) found.set(name, lab);
    } catch (error) {
      // A broken profile or function says nothing.
      throwTraps(error);
    }
  };
  eachResources(document, index, (resources) => {
    eachOf(resources, 'ColorSpace', (space) => look(space.resolve()));
    eachOf(resources, 'Shading', (shading) => look(shading.get('ColorSpace')));
    eachOf(
      resources,
      'Pattern',
      (pattern) => pattern.get('Shading').isDictionary() && look(pattern.get('Shading', 'ColorSpace'))
    );
    eachOf(resources, 'XObject', (object) => object.get('Subtype').toString() === '/Image' && look(object.get('ColorSpace')));
  });
  return found;
}

const PLAIN: Readonly<Record<string, { space: DeviceSpace; source: keyof ColourTarget['sources'] }>> = {
  '/DeviceCMYK': { space: 'CMYK', source: 'cmyk' },
  '/DeviceRGB': { space: 'RGB', source: 'rgb' },
  '/DeviceGray': { space: 'GRAY', source: 'grey' }
};
const BY_COUNT: Readonly<Record<number, DeviceSpace>> = { 1: 'GRAY', 3: 'RGB', 4: 'CMYK' };

function labOf(
  space: PDFObject,
  values: readonly number[],
  sources: ColourTarget['sources'],
  engine: Engine
): Triple | undefined {
  if (space.isName()) {
    const plain = PLAIN[space.toString()];
    return plain && through(sources[plain.source], plain.space, values, engine);
  }
  if (!space.isArray()) return undefined;
  const kind = space.get(0).toString();
  // Of another white than D50 too: what is meant is the colour seen against it.
  if (kind === '/Lab') return [values[0] ?? 0, values[1] ?? 0, values[2] ?? 0];
  if (kind !== '/ICCBased') return undefined;
  const stream = space.get(1);
  const by = BY_COUNT[stream.get('N').asNumber()];
  return by && through(Uint8Array.from(stream.readStream().asUint8Array()), by, values, engine);
}

function through(profile: Uint8Array, space: DeviceSpace, values: readonly number[], engine: Engine): Triple {
  const seen = engine.deviceToLab(profile, space, 'relative')(values);
  const { deviceClass, white } = readProfileFacts(profile);
  // Paper is no perfect reflector; a screen's white is what else is seen against.
  return deviceClass === 'prtr' && white ? absoluteFrom(xyzToLab(white))(seen) : seen;
}
