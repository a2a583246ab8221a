import type * as mupdf from '../../interpreter/interpreter';

/** PDF functions (ISO 32000-2, 7.10) evaluated: sampled, exponential, stitched, and calculators. */

export interface PdfFunction {
  /** Two figures an input. */
  domain: number[];
  at: (input: readonly number[]) => number[];
}

/** Functions within functions deeper than this are broken files. */
const DEEPEST = 20;
/** No table is read that is larger. */
const MOST_SAMPLES = 4e6;

/** @returns nothing where it is none, or broken */
export function readFunction(object: mupdf.PDFObject, depth = 0): PdfFunction | undefined {
  if (depth > DEEPEST) return undefined;
  if (object.isArray()) return together(Array.from({ length: object.length }, (_, i) => readFunction(object.get(i), depth + 1)));
  if (!object.isDictionary() && !object.isStream()) return undefined;
  const domain = figures(object.get('Domain'));
  if (domain.length < 2) return undefined;
  const range = figures(object.get('Range'));
  const made = ofType(object, domain, range, depth);
  return made && { domain, at: (input) => clamped(made(clamped(input.slice(0, domain.length / 2), domain)), range) };
}

function ofType(
  object: mupdf.PDFObject,
  domain: number[],
  range: number[],
  depth: number
): ((input: readonly number[]) => number[]) | undefined {
  switch (object.get('FunctionType').asNumber()) {
    case 0:
      return sampled(object, domain, range);
    case 2:
      return exponential(object);
    case 3:
      return stitched(object, domain, depth);
    case 4:
      return calculator(object, range.length / 2);
    default:
      return undefined;
  }
}

const figures = (list: mupdf.PDFObject): number[] =>
  list.isArray() ? Array.from({ length: list.length }, (_, i) => list.get(i).asNumber()) : [];

const clamp = (v: number, low = -Infinity, high = Infinity) => Math.min(high, Math.max(low, v));
const clamped = (values: readonly number[], limits: readonly number[]): number[] =>
  limits.length === 0 ? [...values] : values.map((v, i) => clamp(v, limits[i * 2], limits[i * 2 + 1]));

const between = (v: number, a: number, b: number, c: number, d: number): number =>
  b === a ? c : c + ((v - a) * (d - c)) / (b - a);

/** Functions of one figure each, side by side. */
function together(parts: (PdfFunction | undefined)[]): PdfFunction | undefined {
  const all = parts.filter((part) => part !== undefined);
  const [first] = all;
  if (!first || all.length < parts.length) return undefined;
  return { domain: first.domain, at: (input) => all.map((part) => part.at(input)[0] ?? 0) };
}

function exponential(object: mupdf.PDFObject) {
  const from = figures(object.get('C0'));
  const to = figures(object.get('C1'));
  const n = object.get('N').asNumber();
  const [c0, c1] = [from.length > 0 ? from : [0], to.length > 0 ? to : [1]];
  return ([x = 0]: readonly number[]) => c0.map((v, i) => v + (n === 1 ? x : x ** n) * ((c1[i] ?? 0) - v));
}

function stitched(object: mupdf.PDFObject, domain: number[], depth: number) {
  const list = object.get('Functions');
  const parts = list.isArray() ? Array.from({ length: list.length }, (_, i) => readFunction(list.get(i), depth + 1)) : [];
  if (parts.length === 0 || parts.includes(undefined)) return undefined;
  const bounds = figures(object.get('Bounds'));
  const encode = figures(object.get('Encode'));
  const edges = [domain[0] ?? 0, ...bounds, domain[1] ?? 1];
  return ([x = 0]: readonly number[]) => {
    const before = bounds.findIndex((bound) => x < bound);
    const k = Math.min(parts.length - 1, before < 0 ? bounds.length : before);
    const inner = between(x, edges[k] ?? 0, edges[k + 1] ?? 1, encode[k * 2] ?? 0, encode[k * 2 + 1] ?? 1);
    return parts[k]?.at([inner]) ?? [];
  };
}

function sampled(object: mupdf.PDFObject, domain: number[], range: number[]) {
  const size = figures(object.get('Size'));
  const bits = object.get('BitsPerSample').asNumber();
  const outputs = range.length / 2;
  const count = size.reduce((product, n) => product * n, 1) * outputs;
  if (!object.isStream() || size.length !== domain.length / 2 || outputs < 1 || !(count > 0 && count <= MOST_SAMPLES))
    return undefined;
  if (![1, 2, 4, 8, 12, 16, 24, 32].includes(bits)) return undefined;
  const samples = unpacked(object.readStream().asUint8Array(), bits, count);
  const encode = figures(object.get('Encode'));
  const decode = figures(object.get('Decode'));
  const limits = decode.length === range.length ? decode : range;
  return (input: readonly number[]) => {
    const places = size.map((n, i) => {
      const [low, high] = encode.length === size.length * 2 ? [encode[i * 2] ?? 0, encode[i * 2 + 1] ?? 0] : [0, n - 1];
      return clamp(between(input[i] ?? 0, domain[i * 2] ?? 0, domain[i * 2 + 1] ?? 1, low, high), 0, n - 1);
    });
    /** Linear along one direction after the other; the first changes fastest. */
    const mix = (dimension: number, offset: number, output: number): number => {
      if (dimension < 0) return samples[offset * outputs + output] ?? 0;
      const stride = size.slice(0, dimension).reduce((product, n) => product * n, 1);
      const place = places[dimension] ?? 0;
      const cell = Math.min(Math.max(0, (size[dimension] ?? 1) - 2), Math.floor(place));
      const low = mix(dimension - 1, offset + cell * stride, output);
      return place === cell ? low : low + (place - cell) * (mix(dimension - 1, offset + (cell + 1) * stride, output) - low);
    };
    return Array.from({ length: outputs }, (_, k) => {
      const share = mix(size.length - 1, 0, k) / (2 ** bits - 1);
      return (limits[k * 2] ?? 0) + share * ((limits[k * 2 + 1] ?? 1) - (limits[k * 2] ?? 0));
    });
  };
}

