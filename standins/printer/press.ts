import { open, type FileHandle } from 'node:fs/promises';
import { xyzToSrgb, type Triple } from '$core/colour/lab';
import { Kernels } from '$core/kernels/kernels';
import { LIGHT_STRENGTH } from '$core/inks/divide';
import { packedAmounts } from '$core/inks/drops';
import { PROCESS_CHANNELS, type Ink, type InkSet } from '$core/inks/ink-set';
import type { LayerInk } from '$core/inks/stack';
import { packedRowBytes, readPlateFile, stripsPerPlate, type PlateFile } from '$core/rip/plate-file';
import type { DropVolumes } from '$core/inks/drops';
import type { Physics } from './physics';
import { NOZZLE_ROWS } from './wear';

/** What our drops look like on the media: mean ink of small cells, dot gain and overprint by the model. */
export const OUTPUT_DPI = 90;

export class Press {
  readonly plates: PlateFile;
  /** Device pixels a cell of the output, and the output's size. */
  readonly cell: number;
  readonly columns: number;
  readonly rows: number;
  readonly #file: FileHandle;
  readonly #kernels: Kernels;
  readonly #physics: Physics;
  /** Where a packed strip lies in the memory of the kernels, and what it has room for. */
  readonly #packed: number;
  readonly #mostPacked: number;
  /** There too, by plate: its strip, sums of eight pixels each, and its table of amounts. */
  readonly #strips: number[];
  readonly #sums: number[];
  readonly #amounts: number[];
  /** By plate the ink of the machine. */
  readonly #inks: readonly Ink[];
  /** By plate. */
  readonly #blocked: readonly number[];
  /** The layers that the plates belong to, from the media upwards, and how many figures of a cell each has. */
  readonly layers: readonly { ink: LayerInk; figures: number }[];
  readonly #keys = new Uint32Array(1 << 20);
  readonly #colours = new Uint8Array((1 << 20) * 3);
  /** The strip that lies unpacked. */
  #strip = -1;

  static async open(
    path: string,
    kernels: WebAssembly.Module,
    physics: (dpi: number) => Physics,
    inks: InkSet,
    drops: readonly DropVolumes[],
    blocked: readonly number[] = []
  ): Promise<Press> {
    const file = await open(path, 'r');
    try {
      const { size } = await file.stat();
      const plates = await readPlateFile(async (offset, length) => {
        const bytes = new Uint8Array(length);
        const { bytesRead } = await file.read(bytes, 0, length, offset);
        return bytes.subarray(0, bytesRead);
      }, size);
      return new Press(file, plates, new Kernels(kernels), physics(plates.dpi.x), inks, drops, blocked);
    } catch (error) {
      await file.close();
      throw error;
    }
  }

