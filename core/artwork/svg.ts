import { XMLBuilder, XMLParser } from 'fast-xml-parser';
import PDFDocument from 'pdfkit';
import svgToPdfkit from 'svg-to-pdfkit';
import { ArtworkError } from './facts';
import { isTool, ruleFor, type RoleRule } from './roles';

/**
 * SVG has no spot colours: an id, a class or a layer's label that fits one of the shop's rules tells what has a role. It is
 * drawn in a colour that nobody uses, which becomes the spot colour of that name in the PDF.
 */

type Node = Record<string, unknown> & { ':@'?: Record<string, string> };

const MARKERS = ['#01fe02', '#02fe01', '#01fd03', '#03fd01', '#02fc04', '#04fc02'];
const PT_PER_UNIT: Record<string, number> = {
  '': 0.75,
  px: 0.75,
  pt: 1,
  mm: 72 / 25.4,
  cm: 720 / 25.4,
  in: 72,
  pc: 12,
  q: 18 / 25.4
};
const MOST_CHARACTERS = 60e6;

export interface SvgResult {
  pdf: Uint8Array;
  notes: string[];
}

/**
 * Turns an SVG into a PDF once. Filters cannot be kept as shapes: such a drawing becomes pixels, its cut lines stay lines.
 *
 * @param toPng draws an SVG text as PNG
 * @throws ArtworkError when the text is not an SVG
 */
export async function svgToPdf(
  text: string,
  rules: readonly RoleRule[],
  toPng: (svg: string) => Promise<Uint8Array>
): Promise<SvgResult> {
  if (text.length > MOST_CHARACTERS)
    throw new ArtworkError(
      `The SVG has ${Math.round(text.length / 1e6)} million characters; ${MOST_CHARACTERS / 1e6} are the most.`
    );
  const options = {
    preserveOrder: true,
    ignoreAttributes: false,
    attributeNamePrefix: '',
    trimValues: false,
    processEntities: true
  } as const;
  let tree: Node[];
  try {
    tree = new XMLParser(options).parse(text) as Node[];
  } catch (error) {
    throw new ArtworkError(`The SVG is broken (${error instanceof Error ? error.message : 'unreadable'}). Ask for a new copy.`);
  }
  const root = tree.find((node) => 'svg' in node);
  if (!root) throw new ArtworkError('The file says it is an SVG but has no drawing in it.');
  const notes: string[] = [];
  const size = svgSize(root[':@'] ?? {}, notes);
  const names: string[] = [];
  markRoles(root['svg'] as Node[], rules, names, undefined);
  const build = (nodes: Node[]) => new XMLBuilder({ ...options, suppressEmptyNode: true }).build(nodes) as string;
  const marked = build([root]);

  const doc = new PDFDocument({ size: [size.width, size.height], margin: 0, autoFirstPage: true });
  const chunks: Uint8Array[] = [];
  doc.on('data', (chunk: Uint8Array) => chunks.push(chunk));
  const ended = new Promise<void>((resolve) => doc.on('end', resolve));
  names.forEach((name) => doc.addSpotColor(name, 0, 100, 0, 0));
  const spotOf = (raw: unknown) => (typeof raw === 'string' ? names[MARKERS.indexOf(raw.trim().toLowerCase())] : undefined);
  const draw = (svg: string) =>
    svgToPdfkit(doc, svg, 0, 0, {
      width: size.width,
      height: size.height,
      preserveAspectRatio: 'none',
      assumePt: false,
      warningCallback: () => undefined,
      colorCallback: (colour: unknown, raw: unknown) => {
        const spot = spotOf(raw);
        return spot ? [spot, 1] : colour;
      }
    });
  if (/<filter[\s>]/.test(text)) {
    notes.push(
      'The SVG uses filters, which only pixels can show: it was drawn at 300 pixels an inch. Cut lines and other roles stay shapes.'
    );
    const plain = structuredClone(root);
    keepRoles(plain['svg'] as Node[], false);
    doc.image(Buffer.from(await toPng(build([plain]))), 0, 0, { width: size.width, height: size.height });
    keepRoles(root['svg'] as Node[], true);
    draw(build([root]));
  } else draw(marked);
  doc.end();
  await ended;
  return { pdf: Buffer.concat(chunks), notes };
}

function svgSize(attributes: Record<string, string>, notes: string[]): { width: number; height: number } {
  const box = (attributes['viewBox'] ?? '')
    .trim()
    .split(/[\s,]+/)
    .map(Number);
  const read = (value: string | undefined, fallback: number | undefined) => {
    const match = /^\s*([\d.]+)\s*([a-z]*)\s*$/i.exec(value ?? '');
    const unit = PT_PER_UNIT[(match?.[2] ?? '').toLowerCase()];
    if (match && unit) return Number(match[1]) * unit;
    return fallback !== undefined && fallback > 0 ? fallback * 0.75 : undefined;
  };
  const width = read(attributes['width'], box[2]);
  const height = read(attributes['height'], box[3]);
  if (!attributes['width']) notes.push('The SVG does not say its size; its units were taken as 1/96 inch.');
  if (!width || !height || !Number.isFinite(width * height))
    throw new ArtworkError('The SVG has no size: neither width and height nor a view box.');
  return { width, height };
}

/** Paints everything that carries a name of the rules in the marker of that name: lines for a tool as outlines, the rest filled. */
function markRoles(nodes: Node[], rules: readonly RoleRule[], names: string[], inherited: string | undefined): void {
  for (const node of nodes) {
    const tag = Object.keys(node).find((key) => key !== ':@' && key !== '#text');
    if (!tag) continue;
    const attributes = (node[':@'] ??= {});
    const told = [
      attributes['id'],
      ...(attributes['class'] ?? '').split(/\s+/),
      attributes['inkscape:label'],
      attributes['data-name'],
      attributes['data-role']
    ];
    const name = told.find((value): value is string => !!value && !!ruleFor(value, rules)) ?? inherited;
    if (name) {
      if (!names.includes(name)) names.push(name);
      const marker = MARKERS[names.indexOf(name)];
      if (!marker) throw new ArtworkError(`The SVG uses more than ${MARKERS.length} names that have a role.`);
      for (const key of ['fill', 'stroke', 'opacity', 'fill-opacity', 'stroke-opacity', 'filter']) delete attributes[key];
      attributes['style'] = isTool(ruleFor(name, rules)?.role)
        ? `fill:none;stroke:${marker};stroke-width:0.25;stroke-opacity:1`
        : `fill:${marker};stroke:none`;
      attributes['data-has-role'] = 'yes';
    }
    const children = node[tag];
    if (Array.isArray(children)) markRoles(children as Node[], rules, names, name);
  }
}

const DRAWN = new Set(['path', 'rect', 'circle', 'ellipse', 'line', 'polyline', 'polygon', 'text', 'image', 'use']);

/** Leaves only what has a role, or only the rest. */
function keepRoles(nodes: Node[], wanted: boolean): void {
  for (let i = nodes.length - 1; i >= 0; i--) {
    const node = nodes[i] as Node;
    const tag = Object.keys(node).find((key) => key !== ':@' && key !== '#text');
    if (!tag) continue;
    const has = node[':@']?.['data-has-role'] === 'yes';
    if (DRAWN.has(tag) && has !== wanted) nodes.splice(i, 1);
    else if (Array.isArray(node[tag])) keepRoles(node[tag] as Node[], wanted);
  }
}