/** Samples of some bits each, the highest bit first. */
function unpacked(bytes: Uint8Array, bits: number, count: number): Float64Array {
  const samples = new Float64Array(count);
  for (let i = 0; i < count; i++) {
    let value = 0;
    for (let bit = i * bits; bit < (i + 1) * bits;) {
      const take = Math.min(8 - (bit % 8), (i + 1) * bits - bit);
      const part = ((bytes[bit >> 3] ?? 0) >> (8 - (bit % 8) - take)) & ((1 << take) - 1);
      value = value * 2 ** take + part;
      bit += take;
    }
    samples[i] = value;
  }
  return samples;
}

type Step = number | string | Step[];
/** Longer programs are no colours. */
const MOST_WORDS = 20_000;

function calculator(object: mupdf.PDFObject, outputs: number) {
  if (!object.isStream()) return undefined;
  const words =
    object
      .readStream()
      .asString()
      .match(/[{}]|[^\s{}]+/g) ?? [];
  if (words.length > MOST_WORDS || words[0] !== '{') return undefined;
  let i = 1;
  const block = (): Step[] => {
    const steps: Step[] = [];
    while (i < words.length && words[i] !== '}') {
      const word = words[i++]!;
      if (word === '{') {
        steps.push(block());
        i++;
      } else steps.push(/^[-+.\d]/.test(word) ? Number(word) : word);
    }
    return steps;
  };
  const program = block();
  return (input: readonly number[]): number[] => {
    const stack: number[] = [...input];
    run(program, stack);
    // A program that leaves more than it should answers with what is on top.
    return stack.slice(-outputs).map((v) => (Number.isFinite(v) ? v : 0));
  };
}

const DEGREES = Math.PI / 180;
const ONE: Readonly<Record<string, (a: number) => number>> = {
  abs: Math.abs,
  neg: (a) => -a,
  ceiling: Math.ceil,
  floor: Math.floor,
  round: (a) => Math.floor(a + 0.5),
  truncate: Math.trunc,
  cvi: Math.trunc,
  cvr: (a) => a,
  sqrt: Math.sqrt,
  sin: (a) => Math.sin(a * DEGREES),
  cos: (a) => Math.cos(a * DEGREES),
  ln: Math.log,
  log: Math.log10,
  // Of truth values, which are 0 and 1 here.
  not: (a) => (a === 0 ? 1 : a === 1 ? 0 : ~a)
};
const TWO: Readonly<Record<string, (a: number, b: number) => number>> = {
  add: (a, b) => a + b,
  sub: (a, b) => a - b,
  mul: (a, b) => a * b,
  div: (a, b) => a / b,
  idiv: (a, b) => Math.trunc(a / b),
  mod: (a, b) => Math.trunc(a) % Math.trunc(b),
  exp: (a, b) => a ** b,
  atan: (a, b) => (Math.atan2(a, b) / DEGREES + 360) % 360,
  eq: (a, b) => Number(a === b),
  ne: (a, b) => Number(a !== b),
  gt: (a, b) => Number(a > b),
  ge: (a, b) => Number(a >= b),
  lt: (a, b) => Number(a < b),
  le: (a, b) => Number(a <= b),
  and: (a, b) => a & b,
  or: (a, b) => a | b,
  xor: (a, b) => a ^ b,
  bitshift: (a, b) => (b >= 0 ? a << b : a >> -b)
};
/** A stack of more is a program that went wrong. */
const DEEPEST_STACK = 1000;

function run(program: readonly Step[], stack: number[]): void {
  const pop = () => stack.pop() ?? 0;
  program.forEach((step, i) => {
    if (typeof step === 'number') stack.push(step);
    else if (typeof step !== 'string') return;
    else if (step in ONE) stack.push(ONE[step]!(pop()));
    else if (step in TWO) {
      const b = pop();
      stack.push(TWO[step]!(pop(), b));
    } else stackWork(step, stack, pop, program[i - 1], program[i - 2]);
    if (stack.length > DEEPEST_STACK) stack.length = DEEPEST_STACK;
  });
}

function stackWork(word: string, stack: number[], pop: () => number, last: Step | undefined, before: Step | undefined): void {
  switch (word) {
    case 'true':
    case 'false':
      stack.push(Number(word === 'true'));
      break;
    case 'pop':
      pop();
      break;
    case 'dup':
      stack.push(stack.at(-1) ?? 0);
      break;
    case 'exch':
      stack.push(...[pop(), pop()]);
      break;
    case 'index':
      stack.push(stack.at(-1 - pop()) ?? 0);
      break;
    case 'copy': {
      const n = pop();
      if (n > 0) stack.push(...stack.slice(-n));
      break;
    }
    case 'roll': {
      const by = pop();
      const n = pop();
      if (n < 1 || n > stack.length) break;
      const top = stack.splice(-n);
      const first = (((-by % n) + n) % n) | 0;
      stack.push(...top.slice(first), ...top.slice(0, first));
      break;
    }
    case 'if':
      if (pop() && Array.isArray(last)) run(last, stack);
      break;
    case 'ifelse': {
      const chosen = pop() ? before : last;
      if (Array.isArray(chosen)) run(chosen, stack);
      break;
    }
  }
}
