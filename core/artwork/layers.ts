import type { PDFDocument, PDFObject } from '../interpreter/interpreter';
import { eachOf, eachResources } from './resources';

/**
 * Layers (optional content, ISO 32000-2, 8.11): told apart, read and switched. The interpreter follows single layers; what
 * hangs on several is settled here.
 */

/** More are a broken file. */
const MOST_LAYERS = 5000;

const entries = (list: PDFObject): PDFObject[] =>
  list.isArray() ? Array.from({ length: Math.min(MOST_LAYERS, list.length) }, (_, i) => list.get(i)) : [];

/** What the catalogue says of layers at a path of keys. */
const said = (document: PDFDocument, ...path: string[]): PDFObject => document.getTrailer().get('Root', 'OCProperties', ...path);

const nameOf = (layer: PDFObject): string =>
  layer.isDictionary() && layer.get('Name').isString() ? layer.get('Name').asString() : '';

/** Gives layers of the same name a number behind it, in the order of the file, so that a docket can mean one of them. */
export function tellLayersApart(document: PDFDocument): void {
  const taken = new Set<string>();
  for (const layer of entries(said(document, 'OCGs'))) {
    if (!layer.isDictionary()) continue;
    const name = nameOf(layer);
    let own = name;
    for (let n = 2; taken.has(own); n++) own = `${name} (${n})`;
    taken.add(own);
    if (own !== name) layer.put('Name', document.newString(own));
  }
}

export interface Layer {
  name: string;
  /** Whether the file shows it, and lets it print. */
  visible: boolean;
  /** Of layers with the same number one alone is shown at a time. */
  group: number | null;
}

/** The layers of a document as its file has them, before any is switched. */
export function readLayers(document: PDFDocument): Layer[] {
  const groups = new Map<string, number>();
  entries(said(document, 'D', 'RBGroups')).forEach((group, number) => {
    for (const layer of entries(group)) if (!groups.has(nameOf(layer))) groups.set(nameOf(layer), number);
  });
  const shown = new Map<string, boolean>();
  for (let i = 0; i < document.countLayers(); i++) shown.set(document.getLayerName(i), document.isLayerVisible(i));
  return entries(said(document, 'OCGs'))
    .filter((layer) => layer.isDictionary())
    .map((layer) => {
      const name = nameOf(layer);
      const prints = layer.get('Usage', 'Print', 'PrintState').toString() !== '/OFF';
      return { name, visible: prints && (shown.get(name) ?? true), group: groups.get(name) ?? null };
    });
}

/** Switches every layer on. */
export function showAllLayers(document: PDFDocument): void {
  for (let i = 0; i < document.countLayers(); i++) document.setLayerVisible(i, true);
}

/** Switches every layer on but those that are off for a docket. What of the page hangs on several is settled by it. */
export function showLayers(document: PDFDocument, index: number, off: readonly string[]): void {
  const hidden = new Set(off);
  for (let i = 0; i < document.countLayers(); i++) document.setLayerVisible(i, !hidden.has(document.getLayerName(i)));
  const settle = (membership: PDFObject) => {
    if (!membership.isDictionary() || membership.get('Type').toString() !== '/OCMD') return;
    const any = entries(said(document, 'OCGs')).find((layer) => layer.isDictionary());
    const shows = isMemberShown(membership, hidden);
    // One layer says the same to the interpreter, whichever way it is switched itself.
    membership.delete('VE');
    membership.delete('P');
    if (shows || !any) membership.delete('OCGs');
    else {
      membership.put('OCGs', [any]);
      membership.put('P', hidden.has(nameOf(any)) ? 'AnyOn' : 'AllOff');
    }
  };
  eachResources(document, index, (resources) => {
    eachOf(resources, 'Properties', settle);
    eachOf(resources, 'XObject', (object) => settle(object.get('OC')));
  });
}

/** Whether a membership of layers is shown: by its expression, or by how many of its layers are on (ISO 32000-2, 8.11.2.2). */
function isMemberShown(membership: PDFObject, hidden: ReadonlySet<string>): boolean {
  const expression = membership.get('VE');
  if (expression.isArray()) return isShown(expression, hidden, 0);
  const said = membership.get('OCGs');
  const layers = (said.isArray() ? entries(said) : [said]).filter((layer) => layer.isDictionary());
  if (layers.length === 0) return true;
  const off = layers.map((layer) => hidden.has(nameOf(layer)));
  switch (membership.get('P').toString()) {
    case '/AllOn':
      return !off.includes(true);
    case '/AnyOff':
      return off.includes(true);
    case '/AllOff':
      return !off.includes(false);
    default:
      return off.includes(false);
  }
}

/** Expressions deeper than this are broken. */
const DEEPEST = 50;

/** What an expression of layers comes to. */
function isShown(expression: PDFObject, hidden: ReadonlySet<string>, depth: number): boolean {
  if (!expression.isArray()) return !hidden.has(nameOf(expression));
  if (depth > DEEPEST) return true;
  const [operator, ...operands] = entries(expression);
  const values = operands.map((operand) => isShown(operand, hidden, depth + 1));
  const word = operator?.toString();
  return word === '/Not' ? !values[0] : word === '/Or' ? values.includes(true) : !values.includes(false);
}
