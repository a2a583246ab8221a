import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { rawPdf, rawStream } from '../../../tests/made/pdf';
import * as mupdf from '../../interpreter/interpreter';
import { readFunction } from './functions';
import { openBytes } from '../../../tests/made/opened';

/** A document whose fifth object is a function, and the ones behind it what it needs. */
function opened(...objects: string[]) {
  const bytes = rawPdf([
    '<</Type/Catalog/Pages 2 0 R>>',
    '<</Type/Pages/Kids[3 0 R]/Count 1>>',
    '<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R/F 5 0 R>>',
    rawStream('', ''),
    ...objects
  ]);
  const document = openBytes(bytes);
  return { document, made: document.findPage(0).get('F') };
}

/** The same figures through the interpreter: the function as the tint of a colour of so many inks, its inputs 0…1. */
function oracle({ document, made }: ReturnType<typeof opened>, points: readonly (readonly number[])[]): number[][] {
  const n = points[0]!.length;
  const picture = document.addStream(
    Uint8Array.from(points.flat(), (v) => Math.round(v * 255)),
    {
      Type: 'XObject',
      Subtype: 'Image',
      Width: points.length,
      Height: 1,
      BitsPerComponent: 8
    }
  );
  const names = Array.from({ length: n }, (_, i) => `Ink${i}`);
  picture.put('ColorSpace', document.addObject(['DeviceN', names, 'DeviceCMYK', made]));
  const pixels = document.loadImage(picture).toPixmap().convertToColorSpace(mupdf.ColorSpace.DeviceCMYK, false).getPixels();
  return points.map((_, i) => [...pixels.subarray(i * 4, i * 4 + 4)].map((v) => v / 255));
}

const steps = (n: number): number[][] =>
  n === 1
    ? Array.from({ length: 52 }, (_, i) => [(i * 5) / 255])
    : Array.from({ length: 60 }, (_, i) => Array.from({ length: n }, (_, k) => ((i * (37 + k * 11)) % 256) / 255));

function alike(n: number, ...objects: string[]) {
  const file = opened(...objects);
  const made = readFunction(file.made)!;
  const points = steps(n);
  oracle(file, points).forEach((theirs, i) => {
    const ours = made.at(points[i]!);
    theirs.forEach((v, k) => expect(Math.abs(Math.min(1, Math.max(0, ours[k]!)) - v)).toBeLessThanOrEqual(2.1 / 255));
  });
}

const RANGE = '/Range[0 1 0 1 0 1 0 1]';
const hex = (bytes: readonly number[]) => `${bytes.map((v) => v.toString(16).padStart(2, '0')).join('')}>`;

describe('functions are what the interpreter makes of them', () => {
  it('exponential ones', () => {
    for (const n of [1, 0.5, 2, 3.3]) alike(1, `<</FunctionType 2/Domain[0 1]/C0[0.1 0 1 0.4]/C1[0.9 1 0 0.5]/N ${n}>>`);
  });

  it('stitched ones, turned round in a part', () => {
    const part = (from: string, to: string) => `<</FunctionType 2/Domain[0 1]/C0[${from}]/C1[${to}]/N 1>>`;
    alike(
      1,
      `<</FunctionType 3/Domain[0 1]/Functions[${part('0 0 0 0', '1 0 0.5 0')}${part('0 1 0 0', '0 0 1 1')}${part('1 1 0 0', '0 0 0 0')}]/Bounds[0.3 0.7]/Encode[0 1 1 0 0 1]>>`
    );
  });

  it.each([1, 2, 3])('tables of %i inputs', (n) => {
    const size = [7, 4, 3].slice(0, n);
    const count = size.reduce((a, b) => a * b, 1) * 4;
    const samples = Array.from({ length: count }, (_, i) => (i * 83 + (i >> 2) * 29) % 256);
    alike(
      n,
      rawStream(
        `/FunctionType 0/Domain[${'0 1 '.repeat(n)}]${RANGE}/Size[${size.join(' ')}]/BitsPerSample 8/Filter/ASCIIHexDecode`,
        hex(samples)
      )
    );
  });

  it('tables of other depths', () => {
    const made = (bits: number, bytes: number[]) =>
      alike(
        1,
        rawStream(
          `/FunctionType 0/Domain[0 1]${RANGE}/Size[3]/BitsPerSample ${bits}/Decode[0 1 1 0 0 0.5 0 1]/Filter/ASCIIHexDecode`,
          hex(bytes)
        )
      );
    made(4, [0x0f, 0x3a, 0xf0, 0x12, 0x77, 0xe1]);
    made(
      16,
      Array.from({ length: 24 }, (_, i) => (i * 91) % 256)
    );
    made(
      12,
      Array.from({ length: 18 }, (_, i) => (i * 57 + 3) % 256)
    );
  });

  it.each([
    [2, '{2 copy mul 3 1 roll add 2 div dup 1 exch sub dup dup mul}'],
    [1, '{dup 0.5 gt {dup 1 exch sub} {dup 2 mul} ifelse exch dup sqrt exch 360 mul sin abs 0}'],
    [3, '{3 -1 roll dup 4 1 roll 1 index 0.3 lt 2 index 0.8 ge or {pop 0.25} if}'],
    [4, '{1 index 3 exch 5 2 roll pop 2 index exp 4 1 roll}'],
    [1, '{dup 255 mul cvi 7 and 7 div exch dup 10 mul 3 mod 3 div exch dup 1 add ln exch 90 mul 45 atan 360 div}']
  ])('calculators of %i inputs: %s', (n, program) => {
    alike(n, rawStream(`/FunctionType 4/Domain[${'0 1 '.repeat(n)}]${RANGE}`, program));
  });

  it('several of one figure each', () => {
    const one = (n: number) => `<</FunctionType 2/Domain[0 1]/C0[0]/C1[1]/N ${n}>>`;
    const made = readFunction(opened(`[${one(1)}${one(2)}${one(3)}]`).made)!;
    expect(made.at([0.5])).toEqual([0.5, 0.25, 0.125]);
    expect(made.domain).toEqual([0, 1]);
  });
});

it('broken ones are none, and never end in an error', () => {
  for (const broken of [
    '<</FunctionType 2>>',
    '<</FunctionType 3/Domain[0 1]/Functions[5 0 R]/Bounds[]/Encode[0 1]>>',
    '<</FunctionType 9/Domain[0 1]>>',
    rawStream(`/FunctionType 0/Domain[0 1]${RANGE}/Size[99999999]/BitsPerSample 8`, 'ab'),
    rawStream(`/FunctionType 0/Domain[0 1]${RANGE}/Size[2]/BitsPerSample 7`, 'ab'),
    '[5 0 R]',
    '(text)'
  ])
    expect(readFunction(opened(broken).made)).toBeUndefined();
  const words = [
    'pop',
    'dup',
    'exch',
    'roll',
    'index',
    'copy',
    'add',
    'div',
    '{',
    '}',
    'if',
    'ifelse',
    '3',
    '-1',
    '0.5',
    'atan',
    'oops'
  ];
  fc.assert(
    fc.property(fc.array(fc.constantFrom(...words), { maxLength: 40 }), (program) => {
      const made = readFunction(opened(rawStream(`/FunctionType 4/Domain[0 1]${RANGE}`, `{${program.join(' ')}}`)).made);
      for (const v of made?.at([0.5]) ?? []) expect(Number.isFinite(v)).toBe(true);
    }),
    { numRuns: 60 }
  );
});
