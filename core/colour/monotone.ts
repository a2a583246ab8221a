/**
 * A smooth curve through points that rises or falls only where they do: piecewise cubic Hermite with limited slopes
 * (Fritsch & Carlson 1980). Beyond the ends it keeps their values.
 *
 * @param xs rising, two at least
 */
export function monotone(xs: readonly number[], ys: readonly number[]): (x: number) => number {
  const n = xs.length;
  if (n < 2 || ys.length !== n) throw new RangeError('A curve needs two points at least.');
  const secants = Array.from({ length: n - 1 }, (_, i) => (ys[i + 1]! - ys[i]!) / (xs[i + 1]! - xs[i]!));
  if (secants.some((s) => !Number.isFinite(s))) throw new RangeError('The points of a curve must be rising.');
  const slopes = Array.from({ length: n }, (_, i) => {
    if (i === 0) return secants[0]!;
    if (i === n - 1) return secants[n - 2]!;
    const before = secants[i - 1]!;
    const after = secants[i]!;
    if (before * after <= 0) return 0;
    const h0 = xs[i]! - xs[i - 1]!;
    const h1 = xs[i + 1]! - xs[i]!;
    // Weighted harmonic mean (Brodlie): never steeper than three times the flatter side.
    return (3 * (h0 + h1)) / ((2 * h1 + h0) / before + (h1 + 2 * h0) / after);
  });
  return (x) => {
    if (x <= xs[0]!) return ys[0]!;
    if (x >= xs[n - 1]!) return ys[n - 1]!;
    let low = 0;
    let high = n - 1;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (xs[middle]! <= x) low = middle;
      else high = middle;
    }
    const h = xs[high]! - xs[low]!;
    const t = (x - xs[low]!) / h;
    const u = 1 - t;
    return (
      ys[low]! * (1 + 2 * t) * u * u +
      slopes[low]! * h * t * u * u +
      ys[high]! * t * t * (3 - 2 * t) -
      slopes[high]! * h * t * t * u
    );
  };
}
