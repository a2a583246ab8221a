import { writeFileSync } from 'node:fs';
import { seededRandom } from '../../core/geometry/random';
import { Kernels } from '../../core/kernels/kernels';
import { packLevels } from '../../core/kernels/twin';
import { packedRowBytes, plateDirectory, PLATE_HEADER_BYTES, type PlateLayout, type Strip } from '../../core/rip/plate-file';
import { kernelsModule } from './kernels';

/**
 * Writes a plate file of drops by chance, some of their rows bare.
 *
 * @returns levels (0…3) by plate, row and pixel
 */
export function madePlates(path: string, seed: number, layout: PlateLayout): Uint8Array[][] {
  const random = seededRandom(seed);
  const { widthPx, heightPx, inks, rowsPerStrip } = layout;
  const levels = inks.map(() =>
    Array.from({ length: heightPx }, () => {
      const isBare = random() < 0.2;
      return Uint8Array.from({ length: widthPx }, () => (isBare ? 0 : Math.floor(random() * 4)));
    })
  );
  const kernels = new Kernels(kernelsModule());
  const bytes = packedRowBytes(layout);
  const [source, target] = [kernels.allocate(bytes), kernels.allocate(bytes * 2 + 64)];
  const chunks: Uint8Array[] = [];
  const strips: Strip[] = [];
  let end = PLATE_HEADER_BYTES;
  for (const rows of levels)
    for (let from = 0; from < heightPx; from += rowsPerStrip) {
      const packed = rows.slice(from, from + rowsPerStrip).map((row) => {
        kernels.bytes(source, bytes).set(packLevels(row));
        return kernels.bytes(target, kernels.run.packBits(source, bytes, target)).slice();
      });
      const length = packed.reduce((sum, one) => sum + one.length, 0);
      strips.push({ offset: end, bytes: length });
      chunks.push(...packed);
      end += length;
    }
  const { header, directory } = plateDirectory(layout, strips, end);
  writeFileSync(path, Buffer.concat([header, ...chunks, directory]));
  return levels;
}
