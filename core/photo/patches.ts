/** Connected patches of a mask, as what each of them takes. */

export interface Patch {
  x0: number;
  y0: number;
  /** The last column and row of it. */
  x1: number;
  y1: number;
  area: number;
  /** Sums of its pixels' middles. */
  sumX: number;
  sumY: number;
}

/**
 * Patches of pixels that touch by their sides.
 *
 * @param mask a byte a pixel; what is not 0 belongs to a patch
 * @param label filled with the number of each pixel's patch, from 1; 0 is none
 */
export function patchesOf(mask: Uint8Array, width: number, height: number, label: Int32Array): Patch[] {
  const patches: Patch[] = [];
  const stack: number[] = [];
  label.fill(0);
  for (let start = 0; start < width * height; start++) {
    if (mask[start] === 0 || label[start] !== 0) continue;
    const number = patches.length + 1;
    const patch: Patch = { x0: width, y0: height, x1: 0, y1: 0, area: 0, sumX: 0, sumY: 0 };
    label[start] = number;
    stack.push(start);
    while (stack.length > 0) {
      const at = stack.pop()!;
      const x = at % width;
      const y = (at - x) / width;
      patch.area++;
      patch.sumX += x + 0.5;
      patch.sumY += y + 0.5;
      if (x < patch.x0) patch.x0 = x;
      if (x > patch.x1) patch.x1 = x;
      if (y < patch.y0) patch.y0 = y;
      if (y > patch.y1) patch.y1 = y;
      if (x > 0 && mask[at - 1] !== 0 && label[at - 1] === 0) {
        label[at - 1] = number;
        stack.push(at - 1);
      }
      if (x < width - 1 && mask[at + 1] !== 0 && label[at + 1] === 0) {
        label[at + 1] = number;
        stack.push(at + 1);
      }
      if (y > 0 && mask[at - width] !== 0 && label[at - width] === 0) {
        label[at - width] = number;
        stack.push(at - width);
      }
      if (y < height - 1 && mask[at + width] !== 0 && label[at + width] === 0) {
        label[at + width] = number;
        stack.push(at + width);
      }
    }
    patches.push(patch);
  }
  return patches;
}
