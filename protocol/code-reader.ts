import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { prepareZXingModule, readBarcodes } from 'zxing-wasm/reader';

/** Reads codes in pictures, by another program than that which makes them. */

let ready: Promise<unknown> | undefined;

/** Makes the reader ready at its first use, from the file of the package: nothing is fetched. */
async function open(): Promise<void> {
  const wasm = readFileSync(createRequire(import.meta.url).resolve('zxing-wasm/reader/zxing_reader.wasm'));
  const wasmBinary = wasm.buffer.slice(wasm.byteOffset, wasm.byteOffset + wasm.length) as ArrayBuffer;
  await prepareZXingModule({ overrides: { wasmBinary }, fireImmediately: true });
}

/** What is read in a grey picture, 0 black: each code's kind, text and middle (pixels). */
export async function readCodes(
  grey: Uint8Array,
  width: number,
  height: number
): Promise<{ format: string; text: string; middle: { x: number; y: number } }[]> {
  await (ready ??= open());
  const data = new Uint8ClampedArray(width * height * 4);
  for (let i = 0; i < grey.length; i++) data.fill(grey[i]!, i * 4, i * 4 + 3);
  for (let i = 3; i < data.length; i += 4) data[i] = 255;
  const found = await readBarcodes({ data, width, height, colorSpace: 'srgb' } as ImageData, {
    tryHarder: true,
    // White on black is no code of ours.
    tryInvert: false,
    maxNumberOfSymbols: 64,
    textMode: 'Plain'
  });
  return found
    .filter(({ isValid }) => isValid)
    .map(({ format, text, position: { topLeft, bottomRight } }) => ({
      format,
      text,
      middle: { x: (topLeft.x + bottomRight.x) / 2, y: (topLeft.y + bottomRight.y) / 2 }
    }));
}
