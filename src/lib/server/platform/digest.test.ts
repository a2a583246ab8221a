import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { digest, digestOnce } from './digest';
import { frozen } from './parsed-once';

describe('digests of plain data', () => {
  it('are SHA-256 of the JSON', () => {
    const sum = createHash('sha256').update('{"a":[1,2]}').digest('hex');
    expect(digest({ a: [1, 2] })).toBe(sum);
    expect(digestOnce({ a: [1, 2] })).toBe(sum);
    expect(digestOnce(frozen({ a: [1, 2] }))).toBe(sum);
  });

  it('follow what is changed, and go once through what is frozen', () => {
    const curves = [[0, 0.5, 1]];
    const before = digestOnce(curves);
    curves[0]![1] = 0.4;
    expect(digestOnce(curves)).not.toBe(before);
    let looks = 0;
    const seen = frozen({ toJSON: () => ++looks });
    expect(digestOnce(seen)).toBe(digestOnce(seen));
    expect(looks).toBe(1);
  });
});
