import type { DocketDocument } from '$lib/docket-choices';
import { dayOf } from '../platform/days';
import type { Db } from '../platform/db/open';
import type { FacetCase, ListSpec, Raw } from '../platform/listing';

/** How far a docket is. */
export type DocketStage = 'waiting' | 'laid out' | 'printing' | 'printed' | 'done';

/** A docket as a list shows it. */
export interface DocketLine {
  id: number;
  name: string;
  customer: string;
  dueOn: string;
  note: string;
  priority: DocketDocument['priority'];
  version: number;
  copies: number;
  widthMm: number;
  heightMm: number;
  conditionId: number | null;
  media: string | null;
  machine: string | null;
  cut: number;
  runId: number | null;
  stage: DocketStage;
  away: number;
  /** The worst that checks find without drawing it: 0 nothing, 1 look, 2 stop; nothing until it was looked at. */
  worst: number | null;
}

const AWAY = ['open', 'put away'] as const;
const STAGES: Record<DocketStage, string> = {
  waiting: 'not laid out',
  'laid out': 'laid out',
  printing: 'printing',
  printed: 'to cut',
  done: 'done'
};
const LEVELS = ['fine', 'look', 'stop'] as const;

/** By how many days are left. @param today a day of the shop's own clock, YYYY-MM-DD */
export function dueClasses(db: Db, today: string): FacetCase[] {
  const week = db.prepare<[string], string>("SELECT date(?, '+7 days')").pluck().get(today)!;
  return [
    { name: 'late', when: `d.due_on != '' AND d.due_on < '${today}'` },
    { name: 'today', when: `d.due_on = '${today}'` },
    { name: 'within a week', when: `d.due_on > '${today}' AND d.due_on <= '${week}'` },
    { name: 'later', when: `d.due_on > '${week}'` },
    { name: 'no date', when: `d.due_on = ''` }
  ];
}

/** What each condition is called by, in one column of it. */
const ofCondition = (name: string) => (db: Db) => {
  const names = new Map(
    db
      .prepare<[], [number, string]>(
        `SELECT c.id, ${name} FROM condition c JOIN media m ON m.id = c.media_id JOIN machine p ON p.id = c.machine_id`
      )
      .raw()
      .all()
  );
  return (id: Raw) => names.get(Number(id)) ?? 'not chosen';
};

export const DOCKET_LIST: ListSpec = {
  from: `docket d LEFT JOIN condition c ON c.id = d.condition_id LEFT JOIN media m ON m.id = c.media_id
    LEFT JOIN machine p ON p.id = c.machine_id`,
  counted: 'docket d',
  id: 'd.id',
  columns: `d.id, d.name, d.customer, d.due_on AS dueOn, substr(d.note, 1, 80) AS note, d.priority, d.version, d.copies,
    d.width_mm AS widthMm, d.height_mm AS heightMm, d.condition_id AS conditionId, m.name AS media, p.name AS machine,
    d.is_cut AS cut, d.run_id AS runId, d.stage, d.away, d.worst`,
  words: 'd.words',
  sorts: {
    number: 'd.id',
    name: 'd.name COLLATE NOCASE',
    customer: 'd.customer COLLATE NOCASE',
    due: `CASE d.due_on WHEN '' THEN '9999' ELSE d.due_on END`,
    priority: `CASE d.priority WHEN 'high' THEN 0 WHEN 'normal' THEN 1 ELSE 2 END`,
    copies: 'd.copies',
    size: 'd.width_mm * d.height_mm',
    media: `coalesce(m.name, '') COLLATE NOCASE`,
    stage: `CASE d.stage WHEN 'waiting' THEN 0 WHEN 'laid out' THEN 1 WHEN 'printing' THEN 2 WHEN 'printed' THEN 3 ELSE 4 END`,
    check: 'coalesce(d.worst, -1)'
  },
  // In the order of the index docket_facets: counting goes along it.
  facets: {
    list: { column: 'd.away', values: [0, 1], say: () => (away) => AWAY[Number(away)], order: AWAY },
    stage: {
      column: 'd.stage',
      values: Object.keys(STAGES),
      say: () => (stage) => STAGES[stage as DocketStage],
      order: Object.values(STAGES)
    },
    media: { column: 'd.condition_id', say: ofCondition('m.name') },
    machine: { column: 'd.condition_id', say: ofCondition('p.name') },
    check: {
      column: 'd.worst',
      values: [null, 0, 1, 2],
      say: () => (worst) => (worst === null ? 'not looked at yet' : LEVELS[Number(worst)]),
      order: ['stop', 'look', 'fine', 'not looked at yet']
    },
    customer: { column: 'd.customer', say: () => (customer) => String(customer) || 'no customer' }
  },
  classes: { facet: 'due', cases: (db) => dueClasses(db, dayOf(new Date())) },
  usual: { sort: 'number', down: true },
  open: { facet: 'list', value: 'open' }
};
