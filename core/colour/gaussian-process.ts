import type { Triple } from './lab';

/**
 * A smooth surface through measured colours: a Gaussian process over the inks with a Matérn 5/2 covariance and a
 * quadratic trend (universal kriging; Rasmussen & Williams 2006, chapters 2.7, 4.2 and 5.4). The same covariance
 * serves L*, a* and b*.
 */
export interface Surface {
  /** Inks 0…1 → L*a*b*. */
  predict: (c: number, m: number, y: number, k: number, out: Triple) => void;
  /** For each reading: measured minus what the others say of it (leave-out, in closed form). n × 3. */
  leaveOut: Float64Array;
  /** What was found for the covariance: reach in ink, and the share of noise. */
  reach: number;
  noise: number;
}

const TREND = 15;
const REACHES = [0.5, 0.8, 1.2, 1.8, 2.6];
const NOISES = [1e-5, 1e-4, 1e-3, 1e-2];
/** Readings on which reach and noise are chosen: enough to tell, few enough to be quick. */
const CHOOSING = 260;

export class SurfaceError extends Error {
  override name = 'SurfaceError';
}

/**
 * @param inks n × 4, 0…1
 * @param labs n × 3
 * @param onProgress told the share done; throwing there stops the work
 * @throws SurfaceError with fewer than 40 readings
 */
export function fitSurface(
  inks: Float64Array,
  labs: Float64Array,
  onProgress: (share: number) => void = () => undefined
): Surface {
  const n = inks.length / 4;
  if (n < 40) throw new SurfaceError(`A colour model needs 40 readings at least; there are ${n}.`);
  const { reach, noise } = choose(inks, labs);
  onProgress(0.2);
  const factor = covariance(inks, reach, noise);
  cholesky(factor, n, (share) => onProgress(0.2 + 0.4 * share));
  const trend = trendOf(inks);
  const { beta, weights, inverseDiagonal } = solveKriging(factor, n, trend, labs, (share) => onProgress(0.6 + 0.4 * share));

  const leaveOut = new Float64Array(n * 3);
  for (let i = 0; i < n; i++) for (let v = 0; v < 3; v++) leaveOut[i * 3 + v] = weights[i * 3 + v]! / inverseDiagonal[i]!;
  const row = new Float64Array(TREND);
  const near = kernelTable(reach);
  return {
    reach,
    noise,
    leaveOut,
    predict(c, m, y, k, out) {
      trendRow(c, m, y, k, row, 0);
      let l = 0;
      let a = 0;
      let b = 0;
      for (let t = 0; t < TREND; t++) {
        l += row[t]! * beta[t * 3]!;
        a += row[t]! * beta[t * 3 + 1]!;
        b += row[t]! * beta[t * 3 + 2]!;
      }
      for (let i = 0, p = 0, q = 0; i < n; i++, p += 4, q += 3) {
        const dc = c - inks[p]!;
        const dm = m - inks[p + 1]!;
        const dy = y - inks[p + 2]!;
        const dk = k - inks[p + 3]!;
        const x = (dc * dc + dm * dm + dy * dy + dk * dk) * (TABLE / 4);
        const cell = x | 0;
        const low = near[cell]!;
        const value = low + (x - cell) * (near[cell + 1]! - low);
        l += value * weights[q]!;
        a += value * weights[q + 1]!;
        b += value * weights[q + 2]!;
      }
      out[0] = l;
      out[1] = a;
      out[2] = b;
    }
  };
}

/** Steps of the covariance's table over squared distances 0…4: linear between them is right to 3e-8. */
const TABLE = 32768;

/** Root and exponential cost most of a prediction; the table makes it six times faster. */
function kernelTable(reach: number): Float64Array {
  const scale = Math.sqrt(5) / reach;
  return Float64Array.from({ length: TABLE + 2 }, (_, i) => {
    const d = scale * Math.sqrt((4 * i) / TABLE);
    return (1 + d + (d * d) / 3) * Math.exp(-d);
  });
}

function trendRow(c: number, m: number, y: number, k: number, into: Float64Array, at: number): void {
  into[at] = 1;
  into[at + 1] = c;
  into[at + 2] = m;
  into[at + 3] = y;
  into[at + 4] = k;
  into[at + 5] = c * c;
  into[at + 6] = m * m;
  into[at + 7] = y * y;
  into[at + 8] = k * k;
  into[at + 9] = c * m;
  into[at + 10] = c * y;
  into[at + 11] = c * k;
  into[at + 12] = m * y;
  into[at + 13] = m * k;
  into[at + 14] = y * k;
}

