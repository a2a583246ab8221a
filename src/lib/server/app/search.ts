import { fold } from '$lib/listing';
import type { Db } from '../platform/db/open';
import { COLOUR_LIST } from '../conditions/colour-list';
import { CUT_LIST } from '../cutting/cut-list';
import { DOCKET_LIST } from '../dockets/docket-list';
import type { ListSpec } from '../platform/listing';
import { RUN_LIST } from '../production/run-list';

/** Of one kind of thing that is shown at most. */
const MOST_OF_A_KIND = 5;

export interface Found {
  kind: string;
  title: string;
  detail: string;
  href: string;
}

/** What is looked in, in the order in which it is shown: its words, folded, and what is told of it. */
interface Place extends Pick<ListSpec, 'from' | 'id'> {
  kind: string;
  words: string;
  title: string;
  detail: string;
  /** Before the number, or the title. */
  href: string;
  byTitle?: boolean;
  order?: string;
}

const PLACES: readonly Place[] = [
  {
    ...DOCKET_LIST,
    kind: 'Docket',
    words: `'docket ' || ${DOCKET_LIST.words}`,
    title: 'd.name',
    detail: `d.customer || CASE d.away WHEN 1 THEN ', put away' ELSE '' END`,
    href: '/dockets/',
    order: 'd.away, d.id DESC'
  },
  {
    ...RUN_LIST,
    from: `${RUN_LIST.from} AND r.chart_id IS NULL`,
    kind: 'Run',
    title: `'Run ' || r.id`,
    detail: `m.name || ', ' || r.state`,
    href: '/runs/'
  },
  {
    from: 'artwork a',
    id: 'a.id',
    kind: 'Artwork',
    words: `'artwork ' || a.words`,
    title: 'a.name',
    detail: `coalesce(json_extract(a.brief, '$.format'), a.state)`,
    href: '/artwork?q=',
    byTitle: true
  },
  {
    ...CUT_LIST,
    kind: 'Cut',
    words: `'cut ' || ${CUT_LIST.words}`,
    title: 'k.code',
    detail: `'run ' || r.id || ', ' || k.state`,
    href: '/cutting/'
  },
  {
    from: 'lane l JOIN media m ON m.id = l.media_id AND m.away = 0 JOIN machine p ON p.id = l.machine_id AND p.away = 0 JOIN condition lc ON lc.id = l.condition_id AND lc.away = 0',
    id: 'l.id',
    kind: 'Lane',
    words: `'lane ' || fold(m.name || ' ' || p.name)`,
    title: 'm.name',
    detail: 'p.name',
    href: '/#lane-'
  },
  {
    from: 'jig j',
    id: 'j.id',
    kind: 'Jig',
    words: `'jig ' || fold(j.name)`,
    title: 'j.name',
    detail: `''`,
    href: '/shop/jigs/'
  },
  {
    from: '(SELECT * FROM machine WHERE away = 0) p',
    id: 'p.id',
    kind: 'Machine',
    words: `'machine ' || p.kind || ' ' || fold(p.name || ' ' || p.model)`,
    title: 'p.name',
    detail: 'p.kind',
    href: '/shop#machine-'
  },
  {
    from: '(SELECT * FROM condition WHERE away = 0) c JOIN media m ON m.id = c.media_id AND m.away = 0 JOIN machine p ON p.id = c.machine_id AND p.away = 0',
    id: 'c.id',
    kind: 'Condition',
    words: `'condition colour ' || fold(m.name || ' ' || p.name || ' ' || json_extract(c.mode, '$.name'))`,
    title: 'm.name',
    detail: `p.name || ', ' || json_extract(c.mode, '$.name')`,
    href: '/colour/'
  },
  {
    ...COLOUR_LIST,
    from: '(SELECT * FROM named_colour WHERE gone_at IS NULL) n',
    kind: 'Named colour',
    words: `'named colour ' || ${COLOUR_LIST.words}`,
    title: 'n.name',
    detail: 'n.collection',
    href: '/colour/named/'
  },
  {
    from: 'media m',
    id: 'm.id',
    kind: 'Media',
    words: `'media ' || fold(m.name || ' ' || json_extract(m.card, '$.maker') || ' ' || json_extract(m.card, '$.family'))`,
    title: 'm.name',
    detail: `json_extract(m.card, '$.maker') || CASE m.away WHEN 1 THEN ', put away' ELSE '' END`,
    href: '/media/',
    order: 'm.away, m.id DESC'
  },
  {
    from: 'print_mode o',
    id: 'o.code',
    kind: 'Print mode',
    words: `'print mode ' || fold(json_extract(o.document, '$.name') || ' ' || o.code)`,
    title: `json_extract(o.document, '$.name')`,
    detail: `json_extract(o.document, '$.machine') || ', ' || json_extract(o.document, '$.family')`,
    href: '/colour/modes?mode=',
    order: 'o.code'
  }
];

/** Finds things by all of the words, a few of each kind. */
export function search(db: Db, text: string): Found[] {
  const words = fold(text).split(/\s+/).filter(Boolean).slice(0, 12);
  if (words.length === 0) return [];
  // Who types a number means the thing that has it.
  const numbers = JSON.stringify(words.map(Number).filter(Number.isSafeInteger));
  return PLACES.flatMap(({ kind, from, id, words: where, title, detail, href, byTitle, order }) =>
    db
      .prepare<string[], { id: number | string; title: string; detail: string | null }>(
        `SELECT ${id} AS id, ${title} AS title, ${detail} AS detail FROM ${from}
         WHERE ${words.map(() => `instr(${where}, ?) > 0`).join(' AND ')} ORDER BY ${id} IN (SELECT value FROM json_each(?)) DESC, ${order ?? `${id} DESC`} LIMIT ${MOST_OF_A_KIND}`
      )
      .all(...words, numbers)
      .map((row) => ({
        kind,
        title: row.title,
        detail: row.detail ?? '',
        href: `${href}${encodeURIComponent(byTitle ? row.title : row.id)}`
      }))
  );
}
