import type { DocketDocument } from '$lib/model';
import type { ListSpec } from '../platform/listing';

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

/** In days from today, by the shop's own clock. */
export const DUE = `CASE
    WHEN d.due_on = '' THEN 'no date'
    WHEN d.due_on < date('now', 'localtime') THEN 'late'
    WHEN d.due_on = date('now', 'localtime') THEN 'today'
    WHEN d.due_on <= date('now', 'localtime', '+7 days') THEN 'within a week'
    ELSE 'later'
  END`;

export const DOCKET_LIST: ListSpec = {
  from: `docket d LEFT JOIN condition c ON c.id = d.condition_id LEFT JOIN media m ON m.id = c.media_id
    LEFT JOIN machine p ON p.id = c.machine_id`,
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
  facets: {
    list: `CASE d.away WHEN 0 THEN 'open' ELSE 'put away' END`,
    stage: `CASE d.stage WHEN 'waiting' THEN 'not laid out' WHEN 'printed' THEN 'to cut' ELSE d.stage END`,
    due: DUE,
    media: `coalesce(m.name, 'not chosen')`,
    machine: `coalesce(p.name, 'not chosen')`,
    customer: `CASE d.customer WHEN '' THEN 'no customer' ELSE d.customer END`,
    check: `CASE d.worst WHEN 2 THEN 'stop' WHEN 1 THEN 'look' WHEN 0 THEN 'fine' ELSE 'not looked at yet' END`
  },
  inOrder: {
    list: ['open', 'put away'],
    stage: ['not laid out', 'laid out', 'printing', 'to cut', 'done'],
    due: ['late', 'today', 'within a week', 'later', 'no date'],
    check: ['stop', 'look', 'fine', 'not looked at yet']
  },
  usual: { sort: 'number', down: true },
  open: { facet: 'list', value: 'open' }
};
