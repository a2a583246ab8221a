import type { ListSpec } from '../platform/listing';
import type { CutClosed, CutRow } from './cut';

/** A cut task as a list shows it. */
export interface CutListLine {
  id: number;
  code: string;
  state: CutRow['state'];
  /** What a person said of it, where no cutter of the shop cut it. */
  closed: CutRow['closed'];
  reason: string | null;
  runId: number;
  media: string;
  /** Names of its first dockets, and how many it has. */
  names: string;
  dockets: number;
  pictures: { id: number; version: number }[];
  addedAt: number;
}

export type CutListRow = Omit<CutListLine, 'pictures'> & { pictures: string };

const LISTS = ['to cut', 'cut'] as const;
const STATES: Record<CutRow['state'] | CutClosed, string> = {
  waiting: 'waits for the cutter',
  loaded: 'lies in the cutter',
  registered: 'marks found',
  cutting: 'being cut',
  cut: 'cut',
  'cut elsewhere': 'cut elsewhere',
  'not to be cut': 'not to be cut'
};

export const CUT_LIST: ListSpec = {
  from: `cut_task k JOIN print q ON q.id = k.print_id JOIN run r ON r.id = q.run_id JOIN condition c ON c.id = r.condition_id
    JOIN media m ON m.id = c.media_id`,
  id: 'k.id',
  columns: `k.id, k.code, k.state, k.closed, k.reason, r.id AS runId, m.name AS media, k.added_at AS addedAt,
    (SELECT count(*) FROM run_docket e WHERE e.run_id = r.id) AS dockets,
    coalesce((SELECT group_concat(name, ', ') FROM (
      SELECT d.name FROM run_docket e JOIN docket d ON d.id = e.docket_id WHERE e.run_id = r.id ORDER BY e.position LIMIT 4)), '') AS names,
    (SELECT json_group_array(json_object('id', id, 'version', version)) FROM (
      SELECT d.id, d.version FROM run_docket e JOIN docket d ON d.id = e.docket_id WHERE e.run_id = r.id ORDER BY e.position LIMIT 3
    )) AS pictures`,
  words: `fold(k.code) || ' run ' || r.id || ' ' || coalesce((
    SELECT group_concat(d.words, ' ') FROM run_docket e JOIN docket d ON d.id = e.docket_id WHERE e.run_id = r.id), '')`,
  sorts: {
    number: 'k.id',
    stage: `CASE k.state WHEN 'cutting' THEN 0 WHEN 'registered' THEN 1 WHEN 'loaded' THEN 2 WHEN 'waiting' THEN 3 ELSE 4 END`,
    media: 'm.name COLLATE NOCASE',
    run: 'r.id'
  },
  facets: {
    list: { column: `k.state = 'cut'`, say: () => (cut) => LISTS[Number(cut)], order: LISTS },
    stage: {
      column: 'coalesce(k.closed, k.state)',
      say: () => (state) => STATES[state as keyof typeof STATES],
      order: Object.values(STATES)
    },
    media: { column: 'm.name' }
  },
  usual: { sort: 'number', down: true },
  open: { facet: 'list', value: 'to cut' }
};
