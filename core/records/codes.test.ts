import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readCodes } from '$protocol/code-reader';
import { CORRECTIONS, type CodeKind } from './code-kinds';
import { checkDigit, CodeError, codeModules, encoded, layCode, type LaidCode } from './codes';

/** A code as it is laid, in pixels of a drop. */
function pictureOf(laid: LaidCode, place: { width: number; height: number }, dpi: number) {
  const [width, height] = [place.width, place.height].map((mm) => Math.round((mm * dpi) / 25.4)) as [number, number];
  const grey = new Uint8Array(width * height).fill(255);
  for (const { x, y, width: w, height: h } of laid.dark) {
    const [x0, y0, x1, y1] = [x, y, x + w, y + h].map((mm) => (mm * dpi) / 25.4) as [number, number, number, number];
    // Whole drops: nothing is rounded that was not whole.
    for (const edge of [x0, x1]) expect(Math.abs(edge - Math.round(edge))).toBeLessThan(1e-6);
    for (let row = Math.round(y0); row < Math.round(y1); row++)
      grey.fill(0, row * width + Math.round(x0), row * width + Math.round(x1));
  }
  return { grey, width, height };
}

const KINDS: [CodeKind, string, string][] = [
  ['QR', 'https://example.org/137?x=Ærø', 'https://example.org/137?x=Ærø'],
  ['Data Matrix', 'CREW 0137', 'CREW 0137'],
  ['Aztec', 'Gate 4', 'Gate 4'],
  ['PDF417', 'Skipper: Ada', 'Skipper: Ada'],
  ['Code 128', 'AB-137 x', 'AB-137 x'],
  ['Code 39', 'AB 137', 'AB 137'],
  ['EAN-13', '590123412345', '5901234123457'],
  ['EAN-13', '5901234123457', '5901234123457'],
  ['EAN-8', '9638507', '96385074'],
  ['UPC-A', '03600029145', '036000291452'],
  ['ITF-14', '1540014128876', '15400141288763'],
  ['GS1-128', '(01)09521234543213(10)AB', '(01)09521234543213(10)AB'],
  ['GS1 Data Matrix', '(01)09521234543213(10)AB', '(01)09521234543213(10)AB']
];

