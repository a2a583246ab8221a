import { expect, it } from 'vitest';
import { resultOf } from './run';

const RESULT = { widthPx: 64, heightPx: 64, bytes: 9, drops: [], inkMl: [6, 2, 0], seconds: 1 };
const read = (inkByDocket?: Record<number, number | number[]>) =>
  resultOf(JSON.stringify({ ...RESULT, ...(inkByDocket && { inkByDocket }) }));

it('tells ink by docket ink by ink, of plates of before as all of it is', () => {
  expect(read({ 3: [5, 1, 0], 8: [1, 1, 0] }).inkByDocket).toEqual({ 3: [5, 1, 0], 8: [1, 1, 0] });
  expect(read({ 3: 4, 8: 3 }).inkByDocket).toEqual({ 3: [3, 1, 0], 8: [2.25, 0.75, 0] });
  expect(read()).toEqual(RESULT);
  expect(resultOf(JSON.stringify({ ...RESULT, inkMl: [0, 0], inkByDocket: { 3: 0 } })).inkByDocket).toEqual({ 3: [0, 0] });
});
