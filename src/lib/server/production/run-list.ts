import type { RunState } from '$lib/run-rule';
import type { ListSpec } from '../platform/listing';

/** A run as a list shows it. */
export interface RunLine {
  id: number;
  state: RunState;
  releasedAt: number | null;
  addedAt: number;
  media: string;
  machine: string;
  mode: string;
  /** Names of its first dockets with their copies, and how many dockets it has. */
  names: string;
  dockets: number;
  /** Of the pictures shown with it. */
  pictures: { id: number; version: number }[];
  /** Sheets, or loads of its jig. */
  sheets: number | null;
  inJig: number;
  lengthMm: number | null;
  wasteShare: number | null;
  /** It was RIPped and something changed since. */
  stale: boolean;
  ripped: number;
}

export type RunLineRow = Omit<RunLine, 'pictures' | 'stale' | 'sheets'> & {
  pictures: string;
  parts: number | null;
  times: number;
  onSheets: number;
};

const LISTS = ['open', 'printed'] as const;

export const RUN_LIST: ListSpec = {
  from: `run r JOIN condition c ON c.id = r.condition_id JOIN media m ON m.id = c.media_id JOIN machine p ON p.id = c.machine_id`,
  where: 'r.chart_id IS NULL',
  id: 'r.id',
  columns: `r.id, r.state, r.released_at AS releasedAt, r.added_at AS addedAt, m.name AS media, p.name AS machine,
    json_extract(c.mode, '$.name') AS mode, r.length_mm AS lengthMm, r.waste_share AS wasteShare, r.parts, r.times,
    p.bed = 'flatbed' AS onSheets, json_extract(r.rule, '$.jig') IS NOT NULL AS inJig, r.plates_name IS NOT NULL AS ripped,
    (SELECT count(*) FROM run_docket e WHERE e.run_id = r.id) AS dockets,
    coalesce((SELECT group_concat(one, ', ') FROM (
      SELECT CASE WHEN e.pieces IS NULL THEN coalesce(e.copies * r.times, d.copies) || ' × ' ELSE (e.copies * r.times) || ' of the panels of ' END || d.name AS one FROM run_docket e JOIN docket d ON d.id = e.docket_id
      WHERE e.run_id = r.id ORDER BY e.position LIMIT 4)), '') AS names,
    (SELECT json_group_array(json_object('id', id, 'version', version)) FROM (
      SELECT d.id, d.version FROM run_docket e JOIN docket d ON d.id = e.docket_id WHERE e.run_id = r.id ORDER BY e.position LIMIT 3
    )) AS pictures`,
  words: `'run ' || r.id || ' ' || fold(m.name) || ' ' || fold(p.name) || ' ' || coalesce((
    SELECT group_concat(d.words, ' ') FROM run_docket e JOIN docket d ON d.id = e.docket_id WHERE e.run_id = r.id), '')`,
  sorts: {
    number: 'r.id',
    stage: `CASE r.state WHEN 'laying out' THEN 0 WHEN 'ripping' THEN 1 WHEN 'ripped' THEN 2 WHEN 'printing' THEN 3 ELSE 4 END`,
    media: 'm.name COLLATE NOCASE',
    dockets: '(SELECT count(*) FROM run_docket e WHERE e.run_id = r.id)',
    length: 'coalesce(r.length_mm, 0)',
    waste: 'coalesce(r.waste_share, 0)'
  },
  facets: {
    list: { column: `r.state = 'printed'`, say: () => (printed) => LISTS[Number(printed)], order: LISTS },
    stage: {
      column: `CASE WHEN r.state = 'ripped' AND r.released_at IS NOT NULL THEN 'released' WHEN r.state = 'ripped' THEN 'RIPped'
        WHEN r.state = 'ripping' THEN 'at the RIP' ELSE r.state END`,
      order: ['laying out', 'at the RIP', 'RIPped', 'released', 'printing', 'printed']
    },
    media: { column: 'm.name' },
    machine: { column: 'p.name' }
  },
  usual: { sort: 'number', down: true }
};
