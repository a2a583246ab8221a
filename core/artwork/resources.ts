import type * as mupdf from '../interpreter/interpreter';

/** What resources belong to: a page, a form that is drawn on it, a font of drawn glyphs, or a pattern, soft mask or note. */
export type ResourceOwner = 'page' | 'form' | 'font' | 'other';

/**
 * Visits the resources of a page, and those of every form, pattern, soft mask and font of drawn glyphs in it, each once. A form
 * without its own has those of what it is drawn on.
 *
 * @param visit `owner` is the page or the form that the resources belong to; `inMask`, whether it is drawn for its opacity alone
 * @param done what was visited already, for going through several pages
 */
export function eachResources(
  document: mupdf.PDFDocument,
  index: number,
  visit: (resources: mupdf.PDFObject, owner: mupdf.PDFObject, kind: ResourceOwner, inMask: boolean) => void,
  done = new Set<number>()
): void {
  const isNew = (object: mupdf.PDFObject) => {
    if (!object.isIndirect()) return true;
    if (done.has(object.asIndirect())) return false;
    done.add(object.asIndirect());
    return true;
  };
  const walk = (owner: mupdf.PDFObject, resources: mupdf.PDFObject, kind: ResourceOwner, depth: number, inMask: boolean) => {
    visit(resources, owner, kind, inMask);
    if (depth > 50 || !resources.isDictionary() || !isNew(resources)) return;
    const inner = (content: mupdf.PDFObject, of: ResourceOwner, masks = inMask) => {
      const own = content.get('Resources');
      if (isNew(content)) walk(content, own.isDictionary() ? own : resources, of, depth + 1, masks);
    };
    eachOf(resources, 'XObject', (object) => {
      if (object.isStream() && object.get('Subtype').toString() !== '/Image') inner(object, 'form');
    });
    eachOf(resources, 'Pattern', (pattern) => {
      if (pattern.isStream() && pattern.get('Shading').isNull()) inner(pattern, 'other');
    });
    eachOf(resources, 'ExtGState', (state) => {
      const mask = state.get('SMask');
      if (mask.isDictionary() && mask.get('G').isStream()) inner(mask.get('G'), 'other', true);
    });
    eachOf(resources, 'Font', (font) => {
      // One without its own has those of the page, which are visited.
      if (font.isDictionary() && font.get('Resources').isDictionary()) inner(font, 'font');
    });
  };
  const page = document.findPage(index);
  walk(page, page.getInheritable('Resources'), 'page', 0, false);
  // What forms and stamps look like; one that can be on or off has a look for each.
  const notes = page.get('Annots');
  const look = (one: mupdf.PDFObject) => one.isStream() && walk(one, one.get('Resources'), 'other', 0, false);
  if (notes.isArray())
    notes.forEach((note) => {
      const normal = note.get('AP', 'N');
      if (normal.isStream()) look(normal);
      else if (normal.isDictionary()) normal.forEach(look);
    });
}

/** The entries of one kind of resource. */
export function eachOf(resources: mupdf.PDFObject, kind: string, act: (object: mupdf.PDFObject) => void): void {
  const list = resources.isDictionary() ? resources.get(kind) : undefined;
  if (list?.isDictionary()) list.forEach((item) => act(item));
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
