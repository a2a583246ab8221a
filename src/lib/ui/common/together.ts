/**
 * Bringing together what two windows made of one state: what was touched on one side alone is taken from there, and where both
 * touched the same, `mine` counts, which is typed or asked for last.
 */

/** Whether two values say the same; a field that is missing and one that is undefined do. */
export function isAlike(p: unknown, q: unknown): boolean {
  if (Object.is(p, q)) return true;
  if (!isTree(p) || !isTree(q) || Array.isArray(p) !== Array.isArray(q)) return false;
  return [...keysOf(p, q)].every((key) => isAlike(p[key], q[key]));
}

/** Trees field by field; lists as one value, or row by row where these can be told. */
export function together<T>(base: T, mine: T, theirs: T): T {
  if (isAlike(mine, base)) return theirs;
  if (isAlike(theirs, base)) return mine;
  if (areRows(base) && areRows(mine) && areRows(theirs)) return rowsTogether(base, mine, theirs) as T;
  if (!isFields(base) || !isFields(mine) || !isFields(theirs) || !areOfOneKind(base, mine, theirs)) return mine;
  const [b, m, t] = [base, mine, theirs] as Record<string, unknown>[] as [Tree, Tree, Tree];
  const all: Tree = {};
  for (const key of keysOf(t, m)) {
    const value = together(b[key], m[key], t[key]);
    if (value !== undefined) all[key] = value;
  }
  return all as T;
}

/** Rows have no names: where some came or went, or several were touched and one of them on both sides, they cannot be told. */
function rowsTogether(base: Tree[], mine: Tree[], theirs: Tree[]): Tree[] {
  if (mine.length !== base.length || theirs.length !== base.length) return mine;
  const touched = base.flatMap((row, i) => (isAlike(row, mine[i]) ? [] : [i]));
  if (touched.length > 1 && touched.some((i) => !isAlike(base[i], theirs[i]))) return mine;
  return base.map((row, i) => together(row, mine[i]!, theirs[i]!));
}

/** Lists of names that each stand in them once: what came, what went, and the order. */
export function listTogether<K extends string | number>(base: readonly K[], mine: readonly K[], theirs: readonly K[]): K[] {
  const isIn = (list: readonly K[]) => {
    const all = new Set(list);
    return (name: K) => all.has(name);
  };
  const [inBase, inMine, inTheirs] = [isIn(base), isIn(mine), isIn(theirs)];
  const stays = (name: K) => (inMine(name) && inTheirs(name)) || !inBase(name);
  // Whose order counts has the other's newcomers put in behind what they stand behind there.
  const reordered = !isAlike(mine.filter(inBase), base.filter(inMine));
  const [frame, other] = reordered ? [mine, theirs] : [theirs, mine];
  const all = frame.filter(stays);
  other.forEach((name, i) => {
    if (!stays(name) || all.includes(name)) return;
    const before = other.slice(0, i).findLast((one) => all.includes(one));
    all.splice(before === undefined ? 0 : all.indexOf(before) + 1, 0, name);
  });
  return all;
}

/** What was touched, each thing for itself: the base with one field of it as mine has it. Lists are one thing. @param deep levels of fields */
export function apart<T>(base: T, mine: T, deep: number): T[] {
  if (isAlike(base, mine)) return [];
  if (deep === 0 || !isFields(base) || !isFields(mine) || !areOfOneKind(base, mine)) return [mine];
  const [b, m] = [base, mine] as [Tree, Tree];
  return [...keysOf(b, m)].flatMap((key) => apart(b[key], m[key], deep - 1).map((part) => ({ ...b, [key]: part }) as T));
}

type Tree = Record<string, unknown>;
const isTree = (value: unknown): value is Tree => typeof value === 'object' && value !== null;
const isFields = (value: unknown): value is Tree => isTree(value) && !Array.isArray(value);
/** A choice of one kind has other fields than one of another: halves of both are none. */
const areOfOneKind = (...[first, ...others]: Tree[]) =>
  others.every((one) => ['kind', 'is'].every((name) => one[name] === first?.[name]));
const areRows = (value: unknown): value is Tree[] => Array.isArray(value) && value.every(isFields);
const keysOf = (...trees: Tree[]): Set<string> => new Set(trees.flatMap((tree) => Object.keys(tree)));
