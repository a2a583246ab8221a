import { SaxesParser } from 'saxes';
import { ArtworkError } from '../facts';
import { isTool, ruleFor, type RoleRule } from '../roles';
import type { SvgRole } from './paint';
import { dataAddress, readDataAddress } from './data-address';
import { FontRules } from './font-rules';
import { familiesOf, isShipped, shippedList, standIn, stylesOf, withShippedLists } from './fonts';

/** A customer's SVG made ready for the normaliser: nothing in it reaches outside, and what it says by names is noted. */
export interface SvgSource {
  /** Attributes of the root. */
  root: Record<string, string>;
  /** What is in the root: plain SVG elements alone, in one namespace. */
  body: string;
  /** By element id. */
  roles: Map<string, SvgRole>;
  /** Fonts held in the file. */
  fonts: { family: string; data: Uint8Array }[];
  /** What was found on the way: the id of an element that tells where, or nothing. */
  findings: { kind: 'font' | 'picture' | 'html'; what: string; id: string | undefined }[];
  hasText: boolean;
  /** Characters of lettering that are not plain Latin letters, and the id of the element that has each first. */
  characters: Map<string, string>;
}

export const MOST_CHARACTERS = 60e6;
const MOST_ENTITY_CHARACTERS = 200_000;
const MOST_DEPTH = 3;
const MOST_NESTING = 1000;

const SVG = 'http://www.w3.org/2000/svg';
const INKLESS = new Set([
  'script',
  'metadata',
  'title',
  'desc',
  'foreignObject',
  'animate',
  'animateTransform',
  'animateMotion',
  'set'
]);

/**
 * Reads an SVG as a stream: keeps what is SVG, settles prefixes and entities, takes out scripts and everything that names
 * something outside of the file, gives elements with a role an id, and adds a family that is there to every list of fonts.
 *
 * @param available families, in small letters, beyond those that ship
 * @throws ArtworkError with the line where the text is broken
 */
export function readSvg(text: string, rules: readonly RoleRule[], available: ReadonlySet<string>, depth = 0): SvgSource {
  if (text.length > MOST_CHARACTERS)
    throw new ArtworkError(
      `The SVG has ${Math.round(text.length / 1e6)} million characters; ${MOST_CHARACTERS / 1e6} are the most.`
    );
  return new Reader(rules, available, depth).read(text);
}

class Reader {
  readonly #rules: readonly RoleRule[];
  readonly #available: ReadonlySet<string>;
  readonly #depth: number;
  readonly #out: string[] = [];
  readonly #roles = new Map<string, SvgRole>();
  readonly #findings: SvgSource['findings'] = [];
  readonly #fonts: SvgSource['fonts'] = [];
  readonly #characters = new Map<string, string>();
  /** Fonts in force, from the root inwards. */
  readonly #families: string[] = [];
  readonly #said = new Set<string>();
  readonly #fontRules = new FontRules();
  #root: Record<string, string> | undefined;
  #prefixes = new Set<string>();
  /** How many elements deep in something that is left out. */
  #skipping = 0;
  #switches = 0;
  /** Ids of the texts that are open. */
  readonly #texts: string[] = [];
  #style: string[] | undefined;
  #made = 0;
  #hasText = false;

  constructor(rules: readonly RoleRule[], available: ReadonlySet<string>, depth: number) {
    this.#rules = rules;
    this.#available = available;
    this.#depth = depth;
  }

