import fc from 'fast-check';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { parseFigure } from '$core/units/typed';
import { TypedFigure, type FigureAsked } from './typed-figure.svelte';

const onchange = vi.fn<(value: number) => void>();
const onempty = vi.fn<() => void>();
beforeEach(() => {
  onchange.mockReset();
  onempty.mockReset();
});

/** A box on a page that takes what it is told at once. */
function box(more: Partial<FigureAsked> = {}): { figure: TypedFigure; page: FigureAsked } {
  const page: FigureAsked = {
    label: 'Amount',
    value: 40,
    read: (text) => parseFigure(text, '%'),
    understood: (value) => `${value} %`,
    min: 1,
    max: 200,
    onchange,
    ...more
  };
  const figure = new TypedFigure(() => page);
  onchange.mockImplementation((value) => {
    page.value = value;
    figure.follow(value);
  });
  return { figure, page };
}

describe('TypedFigure', () => {
  it('tells what is typed as it is typed, and says a sum back', () => {
    const { figure, page } = box();
    figure.type('3*25');
    expect(page.value).toBe(75);
    expect(figure.note).toBe('= 75 %');
    figure.leave();
    expect(figure.text).toBeNull();
    expect(onchange).toHaveBeenCalledTimes(1);
  });

  it('says what is wrong, tells nothing of it, and keeps it to be seen', () => {
    const { figure, page } = box();
    for (const text of ['2', '25', '250']) figure.type(text);
    expect(figure.note).toBe('Amount: between 1 % and 200 %.');
    figure.leave();
    expect([figure.text, page.value]).toEqual(['250', 40]);
    figure.giveUp();
    expect([figure.text, figure.note]).toEqual([null, '']);
  });

  it('is as it was when it is emptied where there must be a figure, and says so where there need not', () => {
    const { figure } = box();
    figure.type('');
    figure.leave();
    expect(figure.text).toBeNull();
    expect(onchange).not.toHaveBeenCalled();

    const free = box({ onempty });
    free.figure.type(' ');
    expect(free.figure.meant).toEqual({ value: null, wrong: '' });
    free.figure.leave();
    expect(onempty).toHaveBeenCalledTimes(1);
    free.page.value = null;
    free.figure.type('');
    free.figure.leave();
    expect(onempty).toHaveBeenCalledTimes(1);
  });

  it('counts nothing of what was half typed when it is given up, or emptied', () => {
    const { figure, page } = box();
    for (const text of ['4', '']) figure.type(text);
    expect(page.value).toBe(4);
    figure.leave();
    expect([figure.text, page.value]).toEqual([null, 40]);
    figure.type('9');
    figure.giveUp();
    expect(page.value).toBe(40);

    // Where there was none.
    const free = box({ value: null, onempty: () => void (free.page.value = null) });
    for (const text of ['9', '9x']) free.figure.type(text);
    free.figure.leave();
    expect([free.figure.text, free.page.value]).toEqual(['9x', null]);
  });

  it('waits with what costs something until it is left', () => {
    const { figure } = box({ late: true });
    figure.type('1');
    figure.type('12');
    expect(onchange).not.toHaveBeenCalled();
    figure.leave();
    expect(onchange.mock.calls).toEqual([[12]]);
  });

  it.each([
    ['the page goes a step back', 40, true],
    ['another window changes it', 77, false]
  ])('gives up what is typed when %s', (_, now, isStepBack) => {
    const { figure, page } = box();
    figure.type('5');
    figure.type('50');
    if (isStepBack) figure.stepBack();
    page.value = now;
    figure.follow(now);
    expect(figure.text).toBeNull();
    figure.leave();
    expect(page.value).toBe(now);
  });

  it('goes on being typed when the first half of it was refused', () => {
    const { figure, page } = box();
    figure.type('1');
    page.value = 40;
    figure.follow(40);
    figure.type('15');
    figure.leave();
    expect(page.value).toBe(15);
    expect(onchange.mock.calls).toEqual([[1], [15]]);
  });

  it('stays while the page follows slowly', () => {
    const { figure, page } = box();
    onchange.mockImplementation(() => undefined);
    figure.type('5');
    figure.type('50');
    for (const value of [40, 5, 50]) {
      page.value = value;
      figure.follow(value);
      expect(figure.text).toBe('50');
    }
  });

  it('counts within its bounds, from what is typed', () => {
    const { figure, page } = box();
    figure.type('195');
    expect(figure.step(10)).toBe(true);
    expect(page.value).toBe(200);
    figure.step(-0.1);
    expect(page.value).toBe(199.9);
    figure.type('abc');
    expect(figure.step(1)).toBe(false);
  });

  it('never tells what is no number or out of bounds, whatever is typed', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ maxLength: 6, unit: fc.constantFrom(...'0123456789.,-+*/() %x') })), (texts) => {
        const { figure, page } = box();
        for (const text of texts) figure.type(text);
        figure.leave();
        expect(page.value).toBeGreaterThanOrEqual(1);
        expect(page.value).toBeLessThanOrEqual(200);
      })
    );
  });
});
