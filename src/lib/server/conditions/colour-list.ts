import type { Triple } from '$core/colour/lab';
import type { ListSpec } from '../platform/listing';

/** A named colour as a list shows it. */
export interface ColourLine {
  id: number;
  name: string;
  lab: Triple;
  others: string[];
  collection: string;
  from: string;
  note: string;
  version: number;
  /** Conditions on which it has inks of its own. */
  own: number;
}

/** As SQL gives it. */
export type ColourLineRow = Omit<ColourLine, 'lab' | 'others'> & { l: number; a: number; b: number; others: string };

export const toColourLine = ({ l, a, b, others, ...row }: ColourLineRow): ColourLine => ({
  ...row,
  lab: [l, a, b],
  others: JSON.parse(others) as string[]
});

export const COLOUR_LIST: ListSpec = {
  from: 'named_colour n',
  where: 'n.gone_at IS NULL',
  id: 'n.id',
  columns: `n.id, n.name, n.l, n.a, n.b, n.others, n.collection, n.origin AS "from", n.note, n.version,
    (SELECT count(*) FROM colour_inks i WHERE i.colour_id = n.id) AS own`,
  words: 'n.words',
  sorts: {
    name: 'n.name COLLATE NOCASE',
    // Greys by themselves before the circle of hues.
    hue: 'CASE WHEN n.chroma < 4 THEN -1 ELSE n.hue END',
    lightness: 'n.l',
    chroma: 'n.chroma',
    collection: 'n.collection COLLATE NOCASE',
    added: 'n.id'
  },
  facets: {
    collection: { column: 'n.collection', say: () => (name) => (name === '' ? 'in no collection' : String(name)) }
  },
  usual: { sort: 'name', down: false }
};
