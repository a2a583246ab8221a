/** Solves a small dense system of equations by elimination with pivoting. */
export function solve(matrix: number[][], right: number[]): number[] {
  const n = right.length;
  const m = matrix.map((row, i) => [...row, right[i]!]);
  for (let col = 0; col < n; col++) {
    let pivot = col;
    for (let row = col + 1; row < n; row++) if (Math.abs(m[row]?.[col] ?? 0) > Math.abs(m[pivot]?.[col] ?? 0)) pivot = row;
    [m[col], m[pivot]] = [m[pivot]!, m[col]!];
    const lead = m[col]?.[col] ?? 0;
    if (Math.abs(lead) < 1e-300) continue;
    for (let row = col + 1; row < n; row++) {
      const factor = (m[row]?.[col] ?? 0) / lead;
      if (factor === 0) continue;
      for (let k = col; k <= n; k++) m[row]![k] = (m[row]?.[k] ?? 0) - factor * (m[col]?.[k] ?? 0);
    }
  }
  const x = new Array<number>(n).fill(0);
  for (let row = n - 1; row >= 0; row--) {
    let sum = m[row]?.[n] ?? 0;
    for (let k = row + 1; k < n; k++) sum -= (m[row]?.[k] ?? 0) * (x[k] ?? 0);
    const lead = m[row]?.[row] ?? 0;
    x[row] = Math.abs(lead) < 1e-300 ? 0 : sum / lead;
  }
  return x;
}
