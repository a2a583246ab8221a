import type { ArtworkFacts, PageFacts } from '$core/artwork/facts';
import { briefly } from '$core/checks/intake';
import type { Db } from '../platform/db/open';
import type { ListSpec } from '../platform/listing';

/** More findings of a file are counted and not told. */
const MOST_TOLD = 3;

/** Where a file is on its way in: refused for a fault of its own, or unread for none. */
export type ArtworkState = 'reading' | 'ready' | 'refused' | 'unread';

/** What of a whole file a list shows. */
export interface ArtworkBrief {
  format: ArtworkFacts['format'];
  pages: number;
  notes: string[];
  /** What was not taken as its maker had it, in words, and how many more there are. */
  findings: string[];
  more: number;
  fontsNotEmbedded: string[];
}

/** A page of artwork as a list shows it, or a file that has none. */
export interface ArtworkLine {
  id: number;
  artworkId: number;
  page: number;
  name: string;
  bytes: number;
  state: ArtworkState;
  reason: string | null;
  brief: ArtworkBrief | null;
  widthMm: number | null;
  heightMm: number | null;
  bleedMm: number | null;
  colours: string;
  /** Of spot colours and layers: how many outlines they have. */
  outlines: { name: string; outlines: number }[];
  images: number;
  leastPpi: number | null;
  /** Dockets of this page, and the newest two of them. */
  dockets: number;
  newest: number[];
  /** Dockets of any page of the file. */
  ofFile: number;
}

/** As SQL gives it. */
export type ArtworkLineRow = Omit<ArtworkLine, 'brief' | 'outlines' | 'newest'> & {
  brief: string | null;
  outlines: string;
  newest: string | null;
};

export const toArtworkLine = (row: ArtworkLineRow): ArtworkLine => ({
  ...row,
  brief: row.brief === null ? null : (JSON.parse(row.brief) as ArtworkBrief),
  outlines: JSON.parse(row.outlines) as ArtworkLine['outlines'],
  newest: (row.newest ?? '').split(',').filter(Boolean).map(Number)
});

const STATES: Record<ArtworkState, string> = { ready: 'taken', reading: 'being read', unread: 'not read', refused: 'refused' };

export const ARTWORK_LIST: ListSpec = {
  from: 'artwork_page p JOIN artwork a ON a.id = p.artwork_id',
  id: 'p.id',
  columns: `p.id, a.id AS artworkId, p.page, a.name, a.bytes, a.state, a.reason, a.brief, p.width_mm AS widthMm,
    p.height_mm AS heightMm, p.bleed_mm AS bleedMm, p.colours, p.outlines, p.images, p.least_ppi AS leastPpi,
    (SELECT count(*) FROM docket d WHERE d.artwork_id = a.id AND d.page = p.page) AS dockets,
    (SELECT group_concat(id) FROM (
      SELECT id FROM docket d WHERE d.artwork_id = a.id AND d.page = p.page ORDER BY id DESC LIMIT 2)) AS newest,
    (SELECT count(*) FROM docket d WHERE d.artwork_id = a.id) + (SELECT count(*) FROM docket d WHERE d.previous_artwork_id = a.id)
      AS ofFile`,
  words: 'a.words',
  sorts: {
    // The pages of a file follow each other.
    added: 'a.id * 10000 - p.page',
    name: 'a.name COLLATE NOCASE',
    size: 'p.width_mm * p.height_mm',
    bytes: 'a.bytes',
    ppi: 'coalesce(p.least_ppi, 1e9)',
    used: '(SELECT count(*) FROM docket d WHERE d.artwork_id = a.id AND d.page = p.page)'
  },
  facets: {
    state: { column: 'a.state', say: () => (state) => STATES[state as ArtworkState], order: Object.values(STATES) },
    used: {
      column: 'EXISTS (SELECT 1 FROM docket d WHERE d.artwork_id = a.id AND d.page = p.page)',
      say: () => (used) => (used === 1 ? 'in a docket' : 'not used'),
      order: ['not used', 'in a docket']
    },
    look: { column: 'p.looks', say: () => (looks) => (looks === null ? undefined : looks === 0 ? 'fine' : 'to look at') },
    format: { column: 'p.format' }
  },
  usual: { sort: 'added', down: true }
};

function briefOf(facts: ArtworkFacts): ArtworkBrief {
  const { format, pages, notes, findings, fontsNotEmbedded } = facts;
  return {
    format,
    pages: pages.length,
    notes,
    findings: findings.slice(0, MOST_TOLD).map(briefly),
    more: Math.max(0, findings.length - MOST_TOLD),
    fontsNotEmbedded
  };
}

const outlinesOf = ({ spots, layers }: PageFacts) =>
  [...spots, ...layers].filter(({ outlines }) => outlines > 0).map(({ name, outlines }) => ({ name, outlines }));

/** Writes down what lists show of artwork that was read; the numbers of pages that were there stay. */
export function keepForLists(db: Db, id: number, facts: ArtworkFacts): void {
  db.prepare('UPDATE artwork SET brief = ? WHERE id = ?').run(JSON.stringify(briefOf(facts)), id);
  db.prepare('DELETE FROM artwork_page WHERE artwork_id = ? AND page >= ?').run(id, facts.pages.length);
  const put = db.prepare(
    `INSERT INTO artwork_page (artwork_id, page, width_mm, height_mm, bleed_mm, colours, outlines, images, least_ppi, looks, format)
     VALUES (@id, @page, @widthMm, @heightMm, @bleedMm, @colours, @outlines, @images, @leastPpi, @looks, @format)
     ON CONFLICT (artwork_id, page) DO UPDATE SET width_mm = @widthMm, height_mm = @heightMm, bleed_mm = @bleedMm,
       colours = @colours, outlines = @outlines, images = @images, least_ppi = @leastPpi, looks = @looks, format = @format`
  );
  const { format, findings, fontsNotEmbedded } = facts;
  const looks = findings.length + fontsNotEmbedded.length;
  facts.pages.forEach((sheet, page) => {
    const { widthMm, heightMm, bleedMm, colourSpaces, spots, images } = sheet;
    put.run({
      id,
      page,
      looks,
      format,
      widthMm,
      heightMm,
      bleedMm,
      colours: [...colourSpaces, ...spots.map(({ name }) => name)].join(', '),
      outlines: JSON.stringify(outlinesOf(sheet)),
      images: images.length,
      leastPpi: images.length === 0 ? null : images.reduce((least, { ppi }) => Math.min(least, ppi), Infinity)
    });
  });
}

/** Artwork that an earlier version read has not been written down for lists yet. */
export function catchUpLists(db: Db): void {
  const rows = db
    .prepare<[], { id: number; facts: string }>("SELECT id, facts FROM artwork WHERE state = 'ready' AND brief IS NULL")
    .all();
  if (rows.length === 0) return;
  db.transaction(() => {
    for (const { id, facts } of rows) keepForLists(db, id, JSON.parse(facts) as ArtworkFacts);
  })();
}