function trendOf(inks: Float64Array): Float64Array {
  const n = inks.length / 4;
  const rows = new Float64Array(n * TREND);
  for (let i = 0; i < n; i++) trendRow(inks[i * 4]!, inks[i * 4 + 1]!, inks[i * 4 + 2]!, inks[i * 4 + 3]!, rows, i * TREND);
  return rows;
}

/** n × n, the lower half filled. */
function covariance(inks: Float64Array, reach: number, noise: number): Float64Array {
  const n = inks.length / 4;
  const matrix = new Float64Array(n * n);
  const scale = Math.sqrt(5) / reach;
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < i; j++) {
      const dc = inks[i * 4]! - inks[j * 4]!;
      const dm = inks[i * 4 + 1]! - inks[j * 4 + 1]!;
      const dy = inks[i * 4 + 2]! - inks[j * 4 + 2]!;
      const dk = inks[i * 4 + 3]! - inks[j * 4 + 3]!;
      const d = scale * Math.sqrt(dc * dc + dm * dm + dy * dy + dk * dk);
      matrix[i * n + j] = (1 + d + (d * d) / 3) * Math.exp(-d);
    }
    matrix[i * n + i] = 1 + noise;
  }
  return matrix;
}

/** Four sums side by side: one alone waits for itself. */
function dot(a: Float64Array, from: number, b: Float64Array, fromB: number, count: number): number {
  let s0 = 0;
  let s1 = 0;
  let s2 = 0;
  let s3 = 0;
  let p = 0;
  for (; p + 3 < count; p += 4) {
    s0 += a[from + p]! * b[fromB + p]!;
    s1 += a[from + p + 1]! * b[fromB + p + 1]!;
    s2 += a[from + p + 2]! * b[fromB + p + 2]!;
    s3 += a[from + p + 3]! * b[fromB + p + 3]!;
  }
  for (; p < count; p++) s0 += a[from + p]! * b[fromB + p]!;
  return s0 + s1 + s2 + s3;
}

/** The lower factor, in place. */
function cholesky(a: Float64Array, n: number, onProgress: (share: number) => void = () => undefined): void {
  for (let i = 0; i < n; i++) {
    const ri = i * n;
    for (let j = 0; j <= i; j++) {
      const rj = j * n;
      const rest = a[ri + j]! - dot(a, ri, a, rj, j);
      if (i === j) {
        if (rest <= 0) throw new SurfaceError('The readings contradict each other: the same inks gave very different colours.');
        a[ri + i] = Math.sqrt(rest);
      } else a[ri + j] = rest / a[rj + j]!;
    }
    if (i % 64 === 0) onProgress((i / n) ** 3);
  }
}

/** Solves L x = b for `columns` right sides at once, in place. */
function forwardSolve(l: Float64Array, n: number, b: Float64Array, columns: number): void {
  for (let i = 0; i < n; i++) {
    const row = i * columns;
    for (let j = 0; j < i; j++) {
      const factor = l[i * n + j]!;
      for (let v = 0; v < columns; v++) b[row + v] = b[row + v]! - factor * b[j * columns + v]!;
    }
    for (let v = 0; v < columns; v++) b[row + v] = b[row + v]! / l[i * n + i]!;
  }
}

/** Solves Lᵀ x = b, in place. */
function backwardSolve(l: Float64Array, n: number, b: Float64Array, columns: number): void {
  for (let i = n - 1; i >= 0; i--) {
    const row = i * columns;
    for (let v = 0; v < columns; v++) b[row + v] = b[row + v]! / l[i * n + i]!;
    for (let j = 0; j < i; j++) {
      const factor = l[i * n + j]!;
      for (let v = 0; v < columns; v++) b[j * columns + v] = b[j * columns + v]! - factor * b[row + v]!;
    }
  }
}

