import { describe, expect, it } from 'vitest';
import { counted } from './counted';

describe('so many of something', () => {
  it('is one alone, or several', () => {
    expect([0, 1, 2, 1200].map((n) => counted(n, 'sheet'))).toEqual(['0 sheets', '1 sheet', '2 sheets', '1,200 sheets']);
    expect([1, 3].map((n) => counted(n, 'copy', 'copies'))).toEqual(['1 copy', '3 copies']);
  });
});
