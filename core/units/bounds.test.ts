import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { Limits } from '../checks/check';
import { Handling, HANDLING_WORDS, type Handling as HandlingFigures } from '../media/card';
import { boundsOf } from './bounds';

describe('boundsOf', () => {
  it('is what a schema takes, with a default or without', () => {
    expect(boundsOf(z.number().min(-3).max(0.5))).toEqual({ min: -3, max: 0.5 });
    expect(boundsOf(z.int().min(1).max(9).default(2))).toEqual({ min: 1, max: 9 });
    expect(() => boundsOf(z.string())).toThrow(RangeError);
  });

  it('is known of every limit of the checks, whose default lies within', () => {
    for (const schema of Object.values(Limits.shape)) {
      const { min, max } = boundsOf(schema);
      expect(schema.safeParse(min).success && schema.safeParse(max).success).toBe(true);
      expect(schema.safeParse(max + 1).success).toBe(false);
    }
  });

  it('is known of every figure of a media’s handling', () => {
    const figures = Object.entries(HANDLING_WORDS).filter(([, { step }]) => step > 0);
    expect(figures.length).toBeGreaterThan(6);
    for (const [key] of figures) {
      const schema = Handling.shape[key as keyof HandlingFigures];
      const { min, max } = boundsOf(schema);
      expect([schema.safeParse(min).success, schema.safeParse(max).success]).toEqual([true, true]);
      expect(schema.safeParse(min - 1).success).toBe(false);
    }
  });
});
