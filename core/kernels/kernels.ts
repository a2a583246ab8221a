/**
 * The compiled hot loops with their memory. One instance serves one thread; views are made anew at each use,
 * since growing the memory detaches them.
 */
interface Exports {
  memory: WebAssembly.Memory;
  isBlank(source: number, length: number): number;
  splitRow(source: number, width: number, target: number, stride: number): void;
  limitRow(row: number, width: number, totals: number, limit: number, safe: number, coarse: number): void;
  mapRow(source: number, width: number, table: number, target: number): void;
  screenPlane(source: number, width: number, threshold: number, tableBytes: number, period: number, target: number): number;
  diffuseRow(
    sources: number,
    width: number,
    curve: number,
    steps: number,
    noise: number,
    period: number,
    errors: number,
    levels: number,
    leftwards: number
  ): void;
  packPlane(levels: number, width: number, target: number): void;
  packBits(source: number, length: number, target: number): number;
  unpackBits(source: number, packed: number, target: number, length: number): number;
  countDrops(source: number, length: number, counts: number): void;
  addCells(source: number, cells: number, amounts: number, sums: number): void;
  erode(
    source: number,
    stride: number,
    width: number,
    rows: number,
    reach: number,
    around: number,
    floors: number,
    count: number,
    seen: number,
    target: number
  ): void;
  lookup3(source: number, count: number, table: number, grid: number, target: number): void;
  lookup4(source: number, count: number, places: number, table: number, grid: number, target: number): void;
}

export class Kernels {
  readonly run: Exports;
  #end: number;

  constructor(module: WebAssembly.Module) {
    const instance = new WebAssembly.Instance(module, {
      env: {
        abort: () => {
          throw new Error('A compiled loop stopped.');
        }
      }
    });
    this.run = instance.exports as unknown as Exports;
    this.#end = 1024;
  }

  /** Sets room aside, zeroed, on a 64-byte boundary. @returns the byte offset */
  allocate(bytes: number): number {
    const at = (this.#end + 63) & ~63;
    this.#end = at + bytes;
    const missing = this.#end - this.run.memory.buffer.byteLength;
    if (missing > 0) this.run.memory.grow(Math.ceil(missing / 65536));
    new Uint8Array(this.run.memory.buffer, at, bytes).fill(0);
    return at;
  }

  /** Gives back everything that was set aside after `mark`. */
  release(mark: number): void {
    this.#end = mark;
  }

  get mark(): number {
    return this.#end;
  }

  bytes(at: number, length: number): Uint8Array {
    return new Uint8Array(this.run.memory.buffer, at, length);
  }

  words(at: number, length: number): Uint32Array {
    return new Uint32Array(this.run.memory.buffer, at, length);
  }
}
