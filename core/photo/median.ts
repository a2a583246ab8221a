export const median = (list: readonly number[]): number => {
  const sorted = [...list].sort((p, q) => p - q);
  const at = sorted.length >> 1;
  return sorted.length % 2 === 1 ? sorted[at]! : (sorted[at - 1]! + sorted[at]!) / 2;
};
