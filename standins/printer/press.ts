import { open, type FileHandle } from 'node:fs/promises';
import { xyzToSrgb } from '$core/colour/lab';
import type { Kernels } from '$core/kernels/kernels';
import { unpackBits } from '$core/kernels/twin';
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
  readonly #row: number;
  readonly #sums: number;
  readonly #amounts: number[];
  /** By plate the ink of the machine. */
  readonly #inks: readonly Ink[];
  /** By plate. */
  readonly #blocked: readonly number[];
  /** The layers that the plates belong to, from the media upwards, and how many figures of a cell each has. */
  readonly layers: readonly { ink: LayerInk; figures: number }[];
  readonly #keys = new Uint32Array(1 << 20);
  readonly #colours = new Uint8Array((1 << 20) * 3);
  readonly #full: Uint8Array;
  #strip = -1;
  #planes: Uint8Array[] = [];

  static async open(
    path: string,
    kernels: Kernels,
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
      return new Press(file, plates, kernels, physics(plates.dpi.x), inks, drops, blocked);
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
    kernels.release(1024);
    this.#row = kernels.allocate(Math.ceil(packedRowBytes(plates) / 16) * 16 + 64);
    this.#sums = kernels.allocate((plates.widthPx / 8 + 8) * 4);
    this.#amounts = plates.inks.map((_, ink) => {
      const at = kernels.allocate(512);
      new Uint16Array(kernels.run.memory.buffer, at, 256).set(packedAmounts(drops[inks.indexOf(this.#inks[ink]!)] ?? [1, 1, 1]));
      return at;
    });
    this.#full = this.#colour(0);
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
    const { plates, cell, columns } = this;
    const cells8 = Math.floor(plates.widthPx / 8);
    const perCell = cell / 8;
    const means = plates.inks.map(() => new Float64Array(columns));
    const ink = plates.inks.map(() => 0);
    const bytes = packedRowBytes(plates);
    for (let plate = 0; plate < plates.inks.length; plate++) {
      const sums = this.#kernels.words(this.#sums, cells8);
      sums.fill(0);
      const blocked = this.#blocked[plate] ?? 0;
      for (let r = 0; r < cell; r++) {
        // A row of nozzles that is blocked leaves its rows bare.
        if ((index * cell + r) % NOZZLE_ROWS < blocked) continue;
        const packed = await this.#packedRow(plate, index * cell + r, bytes);
        this.#kernels.bytes(this.#row, bytes).set(packed);
        this.#kernels.run.addCells(this.#row, cells8, this.#amounts[plate]!, this.#sums);
      }
      const view = this.#kernels.words(this.#sums, cells8);
      for (let x = 0; x < columns * perCell; x++) {
        const value = view[x]!;
        const at = Math.floor(x / perCell);
        (means[plate] as Float64Array)[at] = (means[plate] as Float64Array)[at]! + value / (1020 * cell * cell);
        ink[plate] = ink[plate]! + value / 1020;
      }
    }
    const figures = this.#byLayer(means);
    const rgb = new Uint8Array(columns * 3);
    const [c, m, y, k] = this.#lastColour(figures);
    for (let x = 0; x < columns; x++) {
      const key = ((level(c?.[x]) << 24) | (level(m?.[x]) << 16) | (level(y?.[x]) << 8) | level(k?.[x])) >>> 0;
      rgb.set(key === 0 ? this.#full : this.#colour(key), x * 3);
    }
    const cells = new Uint16Array(columns * figures.length);
    figures.forEach((figure, i) => {
      for (let x = 0; x < columns; x++) cells[x * figures.length + i] = Math.round(Math.min(MOST, figure[x]!) * FULL);
    });
    return { rgb, cells, ink };
  }

  /**
   * What the plates come to: of colours as amounts of the dark inks, of which a light one is so much; of any other ink in
   * full drops of one channel, all of its channels together.
   */
  #byLayer(means: readonly Float64Array[]): Float64Array[] {
    const { layers: layerOf } = this.plates;
    return this.layers.flatMap(({ ink }, layer) =>
      (ink === 'colour' ? PROCESS_CHANNELS : [undefined]).map((channel) => {
        const sum = new Float64Array(this.columns);
        this.#inks.forEach((own, plate) => {
          if (layerOf[plate] !== layer || (channel !== undefined && own.channel !== channel)) return;
          const strength = own.role === 'light' ? LIGHT_STRENGTH : 1;
          means[plate]?.forEach((mean, x) => (sum[x] = sum[x]! + mean * strength));
        });
        return sum;
      })
    );
  }

  /** The colour that lies open, by channel; nothing where there is none. */
  #lastColour(figures: readonly Float64Array[]): readonly Float64Array[] {
    const last = this.layers.map(({ ink }) => ink).lastIndexOf('colour');
    const from = this.layers.slice(0, Math.max(0, last)).reduce((sum, layer) => sum + layer.figures, 0);
    return last < 0 ? [] : figures.slice(from, from + PROCESS_CHANNELS.length);
  }

  /** The colour of 8-bit ink means, remembered in a table that newer colours overwrite. */
  #colour(key: number): Uint8Array {
    const slot = (Math.imul(key, 2654435761) >>> 12) & 0xfffff;
    const at = slot * 3;
    if (this.#keys[slot] !== key || key === 0) {
      this.#keys[slot] = key;
      const xyz = this.#physics.xyz([24, 16, 8, 0].map((shift) => ((key >>> shift) & 255) / 255));
      xyzToSrgb(xyz).forEach((v, i) => (this.#colours[at + i] = Math.round(v * 255)));
    }
    return this.#colours.slice(at, at + 3);
  }

  async #packedRow(plate: number, row: number, bytes: number): Promise<Uint8Array> {
    const { plates } = this;
    const strip = Math.floor(row / plates.rowsPerStrip);
    if (strip !== this.#strip) {
      this.#planes = await Promise.all(plates.inks.map((_, i) => this.#unpack(i, strip, bytes)));
      this.#strip = strip;
    }
    const within = (row - strip * plates.rowsPerStrip) * bytes;
    return this.#planes[plate]!.subarray(within, within + bytes);
  }

  async #unpack(plate: number, strip: number, bytes: number): Promise<Uint8Array> {
    const { plates } = this;
    const place = plates.strips[plate * stripsPerPlate(plates) + strip];
    if (!place) throw new RangeError(`The plate file has no strip ${strip}.`);
    const packed = new Uint8Array(place.bytes);
    await this.#file.read(packed, 0, place.bytes, place.offset);
    const rows = Math.min(plates.rowsPerStrip, plates.heightPx - strip * plates.rowsPerStrip);
    return unpackBits(packed, rows * bytes);
  }
}

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

const level = (amount = 0) => Math.round(Math.min(1, amount) * 255);
