import { seededRandom } from '$core/geometry/random';

/** A made-up wall graphic: a slowly changing ground with blocks of lettering and faces on it, and calm between them. */
export function wallPicture(seed: number): { pixels: Uint8Array; width: number; height: number } {
  const random = seededRandom(seed);
  const [width, height] = [1800, 520];
  const pixels = new Uint8Array(width * height * 3);
  const put = (x: number, y: number, colour: readonly number[]) => {
    if (x < 0 || y < 0 || x >= width || y >= height) return;
    pixels.set(colour, (Math.floor(y) * width + Math.floor(x)) * 3);
  };
  const tone = [random() * 120, 80 + random() * 100, 120 + random() * 110];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const v = 1 - (0.35 * y) / height + 0.06 * Math.sin(x / 260 + seed);
      put(
        x,
        y,
        tone.map((t) => Math.min(255, t * v))
      );
    }
  // Lettering: strokes close together in a few lines.
  const blocks = 5 + Math.floor(random() * 2);
  for (let i = 0; i < blocks; i++) {
    const [wide, high] = [110 + random() * 130, 50 + random() * 130];
    const left = ((i + 0.2 + random() * 0.5) * width) / blocks;
    const top = 30 + random() * (height - high - 60);
    for (let y = top; y < top + high; y++)
      for (let x = left; x < left + wide; x++) {
        const isStroke = Math.floor((x - left) / (3 + (i % 3))) % 3 === 0 && Math.floor((y - top) / 24) % 2 === 0;
        if (isStroke) put(x, y, [245, 240, 230]);
      }
  }
  // Faces: a round with features and grain.
  for (let i = 0; i < 3; i++) {
    const [cx, cy, r] = [random() * width, 90 + random() * (height - 180), 45 + random() * 45];
    for (let y = cy - r; y < cy + r; y++)
      for (let x = cx - r; x < cx + r; x++) {
        if (Math.hypot(x - cx, y - cy) > r) continue;
        const grain = (random() - 0.5) * 46;
        const eye = Math.min(Math.hypot(x - cx + r * 0.35, y - cy + r * 0.2), Math.hypot(x - cx - r * 0.35, y - cy + r * 0.2));
        const v = eye < r * 0.12 ? 30 : 190 + grain;
        put(x, y, [v, v * 0.8, v * 0.66]);
      }
  }
  return { pixels, width, height };
}
