import { distance } from 'fastest-levenshtein';
import { plainName } from '../units/names';

/** Names of fields and of columns, matched as people mean them. */

/** A column that might be meant by a name, 1 for the same, above 0. */
interface Near {
  column: string;
  likeness: number;
}

/** How alike two plain names are: 1 the same, by edits, or as a part of the other; 0 not alike. */
function likeness(p: string, q: string): number {
  if (p === q) return 1;
  const [short, long] = p.length < q.length ? [p, q] : [q, p];
  if (short.length === 0) return 0;
  const edits = 1 - distance(p, q) / long.length;
  const part = long.includes(short) && short.length >= 3 ? 0.6 + (0.3 * short.length) / long.length : 0;
  return Math.max(part, edits >= 0.6 ? edits : 0);
}

export interface Matches {
  /** By name that is asked for, the column that is meant. */
  columns: Record<string, string>;
  /** Names without a column, each with those that might be meant, the likeliest first. */
  open: { name: string; near: string[] }[];
  /** Columns that no name asks for. */
  unused: string[];
}

/**
 * Which columns are meant by names.
 *
 * @param chosen by name what the operator said; a column that the table does not have is matched anew
 */
export function matchNames(
  names: readonly string[],
  columns: readonly string[],
  chosen: Readonly<Record<string, string>> = {}
): Matches {
  const byPlain = new Map<string, string>();
  for (const column of columns) if (!byPlain.has(plainName(column))) byPlain.set(plainName(column), column);
  const matched: Record<string, string> = {};
  const open: Matches['open'] = [];
  for (const name of new Set(names)) {
    const said = chosen[name];
    const column =
      said !== undefined && columns.includes(said) ? said : columns.includes(name) ? name : byPlain.get(plainName(name));
    if (column !== undefined) matched[name] = column;
    else {
      const near = columns
        .map((one): Near => ({ column: one, likeness: likeness(plainName(name), plainName(one)) }))
        .filter((one) => one.likeness > 0)
        .sort((p, q) => q.likeness - p.likeness);
      open.push({ name, near: near.slice(0, 3).map((one) => one.column) });
    }
  }
  const used = new Set(Object.values(matched));
  return { columns: matched, open, unused: columns.filter((column) => !used.has(column)) };
}
