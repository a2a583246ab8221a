import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { batchWords } from './batches';

describe('batches of film that panels are printed from', () => {
  it.each([
    [[], null, /^Print them from one roll, or from rolls of one batch/, false],
    [[], 'H27', /^Batch H27 is on the machine: .* the next of the same/, false],
    [['H27'], null, /from batch H27\. Of which batch .* is not known/, false],
    [['H27'], 'H27', /from batch H27; batch H27 is on the machine\.$/, false],
    [['H27'], 'K11', /from batch H27, and batch K11 is on the machine: .* Load a roll of batch H27\.$/, true],
    [['H27', 'K11'], 'K11', /from batches H27, K11; batch K11 is on the machine\.$/, false],
    [['H27', 'K11'], 'M3', /from batches H27, K11, and batch M3 is .* Load a roll of one of those\.$/, true]
  ])('%j and %j on the machine', (before, now, words, isOther) => {
    const said = batchWords({ before, now });
    expect(said.words).toMatch(words);
    expect(said.isOther).toBe(isOther);
  });

  it('are others only where both are known and none is the same', () => {
    const name = fc.constantFrom('A', 'B', 'C');
    fc.assert(
      fc.property(fc.uniqueArray(name), fc.option(name), (before, now) => {
        expect(batchWords({ before, now }).isOther).toBe(before.length > 0 && now !== null && !before.includes(now));
      })
    );
  });
});
