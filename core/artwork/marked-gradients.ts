import type * as mupdf from '../interpreter/interpreter';
import { PROCESS_NAMES } from './page';
import { namesOf, paintNothing } from './resolver/gradients';
import { eachOf, eachResources } from './resources';

/**
 * Makes the gradients of a page say how much of them is marked: those in a marked spot colour become grey, black where the
 * colour is whole, and all others paint nothing. The interpreter does not tell a gradient's colours when it is drawn.
 *
 * @param document a document of its own, since it is changed
 * @returns whether any is marked; where none is, nothing is changed
 */
export function markGradients(document: mupdf.PDFDocument, index: number, spots: ReadonlySet<string>): boolean {
  const all: { shading: mupdf.PDFObject; names: string[]; marked: number[] }[] = [];
  const take = (shading: mupdf.PDFObject) => {
    if (shading.get('ShadingType').isNull()) return;
    const names = namesOf(shading.get('ColorSpace'));
    const marked = names.flatMap((name, i) => (spots.has(name) && !PROCESS_NAMES.has(name) ? [i] : []));
    all.push({ shading, names, marked });
  };
  eachResources(document, index, (resources, _owner, _kind, inMask) => {
    // What is drawn into a soft mask says where, and not what.
    if (inMask) return;
    eachOf(resources, 'Shading', take);
    eachOf(resources, 'Pattern', (pattern) => take(pattern.get('Shading')));
  });
  if (all.every(({ marked }) => marked.length === 0)) return false;
  for (const { shading, names, marked } of all)
    if (marked.length === 0) paintNothing(shading);
    else shading.put('ColorSpace', ['DeviceN', names, 'DeviceGray', lessTheMost(document, names.length, marked)]);
  return true;
}

/** A function of some tints: 1 less the largest of the marked ones. */
function lessTheMost(document: mupdf.PDFDocument, tints: number, marked: readonly number[]): mupdf.PDFObject {
  // What is on top is the largest so far; the tint `i` lies `tints - i` below it.
  const largest = marked.map((i) => `${tints - i} index 2 copy lt {exch} if pop`).join(' ');
  const pops = Array.from({ length: tints }, () => 'pop').join(' ');
  return document.addStream(`{0 ${largest} 1 exch sub ${tints + 1} 1 roll ${pops}}`, {
    FunctionType: 4,
    Domain: Array.from({ length: 2 * tints }, (_, i) => i % 2),
    Range: [0, 1]
  });
}
