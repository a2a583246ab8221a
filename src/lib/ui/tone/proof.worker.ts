import { deltaE00, type Triple } from '$core/colour/lab';
import { labsOf, SoftProof, UNCHANGED, unpackTables, type ProofChange, type ProofTables } from '$core/colour/soft-proof';
import { Kernels } from '$core/kernels/kernels';

/** Draws proofs away from the screen's own thread. */

export type ProofAsk =
  | { kind: 'open'; kernels: ArrayBuffer; tables: ArrayBuffer }
  /** As `inksDrawn` gives it. */
  | { kind: 'image'; which: ProofImage; inks: ArrayBuffer }
  | { kind: 'render'; turn: number; of: Shown }
  | { kind: 'difference'; turn: number; from: Shown; to: Shown };

/** The docket's inks of its colours as its file has them, or as the docket changes them. */
export type ProofImage = 'sent' | 'saved';
export interface Shown {
  which: ProofImage;
  change: ProofChange;
}

export interface ProofAnswer {
  turn: number;
  width: number;
  height: number;
  /** RGBA. */
  pixels: ArrayBuffer;
  /** Of a difference: ΔE00. */
  figures?: { mean: number; p95: number; worst: number };
}

let proof: SoftProof | undefined;
let tables: ProofTables | undefined;
let size = { width: 0, height: 0 };
const images: Partial<Record<ProofImage, Uint8Array>> = {};
let shown: Uint8Array | undefined;

/** Has the proof show an image. */
function show(which: ProofImage): SoftProof {
  const image = images[which];
  if (!proof || !image) throw new RangeError('The picture is not there yet.');
  if (shown !== image) proof.show(image);
  shown = image;
  return proof;
}

/** Of a difference every so many pixels along each side are reckoned. */
const STEP = 4;
/** ΔE00 that is shown at its strongest. */
const STRONG = 10;

onmessage = ({ data }: MessageEvent<ProofAsk>) => {
  switch (data.kind) {
    case 'open':
      tables = unpackTables(new Float32Array(data.tables));
      proof = new SoftProof(new Kernels(new WebAssembly.Module(data.kernels)), tables);
      break;
    case 'image': {
      const view = new DataView(data.inks);
      size = { width: view.getUint32(0, true), height: view.getUint32(4, true) };
      images[data.which] = new Uint8Array(data.inks, 8);
      break;
    }
    case 'render': {
      const pixels = show(data.of.which).render(data.of.change).slice().buffer;
      postMessage({ turn: data.turn, ...size, pixels } satisfies ProofAnswer, { transfer: [pixels] });
      break;
    }
    case 'difference': {
      if (!tables) return;
      postMessage({ turn: data.turn, ...difference(tables, data.from, data.to) } satisfies ProofAnswer);
    }
  }
};

function difference(by: ProofTables, from: Shown, to: Shown): Omit<ProofAnswer, 'turn'> {
  const [width, height] = [Math.ceil(size.width / STEP), Math.ceil(size.height / STEP)];
  const labs = [from, to].map(({ which, change }) =>
    labsOf(by, thinned(show(which).inks(change.adjustment)), { ...change, white: UNCHANGED.white })
  );
  const count = width * height;
  const deltas = Float64Array.from({ length: count }, (_, i) => {
    const at = (one: Float32Array) => [one[i * 3]!, one[i * 3 + 1]!, one[i * 3 + 2]!] as Triple;
    return deltaE00(at(labs[0]!), at(labs[1]!));
  });
  const pixels = new Uint8ClampedArray(count * 4);
  // Nothing where nothing changes, then amber, then a strong red.
  deltas.forEach((delta, i) => {
    const t = Math.min(1, delta / STRONG);
    pixels.set([240 - 40 * t, 190 - 180 * t, 60 - 40 * t, delta < 0.5 ? 0 : 70 + 185 * t], i * 4);
  });
  const sorted = [...deltas].sort((p, q) => p - q);
  return {
    width,
    height,
    pixels: pixels.buffer,
    figures: {
      mean: deltas.reduce((sum, delta) => sum + delta, 0) / count,
      p95: sorted[Math.floor(count * 0.95)] ?? 0,
      worst: sorted.at(-1) ?? 0
    }
  };
}

/** Every so many pixels of the picture. */
function thinned(inks: Uint8Array): Uint8Array {
  const { width, height } = size;
  const [across, down] = [Math.ceil(width / STEP), Math.ceil(height / STEP)];
  const out = new Uint8Array(across * down * 4);
  for (let y = 0; y < down; y++)
    for (let x = 0; x < across; x++) {
      const from = (y * STEP * width + x * STEP) * 4;
      out.set(inks.subarray(from, from + 4), (y * across + x) * 4);
    }
  return out;
}
