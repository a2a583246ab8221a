import { counted } from '$core/units/counted';
import { formatLength, type ShopUnit } from '$core/units/length';
import type { DocketChoices, DocketDocument } from '$lib/docket-choices';

/** One thing that differs between two states of a docket. */
export interface Change {
  key: string;
  label: string;
  before: unknown;
  after: unknown;
}

const LABELS: Record<string, string> = {
  artworkId: 'Artwork',
  page: 'Page',
  name: 'Name',
  customer: 'Customer',
  dueOn: 'Due',
  note: 'Note',
  priority: 'Priority',
  widthMm: 'Width',
  heightMm: 'Height',
  box: 'Part of the page',
  crop: 'Crop',
  turn: 'Turn',
  mirror: 'Mirrored',
  bleedMm: 'Bleed',
  bleedFrom: 'Bleed from',
  bleedColour: 'Colour of the bleed',
  roles: 'Roles',
  layersOff: 'Layers off',
  blackText: 'Dark lettering in black alone',
  blackPictures: 'Grey pictures and gradients in black alone',
  overprint: 'Overprint',
  richBlack: 'Large black in all inks',
  thinnestMm: 'Thinnest line',
  viewingMm: 'Looked at from',
  cut: 'Cutting',
  lines: 'Cut lines',
  finishing: 'Finishing',
  copies: 'Copies',
  conditionId: 'Media and mode',
  mayTurn: 'May be turned on the roll',
  intent: 'Rendering intent',
  records: 'Records'
};

/** A docket's fields side by side, choices among them. */
export const flat = ({ choices, ...rest }: DocketDocument): Record<string, unknown> => ({ ...rest, ...choices });

/** The docket with one field set. */
export function withField(document: DocketDocument, key: string, value: unknown): DocketDocument {
  return key in document.choices
    ? { ...document, choices: { ...document.choices, [key]: value } as DocketChoices }
    : { ...document, [key]: value };
}

/** What a docket has in one of its fields, in words. */
export function fieldInWords(key: string, value: unknown, unit: ShopUnit): string {
  if (typeof value === 'number' && key.endsWith('Mm')) return formatLength(value, unit);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (value === null || value === '') return 'none';
  if (key === 'lines') return `${(value as DocketChoices['lines']).made.length} of its own`;
  if (key === 'records') {
    const { fields, table } = value as DocketChoices['records'];
    return `${counted(fields.length, 'field')}, ${table ? `${counted(table.count, 'record')} of ${table.name}` : 'no table'}`;
  }
  if (key === 'turn') return `${String(value)}°`;
  if (Array.isArray(value)) return value.length === 0 ? 'none' : value.join(', ');
  if (typeof value === 'object') {
    return (
      Object.entries(value)
        .map(([name, part]) => `${name} ${typeof part === 'number' ? formatLength(part, unit) : String(part)}`)
        .join(', ') || 'none'
    );
  }
  return String(value as string | number);
}

export function changesBetween(before: DocketDocument, after: DocketDocument): Change[] {
  const [a, b] = [flat(before), flat(after)];
  return Object.keys(b)
    .filter((key) => JSON.stringify(a[key]) !== JSON.stringify(b[key]))
    .map((key) => ({ key, label: LABELS[key] ?? key, before: a[key], after: b[key] }));
}

/**
 * Brings together what two windows made of the same state. Where both changed the same field, theirs stays.
 *
 * @returns the merged docket, and which fields of mine did not make it
 */
export function merge(
  base: DocketDocument,
  mine: DocketDocument,
  theirs: DocketDocument
): { merged: DocketDocument; lost: Change[] } {
  const [b, m, t] = [flat(base), flat(mine), flat(theirs)];
  const differs = (p: unknown, q: unknown) => JSON.stringify(p) !== JSON.stringify(q);
  let merged = theirs;
  const lost: Change[] = [];
  for (const key of Object.keys(m)) {
    if (!differs(m[key], b[key]) || !differs(m[key], t[key])) continue;
    if (differs(t[key], b[key])) lost.push({ key, label: LABELS[key] ?? key, before: m[key], after: t[key] });
    else merged = withField(merged, key, m[key]);
  }
  return { merged, lost };
}
