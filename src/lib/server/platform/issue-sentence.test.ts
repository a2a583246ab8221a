import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { issueSentence } from './issue-sentence';

const Sent = z.object({
  name: z.string().min(2).max(5),
  copies: z.int().min(1).max(9),
  size: z.number().gt(0).lt(10),
  state: z.enum(['open', 'done']),
  kind: z.literal('roll'),
  list: z.array(z.boolean()).min(1).max(2),
  from: z.union([z.object({ x: z.number() }), z.null()]),
  code: z.string().regex(/^\d+$/, 'A code is figures.')
});
const GOOD = { name: 'Gull', copies: 3, size: 1, state: 'open', kind: 'roll', list: [true], from: null, code: '7' };
const said = (change: object, schema: z.ZodType = Sent) =>
  schema.safeParse({ ...GOOD, ...change }, { error: issueSentence }).error?.issues.map(({ message }) => message);

describe('what is wrong with a field', () => {
  it.each([
    [{ name: undefined }, '“name” is missing.'],
    [{ name: 7 }, '“name” must be a text.'],
    [{ name: 'x' }, '“name” is too short: at least 2.'],
    [{ name: 'too long' }, '“name” is too long: at most 5.'],
    [{ copies: NaN }, '“copies” must be a number.'],
    [{ copies: 1.5 }, '“copies” must be a whole number.'],
    [{ copies: 0 }, '“copies” is too small: at least 1.'],
    [{ copies: 10 }, '“copies” is too large: at most 9.'],
    [{ size: 0 }, '“size” is too small: more than 0.'],
    [{ size: 10 }, '“size” is too large: less than 10.'],
    [{ state: 'lost' }, '“state” must be one of open, done.'],
    [{ kind: 'sheet' }, '“kind” must be roll.'],
    [{ list: [] }, '“list” is too short: at least 1.'],
    [{ list: [true, 'no'] }, '“list.1” must be true or false.'],
    [{ list: {} }, '“list” must be a list.'],
    [{ from: 4 }, '“from” is not as it should be.'],
    // Its schema has words for it.
    [{ code: 'a' }, 'A code is figures.']
  ])('of %j is said in a sentence', (change, sentence) => {
    expect(said(change)).toEqual([sentence]);
  });

  it('names what is not known, and the request where nothing else is wrong', () => {
    expect(said({ more: 1 }, z.strictObject(Sent.shape))).toEqual(['The request has what is not known here: more.']);
    expect(z.object({}).safeParse(undefined, { error: issueSentence }).error?.issues[0]?.message).toBe('The request is missing.');
    expect(said({})).toBeUndefined();
  });
});