  private constructor(
    file: FileHandle,
    plates: PlateFile,
    kernels: Kernels,
    physics: Physics,
    inks: InkSet,
    drops: readonly DropVolumes[],
    blocked: readonly number[]
  ) {
    this.#file = file;
    this.plates = plates;
    this.#inks = plates.inks.map((name) => {
      const ink = inks.find((one) => one.name === name);
      if (!ink) throw new Error(`This machine prints ${inks.map((one) => one.name).join(', ')}, not ${plates.inks.join(', ')}.`);
      return ink;
    });
    this.#blocked = this.#inks.map(({ role, channel }) =>
      role === 'colour' || role === 'light' ? (blocked[PROCESS_CHANNELS.findIndex((name) => name === channel)] ?? 0) : 0
    );
    this.layers = layersOf(plates.layers, this.#inks);
    this.#kernels = kernels;
    this.#physics = physics;
    this.cell = Math.max(8, Math.round(plates.dpi.x / OUTPUT_DPI / 8) * 8);
    this.columns = Math.floor(plates.widthPx / this.cell);
    this.rows = Math.floor(plates.heightPx / this.cell);
    const stripBytes = packedRowBytes(plates) * Math.min(plates.rowsPerStrip, plates.heightPx);
    // Packed it is a little larger at the most; another writer may have done it clumsily.
    this.#mostPacked = 2 * stripBytes + 64;
    this.#packed = kernels.allocate(this.#mostPacked);
    this.#strips = plates.inks.map(() => kernels.allocate(stripBytes));
    this.#sums = plates.inks.map(() => kernels.allocate(this.#eighths * 4));
    this.#amounts = plates.inks.map((_, ink) => {
      const at = kernels.allocate(512);
      new Uint16Array(kernels.run.memory.buffer, at, 256).set(packedAmounts(drops[inks.indexOf(this.#inks[ink]!)] ?? [1, 1, 1]));
      return at;
    });
    // A table of noughts knows no colour but bare media.
    this.#colours.set(this.#colour(0), 0);
  }

  get #eighths(): number {
    return Math.floor(this.plates.widthPx / 8);
  }

  close(): Promise<void> {
    return this.#file.close();
  }

  /** Figures of a cell: of each layer of colour an amount by channel, of each other layer one. */
  get figures(): number {
    return this.layers.reduce((sum, { figures }) => sum + figures, 0);
  }

  /**
   * One row of cells as RGB on white media, and as what lies on each: 16 bits a figure, `FULL` a full drop of one channel on
   * every pixel; and each plate of it in full-drop pixels.
   */
  async outputRow(index: number): Promise<{ rgb: Uint8Array; cells: Uint16Array; ink: number[] }> {
    const { columns } = this;
    await this.#addUp(index);
    const sums = this.#sums.map((at) => this.#cellSums(at));
    const figures = this.#byLayer(sums);
    const rgb = new Uint8Array(columns * 3);
    const open = this.#lastColour(figures);
    for (let x = 0; x < columns; x++) {
      let key = 0;
      for (let i = 0; i < open.length; i++) key = (key << 8) | level(open[i]![x]!);
      this.#paint(key >>> 0, rgb, x * 3);
    }
    const cells = new Uint16Array(columns * figures.length);
    figures.forEach((figure, i) => {
      // Whole numbers by leaving off what is behind the point: a cell has eight of them.
      for (let x = 0; x < columns; x++) cells[x * figures.length + i] = Math.min(MOST, figure[x]!) * FULL + 0.5;
    });
    return { rgb, cells, ink: sums.map((sum) => added(sum) / FULL_DROP) };
  }

  /** The amounts of the rows of pixels that a row of cells has, by plate and eight pixels. */
  async #addUp(index: number): Promise<void> {
    const { plates, cell } = this;
    const bytes = packedRowBytes(plates);
    for (const at of this.#sums) this.#kernels.words(at, this.#eighths).fill(0);
    for (let row = index * cell; row < (index + 1) * cell; row++) {
      const strip = Math.floor(row / plates.rowsPerStrip);
      if (strip !== this.#strip) await this.#unpack(strip);
      const from = (row - strip * plates.rowsPerStrip) * bytes;
      for (let plate = 0; plate < plates.inks.length; plate++) {
        // A row of nozzles that is blocked leaves its rows bare.
        if (row % NOZZLE_ROWS < this.#blocked[plate]!) continue;
        this.#kernels.run.addCells(this.#strips[plate]! + from, this.#eighths, this.#amounts[plate]!, this.#sums[plate]!);
      }
    }
  }

  /** Sums of eight pixels as those of cells. */
  #cellSums(at: number): Float64Array {
    const sums = this.#kernels.words(at, this.#eighths);
    const perCell = this.cell / 8;
    const cells = new Float64Array(this.columns);
    for (let x = 0; x < cells.length; x++) for (let i = 0; i < perCell; i++) cells[x] = cells[x]! + sums[x * perCell + i]!;
    return cells;
  }

  /**
   * What the plates come to: of colours as amounts of the dark inks, of which a light one is so much; of any other ink in
   * full drops of one channel, all of its channels together.
   *
   * @param sums by plate and cell
   */
  #byLayer(sums: readonly Float64Array[]): Float64Array[] {
    const { layers: layerOf } = this.plates;
    return this.layers.flatMap(({ ink }, layer) =>
      (ink === 'colour' ? PROCESS_CHANNELS : [undefined]).map((channel) => {
        const figure = new Float64Array(this.columns);
        this.#inks.forEach((own, plate) => {
          if (layerOf[plate] !== layer || (channel !== undefined && own.channel !== channel)) return;
          const strength = (own.role === 'light' ? LIGHT_STRENGTH : 1) / (FULL_DROP * this.cell ** 2);
          const sum = sums[plate]!;
          for (let x = 0; x < figure.length; x++) figure[x] = figure[x]! + sum[x]! * strength;
        });
        return figure;
      })
    );
  }

  /** The colour that lies open, by channel; nothing where there is none. */
  #lastColour(figures: readonly Float64Array[]): readonly Float64Array[] {
    const last = this.layers.map(({ ink }) => ink).lastIndexOf('colour');
    const from = this.layers.slice(0, Math.max(0, last)).reduce((sum, layer) => sum + layer.figures, 0);
    return last < 0 ? [] : figures.slice(from, from + PROCESS_CHANNELS.length);
  }

  /** Writes the colour of 8-bit ink means, which a table remembers; newer colours overwrite older ones there. */
  #paint(key: number, rgb: Uint8Array, to: number): void {
    const slot = (Math.imul(key, 2654435761) >>> 12) & 0xfffff;
    const at = slot * 3;
    if (this.#keys[slot] !== key) {
      this.#keys[slot] = key;
      this.#colours.set(this.#colour(key), at);
    }
    for (let i = 0; i < 3; i++) rgb[to + i] = this.#colours[at + i]!;
  }

  #colour(key: number): Triple {
    const xyz = this.#physics.xyz([24, 16, 8, 0].map((shift) => ((key >>> shift) & 255) / 255));
    return xyzToSrgb(xyz).map((v) => Math.round(v * 255)) as Triple;
  }

  /** Unpacks a strip of all plates. */
  async #unpack(strip: number): Promise<void> {
    const { plates } = this;
    const rows = Math.min(plates.rowsPerStrip, plates.heightPx - strip * plates.rowsPerStrip);
    const length = rows * packedRowBytes(plates);
    this.#strip = -1;
    for (let plate = 0; plate < plates.inks.length; plate++) {
      const place = plates.strips[plate * stripsPerPlate(plates) + strip];
      if (!place) throw new RangeError(`The plate file has no strip ${strip}.`);
      if (place.bytes > this.#mostPacked) throw new RangeError('A packed strip runs over its rows.');
      const packed = this.#kernels.bytes(this.#packed, place.bytes);
      const { bytesRead } = await this.#file.read(packed, 0, place.bytes, place.offset);
      if (this.#kernels.run.unpackBits(this.#packed, bytesRead, this.#strips[plate]!, length) === 0)
        throw new RangeError('A packed strip ends before its rows are full, or runs over them.');
    }
    this.#strip = strip;
  }
}

/** What a pixel with a full drop is in the tables of amounts. */
const FULL_DROP = 1020;

/** What a figure of 16 bits is for a full drop of one channel on every pixel; two channels may lie on one another. */
export const FULL = 16_384;
const MOST = 65_535 / FULL;

/** The layers of a file’s plates. @throws Error where a layer has inks of two kinds, or one twice */
function layersOf(of: readonly number[], inks: readonly Ink[]): { ink: LayerInk; figures: number }[] {
  return [...new Set(of)].map((layer) => {
    const own = inks.filter((_, plate) => of[plate] === layer);
    const kinds = new Set(own.map(({ role }) => (role === 'light' ? 'colour' : role)));
    const [ink] = kinds;
    if (!ink || kinds.size > 1 || new Set(own).size !== own.length)
      throw new Error(`A layer of ${own.map(({ name }) => name).join(', ')} cannot be printed.`);
    return { ink, figures: ink === 'colour' ? PROCESS_CHANNELS.length : 1 };
  });
}

function added(list: Float64Array): number {
  let sum = 0;
  for (let x = 0; x < list.length; x++) sum += list[x]!;
  return sum;
}

const level = (amount: number) => (amount < 1 ? amount * 255 + 0.5 : 255) | 0;
