import type { RenderingIntent } from '../../colour/icc-write';
import type * as mupdf from '../../interpreter/interpreter';
import { throwTraps } from '../../interpreter/interpreter';
import { eachResources, usesOverprint, type ResourceOwner } from '../resources';
import { pdfName } from '../pdf-objects';
import { eachOperator } from './content';
import { PLAIN_STATE, type ColourState } from './resolver';

/**
 * Overprint and rendering intents stand in the graphics state, of which the interpreter tells a device nothing. So each
 * change of them is written into the content as marked content that a device is told of: an empty layer, by name. `q` and `Q`
 * are told too, since they keep the state and bring it back.
 */

const PREFIX = '\u0001zing ';
const SAVE = 'q';
const RESTORE = 'Q';
/** A form begins with the state of where it is drawn, everything else with a plain one. */
const BEGIN_FORM = 'form';
const BEGIN_OTHER = 'plain';
const END = 'end';

const INTENTS: Readonly<Record<string, RenderingIntent>> = {
  Perceptual: 'perceptual',
  Saturation: 'saturation',
  RelativeColorimetric: 'relative',
  // Paper white is not simulated: what absolute adds to relative would print a tint over the media.
  AbsoluteColorimetric: 'relative'
};

/** What of the graphics state is followed. */
export interface Followed {
  overprint: boolean;
  intents: boolean;
  /** Which of a resolver's sources plain colours of a content are read with, by its resources. */
  sources: (resources: mupdf.PDFObject) => number;
}

/** Writes the marks into a page, and into what is drawn on it; nothing where there is nothing to follow. */
export function markStates(document: mupdf.PDFDocument, index: number, followed: Followed): void {
  if (!followed.intents && !(followed.overprint && usesOverprint(document, index)) && !hasOwnSources(document, index, followed))
    return;
  eachResources(document, index, (resources, owner, kind) => {
    try {
      markContent(document, resources, owner, kind, followed);
    } catch (error) {
      throwTraps(error);
      // What of a broken file cannot be read is drawn as far as the interpreter comes, without its states.
    }
  });
}

function markContent(
  document: mupdf.PDFDocument,
  resources: mupdf.PDFObject,
  owner: mupdf.PDFObject,
  kind: ResourceOwner,
  followed: Followed
): void {
  if (kind === 'page') {
    const contents = owner.get('Contents');
    const parts = contents.isArray() ? Array.from({ length: contents.length }, (_, i) => contents.get(i)) : [contents];
    const bytes = joined(parts.filter((part) => part.isStream()).map((part) => part.readStream().asUint8Array()));
    owner.put('Contents', document.addStream(marked(document, bytes, resources, followed, BEGIN_OTHER), {}));
  } else if (owner.isStream()) {
    const bytes = owner.readStream().asUint8Array();
    owner.writeStream(marked(document, bytes, resources, followed, kind === 'form' ? BEGIN_FORM : BEGIN_OTHER));
  }
}

function hasOwnSources(document: mupdf.PDFDocument, index: number, { sources }: Followed): boolean {
  let found = false;
  eachResources(document, index, (resources) => {
    if (sources(resources) > 0) found = true;
  });
  return found;
}

/** Parts of a content, between which no token goes on. */
function joined(parts: readonly Uint8Array[]): Uint8Array {
  const all = new Uint8Array(parts.reduce((sum, part) => sum + part.length + 1, 0)).fill(10);
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length + 1;
  }
  return all;
}

const named = (name: string) =>
  `/OC <</Type/OCG/Name<${[...(PREFIX + name)].map((c) => c.charCodeAt(0).toString(16).padStart(2, '0')).join('')}>>> BDC EMC`;

/** A content with its marks. */
function marked(
  document: mupdf.PDFDocument,
  bytes: Uint8Array,
  resources: mupdf.PDFObject,
  followed: Followed,
  begin: string
): Uint8Array {
  const encoder = new TextEncoder();
  const parts: Uint8Array[] = [encoder.encode(`${named(`${begin} ${followed.sources(resources)}`)}\n`)];
  let taken = 0;
  const insert = (at: number, text: string) => {
    parts.push(bytes.subarray(taken, at), encoder.encode(`\n${text}\n`));
    taken = at;
  };
  /** The intent as far as this content says it. */
  let intent: string | undefined;
  const kept: (string | undefined)[] = [];
  eachOperator(bytes, ({ name, operand, from, to }) => {
    if (name === 'q' || name === 'Q') {
      insert(to, named(name === 'q' ? SAVE : RESTORE));
      if (name === 'q') kept.push(intent);
      else if (kept.length > 0) intent = kept.pop();
    } else if (name === 'ri' && followed.intents && operand !== undefined) {
      insert(to, named(`RI ${operand}`));
      intent = operand;
    } else if (['sh', 'scn', 'SCN'].includes(name) && operand !== undefined && intent !== undefined) {
      // A gradient is settled before a device is told of it: each intent that it is drawn with has one of its own.
      const own = withIntent(document, resources, name === 'sh' ? 'Shading' : 'Pattern', operand, intent);
      if (own === undefined) return;
      insert(from, `${pdfName(own)} ${name}`);
      taken = to;
    } else if (name === 'gs' && operand !== undefined) {
      const state = entry(resources, 'ExtGState', operand);
      const changes = changesOf(state, followed);
      if (followed.intents && state?.get('RI').isName()) intent = state.get('RI').asName();
      if (changes.length > 0) insert(to, changes.map(named).join(' '));
    } else if (name === 'Do' && operand !== undefined && followed.intents) {
      // A picture's own intent goes before the state's.
      const own = entry(resources, 'XObject', operand)?.get('Intent');
      if (own?.isName()) {
        insert(from, `${named(SAVE)} ${named(`RI ${own.asName()}`)}`);
        insert(to, named(RESTORE));
      }
    }
  });
  parts.push(bytes.subarray(taken), encoder.encode(`\n${named(END)}`));
  return joined(parts);
}

