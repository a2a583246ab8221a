import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decode, encode, NotIpp, TAG, Unfinished, type IppAttribute, type IppMessage } from './ipp-wire';

const int32 = fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 });
const word = fc.string({ unit: 'grapheme', maxLength: 40 });
const name = fc.stringMatching(/^[a-z][a-z0-9-]{0,30}$/);
const several = <T>(value: fc.Arbitrary<T>) => fc.array(value, { minLength: 1, maxLength: 4 });

const { attribute } = fc.letrec<{ attribute: IppAttribute }>((tie) => ({
  attribute: fc.oneof(
    { maxDepth: 3 },
    fc.record({ tag: fc.constantFrom(TAG.integer, TAG.enum), name, values: several(int32) }),
    fc.record({ tag: fc.constantFrom(TAG.text, TAG.name, TAG.keyword, TAG.uri), name, values: several(word) }),
    fc.record({ tag: fc.constant(TAG.boolean), name, values: several(fc.boolean()) }),
    fc.record({ tag: fc.constant(TAG.range), name, values: several(fc.record({ from: int32, to: int32 })) }),
    fc.record({ tag: fc.constant(TAG.resolution), name, values: several(fc.record({ across: int32, down: int32 })) }),
    fc.record({ tag: fc.constant(TAG.octets), name, values: several(fc.uint8Array({ maxLength: 30 })) }),
    fc.record({ tag: fc.constantFrom(TAG.unknown, TAG.noValue), name, values: fc.constant<null[]>([null]) }),
    fc.record({
      tag: fc.constant(TAG.dateTime),
      name,
      // To a tenth of a second.
      values: several(fc.integer({ min: 0, max: 4e10 }).map((tenths) => new Date(tenths * 100)))
    }),
    fc.record({ tag: fc.constant(TAG.collection), name, values: several(fc.array(tie('attribute'), { maxLength: 3 })) })
  )
}));
const message: fc.Arbitrary<IppMessage> = fc.record({
  version: fc.record({ major: fc.nat(3), minor: fc.nat(3) }),
  code: fc.nat(0xffff),
  requestId: int32,
  groups: fc.array(fc.record({ tag: fc.constantFrom(1, 2, 4, 5), attributes: fc.array(attribute, { maxLength: 5 }) }), {
    maxLength: 4
  })
});

describe('an IPP message', () => {
  it('comes back from its bytes as it was, with what follows left alone', () => {
    fc.assert(
      fc.property(message, fc.uint8Array({ maxLength: 20 }), (said, document) => {
        const bytes = encode(said);
        const { bytes: end, ...read } = decode(Buffer.concat([bytes, document]));
        expect(end).toBe(bytes.length);
        expect(read).toEqual(said);
      })
    );
  });

  it('that is cut off anywhere is told to go on', () => {
    fc.assert(
      fc.property(message, fc.double({ min: 0, max: 1, maxExcluded: true, noNaN: true }), (said, share) => {
        const bytes = encode(said);
        expect(() => decode(bytes.subarray(0, Math.floor(bytes.length * share)))).toThrow(Unfinished);
      })
    );
  });

  it('that is hurt is read otherwise, or is none', () => {
    fc.assert(
      fc.property(message, fc.nat(), fc.nat(255), (said, at, byte) => {
        const bytes = encode(said);
        bytes[at % bytes.length] = byte;
        try {
          expect(decode(bytes).bytes).toBeLessThanOrEqual(bytes.length);
        } catch (error) {
          expect(error).toBeInstanceOf(NotIpp);
        }
      }),
      { numRuns: 2000 }
    );
  });

  it('is laid out as the standard’s own example of a Print-Job', () => {
    // RFC 8010, appendix A.1, to its second attribute.
    const bytes = Buffer.concat([
      Buffer.from('0101000200000001' + '01', 'hex'),
      Buffer.from([0x47, 0, 0x12]),
      Buffer.from('attributes-charset'),
      Buffer.from([0, 5]),
      Buffer.from('utf-8'),
      Buffer.from([0x48, 0, 0x1b]),
      Buffer.from('attributes-natural-language'),
      Buffer.from([0, 5]),
      Buffer.from('en-us'),
      Buffer.from([0x03])
    ]);
    const said: IppMessage = {
      version: { major: 1, minor: 1 },
      code: 2,
      requestId: 1,
      groups: [
        {
          tag: TAG.operation,
          attributes: [
            { tag: TAG.charset, name: 'attributes-charset', values: ['utf-8'] },
            { tag: TAG.language, name: 'attributes-natural-language', values: ['en-us'] }
          ]
        }
      ]
    };
    expect(encode(said).equals(bytes)).toBe(true);
    expect(decode(bytes)).toEqual({ ...said, bytes: bytes.length });
  });

  it('is bounded in depth and number, and lies about no length', () => {
    const nested = (depth: number): IppAttribute => ({
      tag: TAG.collection,
      name: 'in',
      values: [depth === 0 ? [] : [nested(depth - 1)]]
    });
    const of = (attributes: IppAttribute[]): Buffer =>
      encode({ version: { major: 2, minor: 0 }, code: 2, requestId: 1, groups: [{ tag: 1, attributes }] });
    expect(decode(of([nested(6)])).groups).toHaveLength(1);
    expect(() => decode(of([nested(30)]))).toThrow('too deep');
    const many = { tag: TAG.integer, name: 'n', values: Array.from({ length: 20_001 }, (_, i) => i) };
    expect(() => decode(of([many]))).toThrow('at most');
    const short = of([{ tag: TAG.octets, name: 'n', values: [Uint8Array.of(1, 2)] }]);
    short[9] = TAG.integer;
    expect(() => decode(short)).toThrow('2 bytes in place of 4');
  });
});
