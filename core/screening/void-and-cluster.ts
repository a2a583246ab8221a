/**
 * Blue-noise ranks by void-and-cluster (Ulichney 1993).
 *
 * @param size side of the square, a power of two; the pattern repeats seamlessly
 * @param random numbers in 0…1, seeded by the caller so that the mask is the same every time
 * @returns ranks 0…size²−1 in row order
 */
export function voidAndCluster(size: number, random: () => number): Uint16Array | Uint32Array {
  const count = size * size;
  const sigma = 1.9;
  const radius = 9;
  const side = 2 * radius + 1;
  const kernel = new Float64Array(side * side);
  for (let y = -radius; y <= radius; y++) {
    for (let x = -radius; x <= radius; x++) {
      kernel[(y + radius) * side + x + radius] = Math.exp(-(x * x + y * y) / (2 * sigma * sigma));
    }
  }
  const energy = new Float64Array(count);
  const on = new Uint8Array(count);
  const wrap = size - 1;

  function put(index: number, value: 0 | 1): void {
    on[index] = value;
    const sign = value ? 1 : -1;
    const cx = index & wrap;
    const cy = Math.floor(index / size);
    for (let y = 0; y < side; y++) {
      const row = ((cy + y - radius) & wrap) * size;
      for (let x = 0; x < side; x++) {
        const at = row + ((cx + x - radius) & wrap);
        energy[at] = energy[at]! + sign * kernel[y * side + x]!;
      }
    }
  }
  function extreme(value: 0 | 1): number {
    // Tightest cluster among the ones that are on, largest void among those that are off.
    let best = -1;
    let bestEnergy = value ? -Infinity : Infinity;
    for (let i = 0; i < count; i++) {
      if (on[i] !== value) continue;
      const e = energy[i]!;
      if (value ? e > bestEnergy : e < bestEnergy) {
        bestEnergy = e;
        best = i;
      }
    }
    return best;
  }

  const initial = Math.floor(count / 10);
  for (let placed = 0; placed < initial;) {
    const i = Math.floor(random() * count);
    if (on[i]) continue;
    put(i, 1);
    placed++;
  }
  for (;;) {
    const cluster = extreme(1);
    put(cluster, 0);
    const hole = extreme(0);
    put(hole, 1);
    if (hole === cluster) break;
  }
  const ranks = count > 65536 ? new Uint32Array(count) : new Uint16Array(count);
  const start = Uint8Array.from(on);
  for (let rank = initial - 1; rank >= 0; rank--) {
    const cluster = extreme(1);
    put(cluster, 0);
    ranks[cluster] = rank;
  }
  for (let i = 0; i < count; i++) if (start[i]) put(i, 1);
  for (let rank = initial; rank < count; rank++) {
    const hole = extreme(0);
    put(hole, 1);
    ranks[hole] = rank;
  }
  return ranks;
}