  read(text: string): SvgSource {
    const parser = new SaxesParser({ position: true });
    const broken = (): never => {
      throw new ArtworkError(`The SVG is broken in line ${parser.line}. Ask for a new copy.`);
    };
    const open: (string | undefined)[] = [];
    parser.on('error', broken);
    parser.on('doctype', (doctype) => Object.assign(parser.ENTITIES, entitiesOf(doctype)));
    parser.on('opentag', ({ name, attributes }) => {
      if (open.length > MOST_NESTING) throw new ArtworkError('The SVG nests its elements more than 1000 deep.');
      open.push(this.#open(name, attributes as Record<string, string>));
    });
    parser.on('closetag', () => this.#close(open.pop()));
    parser.on('text', (part) => this.#text(part));
    parser.on('cdata', (part) => this.#text(part));
    parser.write(text);
    parser.close();
    if (!this.#root) throw new ArtworkError('The file says it is an SVG but has no drawing in it.');
    if (this.#hasText) for (const list of this.#fontRules.elsewhere) this.#tellFont(list, undefined);
    const held = new Set(this.#fonts.map(({ family }): string | undefined => family.toLowerCase()));
    return {
      root: this.#root,
      body: this.#out.join(''),
      roles: this.#roles,
      fonts: this.#fonts,
      findings: this.#findings.filter(({ kind, what }) => kind !== 'font' || !held.has(what.split('\n')[0]?.toLowerCase())),
      hasText: this.#hasText,
      characters: this.#characters
    };
  }

  /** @returns the name that was written, empty for the root; nothing where the element is left out */
  #open(qualified: string, given: Record<string, string>): string | undefined {
    const colon = qualified.indexOf(':');
    const prefix = qualified.slice(0, Math.max(0, colon));
    const name = qualified.slice(colon + 1);
    if (!this.#root) {
      for (const [key, value] of Object.entries(given))
        if (value === SVG) this.#prefixes.add(key === 'xmlns' ? '' : key.replace('xmlns:', ''));
      // A drawing without a namespace is taken for what it says it is.
      if (this.#prefixes.size === 0) this.#prefixes.add('');
    }
    const foreign = !this.#prefixes.has(prefix) && given[prefix ? `xmlns:${prefix}` : 'xmlns'] !== SVG;
    if (this.#skipping > 0 || foreign || INKLESS.has(name)) {
      if (this.#skipping === 0 && name === 'foreignObject' && this.#switches === 0)
        this.#find('html', '', this.#keepPlace(this.#attributes(given)));
      this.#skipping++;
      return undefined;
    }
    if (!this.#root && name !== 'svg') throw new ArtworkError('The file says it is an SVG but has no drawing in it.');
    if (name === 'switch') this.#switches++;
    const attributes = this.#attributes(given);
    this.#families.push(this.#fontRules.listFor(name, attributes) ?? this.#families.at(-1) ?? '');
    if (attributes['style']) attributes['style'] = withShippedLists(attributes['style']);
    if (attributes['font-family']) attributes['font-family'] = shippedList(attributes['font-family']);
    this.#role(attributes);
    if (name === 'text') {
      this.#hasText = true;
      this.#texts.push((attributes['id'] ||= this.#newId()));
    }
    if (name === 'style') this.#style = [];
    if ((name === 'image' || name === 'feImage') && !this.#picture(name, attributes)) return this.#write('g', {});
    if (!this.#root) {
      this.#root = attributes;
      return '';
    }
    return this.#write(name, attributes);
  }

  #close(written: string | undefined): void {
    if (written === undefined) {
      this.#skipping--;
      return;
    }
    if (written === 'switch') this.#switches--;
    if (written === 'text') this.#texts.pop();
    if (written === 'style' && this.#style) {
      const style = stylesOf(this.#style.join(''));
      this.#fonts.push(...style.fonts);
      this.#fontRules.add(style.css, this.#hasText);
      this.#out.push(escaped(withShippedLists(style.css)));
      this.#style = undefined;
    }
    this.#families.pop();
    if (written) this.#out.push(`</${written}>`);
  }

  #text(part: string): void {
    if (this.#skipping > 0) return;
    if (this.#style) {
      this.#style.push(part);
      return;
    }
    const id = this.#texts.at(-1);
    if (id === undefined) return;
    if (part.trim() !== '') this.#tellFont(this.#families.at(-1) ?? '', id);
    for (const character of part) if (character > '~' && !this.#characters.has(character)) this.#characters.set(character, id);
    this.#out.push(escaped(part));
  }

  #write(name: string, attributes: Record<string, string>): string {
    const words = Object.entries(attributes).map(([key, value]) => ` ${key}="${escaped(value)}"`);
    this.#out.push(`<${name}${words.join('')}>`);
    return name;
  }

  /** Attributes without prefixes: links as `href`, spaces as they are, labels of layers for roles, nothing else. */
  #attributes(given: Record<string, string>): Record<string, string> {
    const out: Record<string, string> = {};
    for (const [key, value] of Object.entries(given)) {
      const colon = key.indexOf(':');
      const local = key.slice(colon + 1);
      if (key === 'xmlns' || key.startsWith('xmlns:') || key.startsWith('on')) continue;
      if (colon < 0) out[key] = value;
      else if (key === 'xml:space') out[key] = value;
      else if (local === 'href') out['href'] ??= value;
      else if (local === 'label') out['data-label'] = value;
    }
    return out;
  }

  /** Notes the role of an element whose name has one, and gives it an id where it has none. */
  #role(attributes: Record<string, string>): void {
    const told = [
      attributes['id'],
      ...(attributes['class'] ?? '').split(/\s+/),
      attributes['data-label'],
      attributes['data-name'],
      attributes['data-role']
    ];
    const name = told.find((value): value is string => !!value && !!ruleFor(value, this.#rules));
    if (name === undefined) return;
    const id = (attributes['id'] ||= this.#newId());
    this.#roles.set(id, { name, tool: isTool(ruleFor(name, this.#rules)?.role) });
  }

  #newId(): string {
    return `zing-mast-${this.#depth}-${++this.#made}`;
  }

  #find(kind: SvgSource['findings'][number]['kind'], what: string, id: string | undefined): void {
    const key = `${kind}/${what}`;
    if (this.#said.has(key) || this.#findings.length > 200) return;
    this.#said.add(key);
    this.#findings.push({ kind, what, id });
  }

  /** Notes a font that is not there, and where it was first asked for. */
  #tellFont(list: string, id: string | undefined): void {
    const there = (family: string) => this.#available.has(family.toLowerCase());
    const first = familiesOf(list)[0] ?? '';
    if (!isShipped(first) && !there(first)) this.#find('font', `${first}\n${standIn(list, there)}`, id);
  }

  /** A drawing in a drawing is held to the same rules; it has no roles of its own. @returns its address */
  #innerDrawing(bytes: Uint8Array, attributes: Record<string, string>): string | undefined {
    try {
      const inner = readSvg(new TextDecoder().decode(bytes), [], this.#available, this.#depth + 1);
      const id = (attributes['id'] ||= this.#newId());
      for (const character of inner.characters.keys()) if (!this.#characters.has(character)) this.#characters.set(character, id);
      this.#hasText ||= inner.hasText;
      inner.findings.forEach((finding) => this.#find(finding.kind, finding.what, id));
      return dataAddress('image/svg+xml', new TextEncoder().encode(svgText(inner.root, inner.body)));
    } catch (error) {
      if (error instanceof ArtworkError) return undefined;
      throw error;
    }
  }

  /** Keeps a picture that is in the file. @returns whether there is one */
  #picture(name: string, attributes: Record<string, string>): boolean {
    const address = (attributes['href'] ?? '').trim();
    if (address.startsWith('#') && name === 'feImage') return true;
    if (/^data:/i.test(address)) {
      // Pixels of any kind go by one name, which the normaliser hands on as it is. Everything else may be a drawing, whatever
      // it is called, and is read as one; pixels may be without a name.
      const pixels = /^data:image\/(?!svg)[\w.+-]+((?:;[^,;]*)*;\s*base64),/i.exec(address);
      if (pixels) {
        attributes['href'] = `data:image/png;base64,${address.slice(pixels[0].length).replace(/\s+/g, '')}`;
        return true;
      }
      const bytes = readDataAddress(address)?.bytes;
      const kept = bytes && this.#depth < MOST_DEPTH && (this.#innerDrawing(bytes, attributes) ?? unnamedPixels(bytes));
      if (kept) {
        attributes['href'] = kept;
        return true;
      }
    }
    const shown = /^data:/i.test(address) ? 'in the file' : address.split(/[\\/]/).at(-1)?.slice(0, 80) || 'without a name';
    this.#find('picture', shown, this.#keepPlace(attributes));
    return false;
  }

  /** An empty rectangle where something is left out, so that the place can be shown. @returns its id */
  #keepPlace({ id, x = '0', y = '0', width = '0', height = '0', transform }: Record<string, string>): string {
    const mark = id ?? this.#newId();
    this.#write('rect', { id: mark, x, y, width, height, fill: 'none', ...(transform && { transform }) });
    this.#out.push('</rect>');
    return mark;
  }
}

/** Pixels by their first bytes: PNG, JPEG, GIF, WebP, BMP, TIFF. @returns their address */
const unnamedPixels = (bytes: Uint8Array): string | undefined =>
  /^(\x89PNG|\xff\xd8\xff|GIF8|RIFF....WEBP|BM|II\*\0|MM\0\*)/s.test(String.fromCharCode(...bytes.subarray(0, 12)))
    ? dataAddress('image/png', bytes)
    : undefined;

/** A root element around what is in it. */
export const svgText = (root: Readonly<Record<string, string>>, body: string): string =>
  `<svg ${Object.entries({ ...root, xmlns: SVG })
    .map(([key, value]) => `${key}="${escaped(value)}"`)
    .join(' ')}>${body}</svg>`;

/** Internal entities alone; those that name a file stay unknown, and an unknown one is a fault. */
function entitiesOf(doctype: string): Record<string, string> {
  const found: Record<string, string> = {};
  let length = 0;
  for (const [, name = '', , value = ''] of doctype.matchAll(/<!ENTITY\s+([\w.:-]+)\s+(["'])([\s\S]*?)\2\s*>/g)) {
    const text = value
      .replace(/&#(x[0-9a-f]+|\d+);/gi, (_, code: string) =>
        String.fromCodePoint(Math.min(0x10ffff, code.startsWith('x') ? Number.parseInt(code.slice(1), 16) : Number(code)))
      )
      .replace(/&([\w.:-]+);/g, (whole, other: string) => found[other] ?? whole);
    length += text.length;
    if (length > MOST_ENTITY_CHARACTERS) throw new ArtworkError('The SVG’s abbreviations grow without end. Ask for a new copy.');
    found[name] = text;
  }
  return found;
}

const escaped = (value: string) =>
  value.replace(/[&<>"\n\t]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c] ?? `&#${c.charCodeAt(0)};`);