describe('a code', () => {
  it.each(KINDS)('%s of %s is read by another reader', async (kind, value, text) => {
    const place = { width: 80, height: 30 };
    const laid = layCode(codeModules(kind, value), place, 300);
    const { grey, width, height } = pictureOf(laid, place, 300);
    const [read, ...more] = await readCodes(grey, width, height);
    expect(more).toEqual([]);
    // Readers may tell figures of UPC with a leading zero, and fields of GS1 without their brackets.
    const bare = (said: string) => said.replace(/[()]|\p{Cc}/gu, '').replace(/^0(?=\d{12}$)/, '');
    expect(bare(read?.text ?? 'nothing')).toBe(bare(text));
  });

  it('of a higher correction has more modules, and is read all the same', async () => {
    const place = { width: 40, height: 40 };
    const sides: number[] = [];
    for (const correction of CORRECTIONS) {
      const code = codeModules('QR', 'https://example.org/137?x=Ærø', correction);
      sides.push(code.columns);
      const { grey, width, height } = pictureOf(layCode(code, place, 360), place, 360);
      expect((await readCodes(grey, width, height)).map(({ text }) => text)).toEqual(['https://example.org/137?x=Ærø']);
    }
    expect([...sides].sort((p, q) => p - q)).toEqual(sides);
    expect(sides.at(-1)!).toBeGreaterThan(sides[0]!);
  });

  it('of bars has thinner ones by whole drops, and is read all the same', async () => {
    const place = { width: 80, height: 20 };
    const code = codeModules('Code 128', 'AB-137 x');
    const [plain, thin, least] = [0, 0.08, 0.5].map((thinner) => layCode(code, place, 360, thinner));
    const drop = 25.4 / 360;
    plain!.dark.forEach((bar, i) => {
      expect(bar.width - thin!.dark[i]!.width).toBeCloseTo(drop, 9);
      expect(bar.x).toBe(thin!.dark[i]!.x);
      // Never by more than half of a module.
      expect(least!.dark[i]!.width).toBeGreaterThanOrEqual(plain!.module / 2 - drop / 2 - 1e-9);
    });
    const { grey, width, height } = pictureOf(thin!, place, 360);
    expect((await readCodes(grey, width, height)).map(({ text }) => text)).toEqual(['AB-137 x']);
    // Modules that touch each other stay whole.
    const squares = codeModules('QR', 'x');
    expect(layCode(squares, place, 360, 0.1)).toEqual(layCode(squares, place, 360));
  });

  it('of any text is read back, on any resolution, module by module in whole drops', async () => {
    const texts = fc
      .string({ unit: fc.constantFrom(...'ABCxyz0189 -/'), minLength: 1, maxLength: 24 })
      .filter((text) => text.trim() === text);
    await fc.assert(
      fc.asyncProperty(
        texts,
        fc.constantFrom('QR', 'Data Matrix') as fc.Arbitrary<CodeKind>,
        fc.constantFrom(180, 360, 540, 720),
        async (text, kind, dpi) => {
          const place = { width: 25, height: 25 };
          const laid = layCode(codeModules(kind, text), place, dpi);
          const { grey, width, height } = pictureOf(laid, place, dpi);
          expect((await readCodes(grey, width, height)).map((read) => read.text)).toEqual([text]);
          const drops = (laid.module * dpi) / 25.4;
          expect(drops).toBeCloseTo(Math.round(drops), 9);
        }
      ),
      { numRuns: 40 }
    );
  });

  it('keeps its white around it', () => {
    const code = codeModules('QR', 'quiet');
    const { dark, module } = layCode(code, { width: 30, height: 20 }, 720);
    const left = Math.min(...dark.map(({ x }) => x));
    const top = Math.min(...dark.map(({ y }) => y));
    expect(Math.min(left, top)).toBeGreaterThanOrEqual(3.9 * module);
    expect(code.columns + 8).toBeLessThanOrEqual(20 / module);
  });

  it.each([
    ['EAN-13', '5901234123450', 'The check digit of “5901234123450” is 7, not 0.'],
    ['EAN-13', '59012', 'EAN-13 has 12 figures and a check digit; “59012” is none.'],
    ['UPC-A', 'twelve', 'UPC-A has 11 figures and a check digit; “twelve” is none.'],
    ['QR', '  ', 'There is nothing to encode.']
  ] as const)('%s of %s is refused', (kind, value, message) => {
    expect(() => codeModules(kind, value)).toThrow(CodeError);
    expect(() => codeModules(kind, value)).toThrow(message);
  });

  it('that its encoder refuses is refused in a sentence without its names', () => {
    const said = (kind: CodeKind, value: string) => {
      try {
        codeModules(kind, value);
        return 'taken';
      } catch (error) {
        expect(error).toBeInstanceOf(CodeError);
        return (error as Error).message;
      }
    };
    for (const [kind, value] of [
      ['Code 39', 'lower'],
      ['GS1-128', 'no brackets'],
      ['QR', 'x'.repeat(5000)]
    ] as const) {
      expect(said(kind, value)).toMatch(/^“.*” has no .*: .+\.$/s);
      expect(said(kind, value)).not.toMatch(/bwip/i);
    }
    expect(() => layCode(codeModules('QR', 'small'), { width: 1, height: 1 }, 360)).toThrow(/less than a drop/);
  });

  it('has the check digit that makes the weighed sum a multiple of ten', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^\d{12}$/), (figures) => {
        const whole = encoded('EAN-13', figures);
        expect(whole).toHaveLength(13);
        const sum = [...whole].reduce((all, figure, i) => all + Number(figure) * (i % 2 === 0 ? 1 : 3), 0);
        expect(sum % 10).toBe(0);
        expect(checkDigit(figures)).toBe(Number(whole[12]));
      })
    );
  });
});
