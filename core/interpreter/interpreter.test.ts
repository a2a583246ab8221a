import { expect, it } from 'vitest';
import { isTrap } from './interpreter';
import { gradientSoak } from '../../tests/made/gradients';

it('draws gradients again and again without breaking or changing', async () => {
  expect(await gradientSoak(400)).toMatchObject({ pages: 400, failures: 0 });
});

it('tells what broke a module from what a file did wrong', () => {
  const deep = (n: number): number => 1 + deep(n + 1);
  let overflow: unknown;
  try {
    deep(0);
  } catch (error) {
    overflow = error;
  }
  expect(isTrap(overflow)).toBe(true);
  expect(isTrap(new WebAssembly.RuntimeError('memory access out of bounds'))).toBe(true);
  expect(isTrap(new RangeError('There is no artwork 3 in this run.'))).toBe(false);
  expect(isTrap(new Error('syntax error'))).toBe(false);
});
