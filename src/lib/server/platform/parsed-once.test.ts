import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { parsedOnce } from './parsed-once';

const Roll = z.object({ name: z.string(), widths: z.array(z.number()) });

describe('texts that are parsed once', () => {
  it('gives the same for the same text, and another for another', () => {
    let parsed = 0;
    const rollOf = parsedOnce((value) => (parsed++, Roll.parse(value)));
    const text = JSON.stringify({ name: 'Skerry film', widths: [1370] });
    expect(rollOf(text)).toEqual({ name: 'Skerry film', widths: [1370] });
    expect(rollOf(text)).toBe(rollOf(`${text}`));
    expect(rollOf(text.replace('1370', '1600')).widths).toEqual([1600]);
    expect(parsed).toBe(2);
  });

  it('cannot be changed by one who was given it, at any depth', () => {
    const rollOf = parsedOnce(Roll.parse.bind(Roll));
    const roll = rollOf('{"name":"Skerry film","widths":[1370]}');
    expect(() => (roll.name = 'another')).toThrow(TypeError);
    expect(() => roll.widths.push(1)).toThrow(TypeError);
  });

  it('refuses what is refused each time, and forgets what was long ago', () => {
    let parsed = 0;
    const rollOf = parsedOnce((value) => (parsed++, Roll.parse(value)), 2);
    const bad = '{"name":7}';
    expect(() => rollOf(bad)).toThrow();
    expect(() => rollOf(bad)).toThrow();
    expect(parsed).toBe(2);
    for (const width of [1, 2, 3, 1]) rollOf(`{"name":"a","widths":[${width}]}`);
    expect(parsed).toBe(6);
  });
});
