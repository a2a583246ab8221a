import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { faceOf } from '../../tests/made/faces';
import { bounds, flatten, signedArea } from '../geometry/path';
import type { FieldCut, TextField } from '../records/field';
import { newCode, newText } from '../records/new-field';
import { fieldLines, type FieldLine } from './field-lines';

const faces = new Map([['Sans', faceOf('latin')]]);
const PLACE = { x: 10, y: 5, width: 60, height: 20, turn: 0 };
const CUT: FieldCut = { tool: 'kiss cut', mm: 0, holes: true };
const field = (more: Partial<TextField> = {}): TextField => ({ ...newText([], PLACE), font: 'Sans', cut: CUT, ...more });
const lines = (text: string, more: Partial<TextField> = {}) => fieldLines([{ field: field(more), text }], faces);
const rings = (found: readonly FieldLine[]) => found.map(({ path }) => flatten(path, 0.01)[0]!.points);
const box = (found: readonly FieldLine[]) => bounds(found.flatMap(({ path }) => flatten(path, 0.01)))!;

describe('lines that follow lettering', () => {
  it('are one around each letter, and one in each hole where holes are wanted', () => {
    expect(lines('HO')).toHaveLength(3);
    expect(lines('HO', { cut: { ...CUT, holes: false } })).toHaveLength(2);
    expect(lines('HO').map(({ tool, field: of }) => [tool, of])).toEqual(Array(3).fill(['kiss cut', 1]));
    expect(lines('  ')).toEqual([]);
    expect(lines('HO', { cut: null })).toEqual([]);
    expect(fieldLines([{ field: newCode([], PLACE), text: 'HO' }], faces)).toEqual([]);
    expect(() => lines('HO', { font: 'Gone' })).toThrow('The shop has no font Gone.');
  });

  it('become one where they reach each other', () => {
    const far = lines('Hi O', { cut: { ...CUT, mm: 12, holes: false } });
    expect(far).toHaveLength(1);
    expect(signedArea(rings(far)[0]!)).toBeGreaterThan(0);
  });

  it('lie in the field’s place where the lettering does, so far around it, and turn with it', () => {
    const near = box(lines('HHH'));
    expect(near.x).toBeGreaterThan(9.9);
    expect(near.x + near.width).toBeLessThan(70.1);
    const wider = box(lines('HHH', { cut: { ...CUT, mm: 1.5 } }));
    expect(wider.x).toBeCloseTo(near.x - 1.5, 1);
    expect(wider.height).toBeCloseTo(near.height + 3, 1);
    // A quarter turn about the middle of the place, which is at 40, 15.
    const turned = box(lines('HHH', { place: { ...PLACE, turn: 90 } }));
    expect(turned.x + turned.width / 2).toBeCloseTo(40 - (near.y + near.height / 2 - 15), 1);
    expect(turned.height).toBeCloseTo(near.width, 1);
    // Its letters stand on an arc as those that print do.
    const bent = box(lines('HHH', { bend: 90 }));
    expect(bent.height).toBeGreaterThan(5);
    expect(bent.x).toBeGreaterThan(9.9);
    expect(bent.y + bent.height).toBeLessThan(25.1);
  });

  it('are larger by what a distance adds, for any text', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[A-Za-z]{1,6}$/), fc.double({ min: 0.1, max: 3, noNaN: true }), (text, mm) => {
        const area = (distance: number) =>
          rings(lines(text, { cut: { ...CUT, mm: distance, holes: false } })).reduce((sum, ring) => sum + signedArea(ring), 0);
        expect(area(mm)).toBeGreaterThan(area(0));
      }),
      { numRuns: 25 }
    );
  });
});
