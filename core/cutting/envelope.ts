/**
 * Symmetric positive definite matrices whose rows begin late: what lies before a row's first figure is nothing, in the matrix as in
 * its Cholesky factor (George & Liu 1981), and is not computed.
 */

export interface Envelope {
  /** By row, the column that it begins in. */
  firsts: readonly number[];
  /** The lower triangle, by row. Made a factor in place. */
  lower: readonly Float64Array[];
}

/** An unknown and what it is multiplied by. */
export type Term = readonly [unknown: number, by: number];

/** Adds the square of a sum of terms, by a weight. */
export function add({ lower }: Envelope, terms: readonly Term[], weight: number): void {
  for (const [i, a] of terms) for (const [j, b] of terms) if (j <= i) lower[i]![j] = lower[i]![j]! + a * b * weight;
}

/** The factor L of a matrix L · Lᵀ. The matrix is lost. */
export function factorOf(matrix: Envelope): Envelope {
  const { firsts, lower } = matrix;
  lower.forEach((row, i) => {
    for (let j = firsts[i]!; j <= i; j++) {
      const other = lower[j]!;
      let sum = row[j]!;
      for (let k = Math.max(firsts[i]!, firsts[j]!); k < j; k++) sum -= row[k]! * other[k]!;
      row[j] = i === j ? Math.sqrt(sum) : sum / other[j]!;
    }
  });
  return matrix;
}

/** L⁻¹ of a sum of terms. The product of two such is what the matrix's inverse makes of both sums. */
export function halfSolved({ firsts, lower }: Envelope, terms: readonly Term[]): Float64Array {
  const half = new Float64Array(lower.length);
  let start = half.length;
  for (const [i, a] of terms) {
    half[i] = half[i]! + a;
    start = Math.min(start, i);
  }
  for (let i = start; i < half.length; i++) {
    const row = lower[i]!;
    let sum = half[i]!;
    for (let k = Math.max(start, firsts[i]!); k < i; k++) sum -= row[k]! * half[k]!;
    half[i] = sum / row[i]!;
  }
  return half;
}

/** The unknowns: L⁻ᵀ of what is half solved. */
export function solved({ firsts, lower }: Envelope, half: Float64Array): Float64Array {
  const found = half.slice();
  for (let i = found.length - 1; i >= 0; i--) {
    const row = lower[i]!;
    const value = found[i]! / row[i]!;
    found[i] = value;
    for (let k = firsts[i]!; k < i; k++) found[k] = found[k]! - row[k]! * value;
  }
  return found;
}

export function product(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += a[i]! * b[i]!;
  return sum;
}
