import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fitsPattern, fitsWhen, IntakeRule, IntakeWhen, ruleFor, type Incoming } from './intake-rules';

const incoming: Incoming = { customer: 'Gull & Sons', name: 'Sign_white.pdf', spots: ['Cut line', 'White'], widthMm: 400, heightMm: 900, pages: 2, media: 'Gloss white film' }; // prettier-ignore
const fits = (when: Partial<IntakeWhen>, more: Partial<Incoming> = {}) =>
  fitsWhen(IntakeWhen.parse(when), { ...incoming, ...more });

describe('a rule for what comes in', () => {
  it('fits by all that it asks, and asks nothing that it does not say', () => {
    const cases: [Partial<IntakeWhen>, boolean][] = [
      [{}, true],
      [{ customer: 'gull and sons' }, false],
      [{ customer: 'GULL & SONS' }, true],
      [{ name: '*white*' }, true],
      [{ name: 'sign*.pdf' }, true],
      [{ name: 'sign' }, false],
      [{ spot: 'cut*' }, true],
      [{ spot: 'varnish' }, false],
      [{ leastMm: 900 }, true],
      [{ leastMm: 901 }, false],
      [{ mostMm: 900, leastMm: 100 }, true],
      [{ mostMm: 899 }, false],
      [{ leastPages: 2, mostPages: 2 }, true],
      [{ leastPages: 3 }, false],
      [{ media: 'gloss white film' }, true],
      [{ media: 'Banner' }, false],
      [{ customer: 'Gull & Sons', spot: 'varnish' }, false]
    ];
    for (const [when, is] of cases) expect(fits(when), JSON.stringify(when)).toBe(is);
    expect(fits({ customer: 'Gull' }, { customer: '' })).toBe(false);
  });

  it('is the first of those that fit', () => {
    const rules = [{ name: '*.tif' }, { customer: 'Gull & Sons' }, {}].map((when, i) =>
      IntakeRule.parse({ when, recipeId: i + 1 })
    );
    expect(ruleFor(rules, incoming)).toMatchObject({ place: 1, rule: { recipeId: 2 } });
    expect(ruleFor(rules, { ...incoming, customer: 'Ferry' })!.place).toBe(2);
    expect(ruleFor(rules.slice(0, 1), incoming)).toBeUndefined();
  });

  it('takes * for anything, whatever stands there', () => {
    const word = fc.stringMatching(/^[a-z0-9]{0,6}$/);
    fc.assert(
      fc.property(
        fc.array(word, { minLength: 2, maxLength: 5 }),
        fc.array(word, { minLength: 4, maxLength: 4 }),
        (parts, between) => {
          const name = parts.map((part, i) => part + (i < parts.length - 1 ? between[i]! : '')).join('');
          expect(fitsPattern(name.toUpperCase(), parts.join('*'))).toBe(true);
          // Something that is nowhere in it.
          expect(fitsPattern(name, `${parts.join('*')}*ß${between[0]}`)).toBe(false);
        }
      )
    );
    expect(fitsPattern('aba', 'ab*ba')).toBe(false);
    expect(fitsPattern('Plakat Größe.pdf', 'plakat*GROSSE.PDF')).toBe(true);
  });

  it('is refused with figures that are none', () => {
    expect(IntakeWhen.safeParse({ leastMm: -1 }).error?.issues[0]?.message).toBe('The size must not be below 0.');
    expect(IntakeWhen.safeParse({ name: 'x'.repeat(200) }).success).toBe(false);
  });
});