/** Generalised least squares for the trend, and what it leaves, whitened. */
function fitTrend(l: Float64Array, n: number, trend: Float64Array, labs: Float64Array) {
  const h = Float64Array.from(trend);
  forwardSolve(l, n, h, TREND);
  const rest = Float64Array.from(labs);
  forwardSolve(l, n, rest, 3);
  const normal = new Float64Array(TREND * TREND);
  const beta = new Float64Array(TREND * 3);
  for (let i = 0; i < n; i++) {
    for (let s = 0; s < TREND; s++) {
      const value = h[i * TREND + s]!;
      for (let t = 0; t <= s; t++) normal[s * TREND + t] = normal[s * TREND + t]! + value * h[i * TREND + t]!;
      for (let v = 0; v < 3; v++) beta[s * 3 + v] = beta[s * 3 + v]! + value * rest[i * 3 + v]!;
    }
  }
  for (let s = 0; s < TREND; s++) normal[s * TREND + s] = normal[s * TREND + s]! * (1 + 1e-9) + 1e-9;
  cholesky(normal, TREND);
  forwardSolve(normal, TREND, beta, 3);
  backwardSolve(normal, TREND, beta, 3);
  let quadratic = 0;
  for (let i = 0; i < n; i++) {
    for (let v = 0; v < 3; v++) {
      let left = rest[i * 3 + v]!;
      for (let s = 0; s < TREND; s++) left -= h[i * TREND + s]! * beta[s * 3 + v]!;
      rest[i * 3 + v] = left;
      quadratic += left * left;
    }
  }
  return { h, normal, beta, rest, quadratic };
}

/** The trend, the weights of what is left, and what leave-out needs. */
function solveKriging(l: Float64Array, n: number, trend: Float64Array, labs: Float64Array, onProgress: (share: number) => void) {
  const { h, normal, beta, rest: weights } = fitTrend(l, n, trend, labs);
  backwardSolve(l, n, weights, 3);
  // The diagonal of P = K⁻¹ − K⁻¹H(HᵀK⁻¹H)⁻¹HᵀK⁻¹: column norms of L⁻¹ less the trend's part.
  const inverse = inverseDiagonalOf(l, n, onProgress);
  backwardSolve(l, n, h, TREND);
  const own = new Float64Array(TREND);
  const inverseDiagonal = Float64Array.from(inverse, (value, i) => {
    own.set(h.subarray(i * TREND, (i + 1) * TREND));
    forwardSolve(normal, TREND, own, 1);
    return value - own.reduce((sum, x) => sum + x * x, 0);
  });
  return { beta, weights, inverseDiagonal };
}

/** The diagonal of (LLᵀ)⁻¹: sums of squares of the columns of L⁻¹. */
function inverseDiagonalOf(l: Float64Array, n: number, onProgress: (share: number) => void): Float64Array {
  const diagonal = new Float64Array(n);
  const columns = new Float64Array(n);
  for (let c = 0; c < n; c++) {
    columns.fill(0, c);
    columns[c] = 1 / l[c * n + c]!;
    let sum = columns[c]! * columns[c]!;
    for (let i = c + 1; i < n; i++) {
      const row = i * n;
      const value = -dot(l, row + c, columns, c, i - c) / l[row + i]!;
      columns[i] = value;
      sum += value * value;
    }
    diagonal[c] = sum;
    if (c % 64 === 0) onProgress(1 - (1 - c / n) ** 3);
  }
  return diagonal;
}

/** Reach and noise by the greatest likelihood on an even share of the readings. */
function choose(inks: Float64Array, labs: Float64Array): { reach: number; noise: number } {
  const n = inks.length / 4;
  const few = Math.min(n, CHOOSING);
  const someInks = new Float64Array(few * 4);
  const someLabs = new Float64Array(few * 3);
  for (let i = 0; i < few; i++) {
    const from = Math.floor((i * n) / few);
    someInks.set(inks.subarray(from * 4, from * 4 + 4), i * 4);
    someLabs.set(labs.subarray(from * 3, from * 3 + 3), i * 3);
  }
  const trend = trendOf(someInks);
  let best = { reach: 1.2, noise: 1e-3, likelihood: -Infinity };
  for (const reach of REACHES) {
    for (const noise of NOISES) {
      const factor = covariance(someInks, reach, noise);
      try {
        cholesky(factor, few);
      } catch {
        continue;
      }
      const { quadratic } = fitTrend(factor, few, trend, someLabs);
      let logDeterminant = 0;
      for (let i = 0; i < few; i++) logDeterminant += 2 * Math.log(factor[i * few + i]!);
      // One variance for all three, profiled out.
      const likelihood = -(3 * few * Math.log(quadratic / (3 * few)) + 3 * logDeterminant) / 2;
      if (likelihood > best.likelihood) best = { reach, noise, likelihood };
    }
  }
  return best;
}
