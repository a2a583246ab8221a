import { describe, expect, it } from 'vitest';
import { HANDLING } from '../../standins/printer/handling';
import { modelNamed } from '../../standins/printer/models';
import { ALL_MODES } from '../../standins/printer/modes';
import { printSeconds } from '../inks/drops';
import { cardDifferences, MediaCard, NEW_CARD } from './card';
import { checkHandling, HandlingTable, suggestHandling } from './handling';
import { modeCost, PrintMode, speedIn } from './modes';

describe('print modes', () => {
  it('are some three hundred, each as it should be, none twice', () => {
    expect(ALL_MODES.length).toBeGreaterThanOrEqual(300);
    expect(new Set(ALL_MODES.map(({ code }) => code)).size).toBe(ALL_MODES.length);
    for (const mode of ALL_MODES) expect(PrintMode.parse(mode)).toEqual(mode);
  });

  it('take longer with more passes, and as much ink at every resolution', () => {
    const of = (dpi: number, passes: number) =>
      ALL_MODES.find(
        (mode) => mode.machine === 'Petrel 13' && mode.dpi === dpi && mode.passes === passes && mode.direction === 'both ways'
      )!;
    const ink = { coverage: 0.6, costPerMl: 0.12 };
    expect(modeCost(of(720, 12), 3, ink).minutes).toBeGreaterThan(modeCost(of(720, 6), 3, ink).minutes * 1.8);
    const ml = [360, 540, 720, 1080].map(
      (dpi) =>
        modeCost(
          ALL_MODES.find((mode) => mode.dpi === dpi)!,
          1,
          ink
        ).inkMl
    );
    expect(Math.max(...ml) / Math.min(...ml)).toBeLessThan(1.05);
  });

  it('take as long by the machine’s own figures as the mode says, one way too', () => {
    for (const mode of ALL_MODES) {
      const { speed } = modelNamed(mode.machine);
      const widthMm = mode.machine === 'Petrel 13' ? 1300 : mode.machine === 'Gannet 32' ? 3200 : undefined;
      if (widthMm === undefined) continue;
      const seconds = printSeconds(widthMm, 10_000, speedIn(speed, mode, 1));
      expect([
        mode.code,
        Math.abs((modeCost(mode, widthMm / 100, { coverage: 1, costPerMl: 1 }).minutes * 60) / seconds - 1) < 0.06
      ]).toEqual([mode.code, true]);
    }
    const [both, one] = (['both ways', 'one way'] as const).map((direction) =>
      printSeconds(1000, 5000, speedIn(modelNamed('Petrel 13').speed, { passes: 8, direction }, 3))
    );
    expect(one! / both!).toBeCloseTo(1.8, 9);
    expect(both).toBeCloseTo(3 * printSeconds(1000, 5000, { ...modelNamed('Petrel 13').speed, passes: 8 }), 9);
  });
});

describe('media cards', () => {
  it('take what a machine suggests for their family and thickness, and are told what lies outside', () => {
    const table = HandlingTable.parse(HANDLING);
    const row = suggestHandling(table, 'banner', 0.8)!;
    expect(row.handling.headGapMm).toBe(2.6);
    expect(suggestHandling(table, 'rigid', 3)).toBeUndefined();
    const card = { family: 'banner' as const, thicknessMm: 0.8, handling: { 'Petrel 13': { ...row.handling } } };
    expect(checkHandling(table, card)).toEqual([]);
    card.handling['Petrel 13'].headGapMm = 1.2;
    card.handling['Petrel 13'].vacuumPercent = 90;
    expect(checkHandling(table, card).map(({ field }) => field)).toEqual(['headGapMm', 'vacuumPercent']);
    expect(checkHandling(table, card)[0]!.text).toContain('2.6–3.4 mm');
  });

  it('are refused with the figure and its limits, and say how they differ', () => {
    const bad = MediaCard.safeParse({ ...NEW_CARD, thicknessMm: 200 });
    expect(bad.error?.issues[0]?.message).toBe('The thickness is 0.01 to 60 mm.');
    const other = { ...NEW_CARD, note: 'x', handling: { 'Petrel 13': HANDLING.rows[0]!.handling } };
    expect(cardDifferences(NEW_CARD, other)).toEqual([
      { field: 'note', mine: '', theirs: 'x' },
      { field: 'Petrel 13', mine: 'no', theirs: 'yes' }
    ]);
    expect(cardDifferences(other, other)).toEqual([]);
  });
});
