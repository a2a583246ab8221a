import { readFileSync } from 'node:fs';

/** The compiled loops and the mask, as the RIP has them. */
export const kernelsModule = (): WebAssembly.Module => new WebAssembly.Module(readFileSync('dist-node/kernels.wasm'));

export function blueNoiseMask(): { size: number; ranks: Uint16Array } {
  const bytes = readFileSync('core/screening/blue-noise-256.bin');
  return { size: 256, ranks: new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2) };
}
