import { readFileSync } from 'node:fs';
import { Kernels } from '$core/kernels/kernels';

let module: WebAssembly.Module | undefined;

/** Fresh compiled loops with memory of their own. */
export function openKernels(path: string): Kernels {
  module ??= new WebAssembly.Module(readFileSync(path));
  return new Kernels(module);
}
