import { describe, expect, it } from 'vitest';
import { DocketChoices, type DocketDocument } from '$lib/docket-choices';
import { readPages } from '$lib/ui/common/page-range';
import { changesBetween, fieldInWords, merge, withField } from './changes';

const base: DocketDocument = {
  artworkId: 1,
  page: 0,
  name: 'Berth marker',
  customer: 'Harbour office',
  dueOn: '',
  note: '',
  priority: 'normal',
  choices: DocketChoices.parse({
    widthMm: 90,
    heightMm: 90,
    bleedMm: 3,
    cut: true,
    copies: 4,
    conditionId: 1,
    mayTurn: true,
    intent: 'relative'
  })
};

describe('two windows on one docket', () => {
  it('keep what each changed, where they changed different things', () => {
    const mine = withField(base, 'copies', 9);
    const theirs = withField(withField(base, 'widthMm', 120), 'note', 'by Friday');
    const { merged, lost } = merge(base, mine, theirs);
    expect(merged.choices).toMatchObject({ copies: 9, widthMm: 120 });
    expect(merged.note).toBe('by Friday');
    expect(lost).toEqual([]);
  });
  it('keep theirs where both changed the same, and say what mine was', () => {
    const { merged, lost } = merge(base, withField(base, 'copies', 9), withField(base, 'copies', 7));
    expect(merged.choices.copies).toBe(7);
    expect(lost).toEqual([{ key: 'copies', label: 'Copies', before: 9, after: 7 }]);
  });
  it('say in words what changed', () => {
    const after = withField(withField(base, 'widthMm', 120), 'crop', { left: 2, top: 0, right: 0, bottom: 0 });
    const said = (unit: 'mm' | 'in') =>
      changesBetween(base, after).map(
        ({ key, label, before, after: to }) => `${label}: ${fieldInWords(key, before, unit)} → ${fieldInWords(key, to, unit)}`
      );
    expect(said('in')[0]).toBe('Width: 3.543 in → 4.724 in');
    expect(said('mm')).toEqual([
      'Width: 90 mm → 120 mm',
      'Crop: left 0 mm, top 0 mm, right 0 mm, bottom 0 mm → left 2 mm, top 0 mm, right 0 mm, bottom 0 mm'
    ]);
  });
});

describe('pages that a person writes', () => {
  it.each([
    ['1-3, 7', 9, [0, 1, 2, 6]],
    ['7, 2–3', 9, [1, 2, 6]],
    ['4-', 6, [3, 4, 5]],
    ['-2', 6, [0, 1]],
    ['1-', 3, [0, 1, 2]],
    ['5', 4, undefined],
    ['3-1', 4, undefined],
    ['a', 4, undefined],
    ['', 4, undefined]
  ])('%s of %i', (text, count, pages) => expect(readPages(text, count)).toEqual(pages));
});
