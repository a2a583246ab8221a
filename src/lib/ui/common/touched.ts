/**
 * The places in a document that differ, as paths: typing on in one figure touches the same place again.
 *
 * @param deep levels that are told apart
 */
export function touched(before: unknown, after: unknown, deep = Infinity, path = ''): string[] {
  if (before === after) return [];
  const isTree = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null;
  if (deep === 0 || !isTree(before) || !isTree(after) || Array.isArray(before) !== Array.isArray(after)) return [path];
  const keys = new Set([...Object.keys(before), ...Object.keys(after)]);
  return [...keys].flatMap((key) => touched(before[key], after[key], deep - 1, `${path}/${key}`));
}
