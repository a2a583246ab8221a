import * as mupdf from '../interpreter/interpreter';
import { chain, invert, apply, type Matrix } from '../geometry/matrix';
import { finishedBox, pageBoxes } from './page';

/** A page of another file within a document, as vectors. */

/**
 * Puts the first page of a file in the place of an object that was kept free for it, to be shown as a picture is: it fills the
 * unit square. What is around its trim box is cut off; its annotations and forms stay behind.
 *
 * @param leftOut spot colours that do not print, by name
 */
export function embedPage(
  document: mupdf.PDFDocument,
  object: number,
  from: mupdf.PDFDocument,
  leftOut: readonly string[]
): void {
  const page = from.loadPage(0) as mupdf.PDFPage;
  const own = page.getObject();
  const [x0, y0, x1, y1] = finishedBox(pageBoxes(page));
  // As the page is seen, turned and with y down → the unit square, y up.
  const toUnit: Matrix = [1 / (x1 - x0), 0, 0, -1 / (y1 - y0), -x0 / (x1 - x0), y1 / (y1 - y0)];
  const seen = page.getTransform() as Matrix;
  const back = invert(seen);
  const [p, q] = [apply(back, { x: x0, y: y0 }), apply(back, { x: x1, y: y1 })];
  const resources = own.getInheritable('Resources');
  const form = document.newIndirect(object);
  form.writeObject({
    Type: document.newName('XObject'),
    Subtype: document.newName('Form'),
    BBox: [Math.min(p.x, q.x), Math.min(p.y, q.y), Math.max(p.x, q.x), Math.max(p.y, q.y)],
    Matrix: chain(seen, toUnit),
    Resources: resources.isNull() ? {} : document.newGraftMap().graftObject(resources.resolve()),
    // Blended within itself, as on a page of its own.
    Group: { S: document.newName('Transparency'), I: true }
  });
  form.writeStream(contentsOf(own));
  leaveOut(document, form.get('Resources'), new Set(leftOut));
  page.destroy();
}

/** What a page draws, whether in one stream or in several that are one after the other. */
function contentsOf(page: mupdf.PDFObject): Uint8Array {
  const contents = page.get('Contents');
  const streams: mupdf.PDFObject[] = [];
  if (contents.isStream()) streams.push(contents);
  else if (contents.isArray()) contents.forEach((part) => part.isStream() && streams.push(part));
  // What the interpreter hands out is a view of its memory.
  const parts = streams.map((stream) => Uint8Array.from(stream.readStream().asUint8Array()));
  const all = new Uint8Array(parts.reduce((sum, part) => sum + part.length + 1, 0)).fill(LINE_END);
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length + 1;
  }
  return all;
}
const LINE_END = 10;

/** Spot colours that do not print become none at all, wherever in what a page needs they are. */
function leaveOut(document: mupdf.PDFDocument, object: mupdf.PDFObject, names: ReadonlySet<string>): void {
  if (names.size === 0) return;
  const seen = new Set<number>();
  const none = document.newName('None');
  const visit = (one: mupdf.PDFObject): void => {
    if (one.isIndirect()) {
      if (seen.has(one.asIndirect())) return;
      seen.add(one.asIndirect());
    }
    if (one.isArray()) {
      const kind = one.get(0);
      if (kind.isName() && kind.asName() === 'Separation') {
        if (names.has(one.get(1).asName())) one.put(1, none);
        return;
      }
      if (kind.isName() && kind.asName() === 'DeviceN') {
        const all = one.get(1);
        all.forEach((name, i) => {
          if (names.has(name.asName())) all.put(i, none);
        });
        return;
      }
    }
    if (one.isArray() || one.isDictionary()) one.forEach((part) => visit(part));
  };
  visit(object);
}
