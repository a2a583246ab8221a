import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readCodes } from '$protocol/code-reader';
import type { Box } from '../geometry/box';
import { textFlats } from './lettering';
import { codePlaces, codeRoom, LETTERS_MM, LETTERS_WIDE_MM, printCode, readPrintCode, shownCode } from './print-code';
import { printedCode } from './printed-code';
import { DEFAULT_MARKS, registrationMarks } from './registration';

const bytes = fc.uint8Array({ minLength: 6, maxLength: 32 });

describe('the code of a print', () => {
  it('comes back from what was read, typed with dashes, in small letters, with letters that look alike', () => {
    fc.assert(
      fc.property(bytes, (of) => {
        const code = printCode(of);
        expect(code).toHaveLength(10);
        expect(readPrintCode(code)).toBe(code);
        expect(readPrintCode(` ${shownCode(code).toLowerCase()} `)).toBe(code);
        expect(readPrintCode(code.replaceAll('0', 'o').replaceAll('1', 'l'))).toBe(code);
      })
    );
  });

  it('with one letter wrong, or any two changed, is none', () => {
    fc.assert(
      fc.property(bytes, fc.nat(9), fc.nat(9), fc.constantFrom(...'0123456789ABCDEFGHJKMNPQRSTVWXYZ'), (of, i, j, letter) => {
        const code = [...printCode(of)];
        const wrong = code.with(i, letter).join('');
        if (wrong !== code.join('')) expect(readPrintCode(wrong)).toBeUndefined();
        const changed = code.with(i, code[j]!).with(j, code[i]!).join('');
        if (changed !== code.join('')) expect(readPrintCode(changed)).toBeUndefined();
      }),
      { numRuns: 500 }
    );
  });

  it('differs where the hash does, in 45 bits', () => {
    const random = fc.sample(fc.uint8Array({ minLength: 6, maxLength: 6 }), 2000);
    const hashes = new Set(random.map((of) => (BigInt(`0x${Buffer.from(of).toString('hex')}`) & ((1n << 45n) - 1n)).toString()));
    expect(new Set(random.map((of) => printCode(of))).size).toBe(hashes.size);
    for (const text of ['', 'CUT-12AB34', '7K3QW', '7K3QW9XZ0A7', 'ÄÖÜ3QW9XZ0']) expect(readPrintCode(text)).toBeUndefined();
  });
});

describe('where codes stand', () => {
  const piece = fc.record({
    x: fc.double({ min: 20, max: 400, noNaN: true }),
    y: fc.double({ min: 20, max: 3000, noNaN: true }),
    width: fc.double({ min: 60, max: 700, noNaN: true }),
    height: fc.double({ min: 20, max: 6000, noNaN: true })
  });
  const overlaps = (p: Box, q: Box) => p.x < q.x + q.width && q.x < p.x + p.width && p.y < q.y + q.height && q.y < p.y + p.height;
  const grown = ({ x, y, width, height }: Box, by: number): Box => ({
    x: x - by,
    y: y - by,
    width: width + 2 * by,
    height: height + 2 * by
  });

  it.each(['datamatrix', 'qrcode'] as const)(
    'is beside all pieces and off all marks with its white, at the head, the foot and every two metres: %s',
    (code) => {
      const rule = { ...DEFAULT_MARKS, code };
      fc.assert(
        fc.property(fc.array(piece, { minLength: 1, maxLength: 5 }), (pieces) => {
          const marks = registrationMarks(pieces, rule);
          const { codes, letters } = codePlaces(marks, pieces, rule);
          const taken = [
            ...pieces.map((box) => grown(box, 0.9)),
            ...marks.map(({ x, y, diameter }) => grown({ x, y, width: 0, height: 0 }, diameter / 2 + DEFAULT_MARKS.quiet))
          ];
          const bottom = Math.max(...pieces.map(({ y, height }) => y + height));
          const top = Math.min(...pieces.map(({ y }) => y));
          expect(codes.length).toBeGreaterThanOrEqual(2);
          const ys = codes.map(({ y }) => y).sort((a, b) => a - b);
          ys.forEach((y, i) => expect((ys[i + 1] ?? bottom) - y).toBeLessThan(3600));
          for (const code of codes) {
            expect(taken.some((box) => overlaps(code, box))).toBe(false);
            expect(code.y).toBeGreaterThanOrEqual(top - codeRoom(rule));
            expect(code.y + code.height).toBeLessThanOrEqual(bottom + codeRoom(rule));
          }
          for (const at of letters)
            expect(taken.some((box) => overlaps({ ...at, width: LETTERS_WIDE_MM, height: 6 }, box))).toBe(false);
        })
      );
    }
  );

  it('keeps the widest number off the code', () => {
    expect(textFlats('WWWWW', LETTERS_MM).width).toBeLessThanOrEqual(LETTERS_WIDE_MM);
    expect(textFlats('MWMWM', LETTERS_MM).width).toBeLessThanOrEqual(LETTERS_WIDE_MM);
  });

  it('is nowhere where a print is too narrow for it', () => {
    const pieces = [{ x: 20, y: 20, width: 12, height: 60 }];
    expect(codePlaces(registrationMarks(pieces, DEFAULT_MARKS), pieces, DEFAULT_MARKS).codes).toEqual([]);
    expect(codePlaces([], pieces, DEFAULT_MARKS).codes).toEqual([]);
  });

  it.each(['datamatrix', 'qrcode'] as const)('another program reads them, at 6 drops a module: %s', async (kind) => {
    const rule = { ...DEFAULT_MARKS, code: kind };
    const pieces = [{ x: 20, y: 20, width: 100, height: 50 }];
    const code = printCode(new Uint8Array([1, 2, 3, 4, 5, 6]));
    const places = codePlaces(registrationMarks(pieces, rule), pieces, rule);
    const { flats, letters } = printedCode(code, places, undefined, kind);
    expect(letters.map(({ text }) => text)).toEqual([code.slice(0, 5), code.slice(5), code.slice(0, 5), code.slice(5)]);
    const [box] = places.codes;
    const side = 200;
    const grey = new Uint8Array(side * side).fill(255);
    for (const flat of flats)
      for (let y = 0; y < flat.height * 10; y++)
        for (let x = 0; x < flat.width * 10; x++) {
          const [at, row] = [Math.round((flat.x - box!.x + 5) * 10 + x), Math.round((flat.y - box!.y + 5) * 10 + y)];
          if (at >= 0 && at < side && row >= 0 && row < side) grey[row * side + at] = 0;
        }
    expect((await readCodes(grey, side, side)).map(({ text }) => text)).toEqual([code]);
  });
});