function entry(resources: mupdf.PDFObject, kind: string, name: string): mupdf.PDFObject | undefined {
  const list = resources.isDictionary() ? resources.get(kind) : undefined;
  const found = list?.isDictionary() ? list.get(name).resolve() : undefined;
  return found?.isNull() ? undefined : found;
}

/** The key under which a gradient has its intent, where that is not the condition's. */
export const INTENT_KEY = 'ZingIntent';

/** The intent that a gradient is drawn with; nothing for the condition's. */
export const intentOf = (shading: mupdf.PDFObject): RenderingIntent | undefined => {
  const said = shading.get(INTENT_KEY);
  return said.isName() ? INTENTS[said.asName()] : undefined;
};

/** Puts a gradient with an intent of its own beside it. @returns its name; nothing where it stays as it is */
function withIntent(
  document: mupdf.PDFDocument,
  resources: mupdf.PDFObject,
  kind: 'Shading' | 'Pattern',
  name: string,
  intent: string
): string | undefined {
  const found = entry(resources, kind, name);
  const shading = kind === 'Pattern' ? found?.get('Shading') : found;
  if (!found || !shading?.isDictionary() || shading.isStream() || (INTENTS[intent] ?? 'relative') === 'relative')
    return undefined;
  const own = `${name}.${intent}`;
  const copy = copied(document, shading);
  copy.put(INTENT_KEY, intent);
  if (kind === 'Shading') resources.get(kind).put(own, copy);
  else {
    const pattern = copied(document, found);
    pattern.put('Shading', copy);
    resources.get(kind).put(own, pattern);
  }
  return own;
}

function copied(document: mupdf.PDFDocument, dictionary: mupdf.PDFObject): mupdf.PDFObject {
  const copy = document.newDictionary();
  dictionary.forEach((value, key) => copy.put(String(key), value));
  return document.addObject(copy);
}

function changesOf(state: mupdf.PDFObject | undefined, followed: Followed): string[] {
  if (!state?.isDictionary()) return [];
  const changes: string[] = [];
  const flag = (key: string) => {
    const value = state.get(key);
    return value.isBoolean() ? value.asBoolean() : undefined;
  };
  if (followed.overprint) {
    const [strokes, fills] = [flag('OP'), flag('op')];
    if (strokes !== undefined) changes.push(`OP ${strokes}`);
    // Without its own, fills go with strokes.
    const both = fills ?? strokes;
    if (both !== undefined) changes.push(`op ${both}`);
    const mode = state.get('OPM');
    if (mode.isNumber()) changes.push(`OPM ${mode.asNumber()}`);
  }
  const intent = state.get('RI');
  if (followed.intents && intent.isName()) changes.push(`RI ${intent.asName()}`);
  return changes;
}

/** Follows the marks as a page is drawn. */
export class StateReader {
  #now: ColourState = PLAIN_STATE;
  #kept: ColourState[] = [];
  /** Of each content that is open: how many states were kept when it began, and the state then. */
  readonly #contents: { kept: number; before: ColourState }[] = [];

  get now(): ColourState {
    return this.#now;
  }

  /** @returns whether the layer is a mark */
  read(layer: string): boolean {
    if (!layer.startsWith(PREFIX)) return false;
    const [what = '', value = ''] = layer.slice(PREFIX.length).split(' ');
    const content = this.#contents.at(-1);
    switch (what) {
      case SAVE:
        this.#kept.push(this.#now);
        break;
      case RESTORE:
        // More are brought back than were kept: a content has none of those of the one around it.
        if (this.#kept.length > (content?.kept ?? 0)) this.#now = this.#kept.pop() as ColourState;
        break;
      case BEGIN_FORM:
      case BEGIN_OTHER:
        this.#contents.push({ kept: this.#kept.length, before: this.#now });
        this.#now = { ...(what === BEGIN_OTHER ? PLAIN_STATE : this.#now), sources: Number(value) };
        break;
      case END:
        if (!content) break;
        this.#contents.pop();
        this.#kept.length = Math.min(this.#kept.length, content.kept);
        this.#now = content.before;
        break;
      case 'OP':
        this.#now = { ...this.#now, strokes: value === 'true' };
        break;
      case 'op':
        this.#now = { ...this.#now, fills: value === 'true' };
        break;
      case 'OPM':
        this.#now = { ...this.#now, zerosStay: value === '1' };
        break;
      case 'RI':
        this.#now = { ...this.#now, intent: INTENTS[value] };
        break;
    }
    return true;
  }
}
