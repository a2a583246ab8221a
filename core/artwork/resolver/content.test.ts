import fc from 'fast-check';
import { expect, it } from 'vitest';
import { eachOperator, type Operator } from './content';
import { StateReader } from './state-marks';

const read = (text: string): Operator[] => {
  const found: Operator[] = [];
  eachOperator(new TextEncoder().encode(text), (one) => found.push({ ...one }));
  return found;
};
const names = (text: string) => read(text).map(({ name }) => name);

it('finds operators, and nothing in strings, names, comments and arrays', () => {
  expect(names('q 1 0 0 1 0 0 cm/G1 gs(a \\) Q (q) Q)Tj[(x)-20<51>]TJ % Q q\nQ')).toEqual(['q', 'cm', 'gs', 'Tj', 'TJ', 'Q']);
  expect(read('/Part /MC0 <</A (q)/B[1 2]>> BDC EMC').map(({ name }) => name)).toEqual(['BDC', 'EMC']);
  expect(read('/Caf#e9 gs')[0]).toMatchObject({ name: 'gs', operand: 'Café', from: 0, to: 10 });
  expect(read('0.5 true gs')[0]).toMatchObject({ operand: undefined });
  expect(names('f* B* T* (a) \' 1 2 (b) "')).toEqual(['f*', 'B*', 'T*', "'", '"']);
});

it('passes over pictures in the content, whatever their data look like', () => {
  expect(names('BI /W 2 /H 1 /CS /G /BPC 8 ID q EI\u0001 Q EI Q')).toEqual(['BI', 'ID', 'Q']);
  expect(names('BI /W 1 ID \u0002EI q\u0003\nEI\nq Q')).toEqual(['BI', 'ID', 'q', 'Q']);
  expect(names('BI /W 1 ID never ends')).toEqual(['BI', 'ID']);
});

it('comes to an end with anything, and its places are in order', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
      let before = 0;
      eachOperator(bytes, ({ from, to }) => {
        expect(from).toBeGreaterThanOrEqual(before);
        expect(to).toBeGreaterThan(from);
        before = to;
      });
      expect(before).toBeLessThanOrEqual(bytes.length);
    })
  );
});

it('takes what a form did back at its end, however its own states paired up', () => {
  const mark = (what: string) => `\u0001zing ${what}`;
  const reader = new StateReader();
  expect(reader.read('Background')).toBe(false);
  for (const what of ['plain 0', 'op true', 'q', 'RI Perceptual']) expect(reader.read(mark(what))).toBe(true);
  const outside = reader.now;
  expect(outside).toMatchObject({ fills: true, strokes: false, intent: 'perceptual', sources: 0 });
  const marks = ['q', 'Q', 'op false', 'OP true', 'OPM 1', 'RI Saturation', 'form 1', 'plain 2', 'end'];
  fc.assert(
    fc.property(fc.array(fc.constantFrom(...marks), { maxLength: 30 }), (list) => {
      reader.read(mark('form 3'));
      expect(reader.now).toEqual({ ...outside, sources: 3 });
      let depth = 1;
      for (const what of list) {
        if (what === 'end' && depth === 1) continue;
        depth += what === 'end' ? -1 : /^(form|plain)/.test(what) ? 1 : 0;
        reader.read(mark(what));
      }
      for (; depth > 0; depth--) reader.read(mark('end'));
      expect(reader.now).toEqual(outside);
    })
  );
  reader.read(mark('Q'));
  expect(reader.now.intent).toBeUndefined();
});
