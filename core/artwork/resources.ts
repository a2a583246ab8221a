import type * as mupdf from '../interpreter/interpreter';

/**
 * Visits the resources of a page, and those of every form, pattern and soft mask in it, each once.
 *
 * @param visit `owner` is the page or the form that the resources belong to
 * @param done what was visited already, for going through several pages
 */
export function eachResources(
  document: mupdf.PDFDocument,
  index: number,
  visit: (resources: mupdf.PDFObject, owner: mupdf.PDFObject) => void,
  done = new Set<number>()
): void {
  const isNew = (object: mupdf.PDFObject) => {
    if (!object.isIndirect()) return true;
    if (done.has(object.asIndirect())) return false;
    done.add(object.asIndirect());
    return true;
  };
  const walk = (owner: mupdf.PDFObject, resources: mupdf.PDFObject, depth: number) => {
    visit(resources, owner);
    if (depth > 50 || !resources.isDictionary() || !isNew(resources)) return;
    const inner = (form: mupdf.PDFObject) => {
      if (form.isStream() && isNew(form)) walk(form, form.get('Resources'), depth + 1);
    };
    eachOf(resources, 'XObject', (object) => {
      if (object.get('Subtype').toString() !== '/Image') inner(object);
    });
    eachOf(resources, 'Pattern', (pattern) => {
      if (pattern.get('Shading').isNull()) inner(pattern);
    });
    eachOf(resources, 'ExtGState', (state) => {
      if (state.get('SMask').isDictionary()) inner(state.get('SMask', 'G'));
    });
  };
  const page = document.findPage(index);
  walk(page, page.getInheritable('Resources'), 0);
  // What forms and stamps look like; one that can be on or off has a look for each.
  const notes = page.get('Annots');
  if (notes.isArray())
    notes.forEach((note) => {
      const look = note.get('AP', 'N');
      if (look.isStream()) walk(look, look.get('Resources'), 0);
      else if (look.isDictionary()) look.forEach((one) => one.isStream() && walk(one, one.get('Resources'), 0));
    });
}

/** The entries of one kind of resource. */
export function eachOf(resources: mupdf.PDFObject, kind: string, act: (object: mupdf.PDFObject) => void): void {
  const list = resources.isDictionary() ? resources.get(kind) : undefined;
  if (list?.isDictionary()) list.forEach((item) => act(item.resolve()));
}

/** Whether anything of a page asks for overprint. */
export function usesOverprint(document: mupdf.PDFDocument, index: number): boolean {
  let found = false;
  eachResources(document, index, (resources) =>
    eachOf(resources, 'ExtGState', (state) => {
      if (['OP', 'op'].some((key) => state.get(key).toString() === 'true')) found = true;
    })
  );
  return found;
}
