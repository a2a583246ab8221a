import { describe, expect, it } from 'vitest';
import { drifted } from '../../tests/made/drifted';
import { PATCHES_COMPARED } from '../charts/patches';
import { SurfaceError } from '../colour/gaussian-process';
import { deltaE00 } from '../colour/lab';
import { composed, correctionOf, driftOf, fittedToAll } from './matching';
import { spreadOf } from './profile-from-chart';

/** Units as they become: drops that are larger or smaller, an ink that lost its strength. */
const UNITS = [
  { gain: [1.12, 1, 1, 1], strength: [1, 1, 1, 1] },
  { gain: [1.12, 0.88, 1.12, 0.9], strength: [1, 1, 1, 1] },
  { gain: [0.9, 1.1, 0.95, 1.05], strength: [1, 1, 0.9, 1] }
];

describe.each(UNITS)('a machine whose inks come as %j', ({ gain, strength }) => {
  const made = drifted('gloss', { gain, strength });

  it('has drifted, and each channel is told to print stronger or weaker', () => {
    const drift = driftOf(made.baseline, made.now);
    expect(drift.mean).toBeGreaterThan(0.5);
    gain.forEach((factor, channel) => {
      const weaker = factor * strength[channel]! < 0.97;
      if (Math.abs(factor * strength[channel]! - 1) < 0.03) return;
      expect(Math.sign(drift.channels[channel]!.middle)).toBe(weaker ? -1 : 1);
    });
  });

  it('is brought back by curves: what is then printed is what was, in truth', () => {
    const { tables, short } = correctionOf(made.baseline, made.now);
    for (const table of tables) {
      expect(table[0]).toBeCloseTo(0, 2);
      for (let v = 1; v < 256; v++) expect(table[v]!).toBeGreaterThanOrEqual(table[v - 1]! - 1e-9);
    }
    // An ink that lost its strength no longer comes to its full tone, and that is said.
    strength.forEach((share, channel) => {
      if (share < 1) expect(short.map(({ name }) => name)).toContain(['cyan', 'magenta', 'yellow', 'black'][channel]);
    });
    const reachable = made.baseline.filter(({ patch }) =>
      patch.inks.every(
        (v, channel) => v <= (short.find(({ name }) => name === ['cyan', 'magenta', 'yellow', 'black'][channel])?.from ?? 1)
      )
    );
    expect(reachable.length).toBeGreaterThan(PATCHES_COMPARED / 3);
    const after = reachable.map(({ patch }) => deltaE00(made.truthBefore(patch.inks), made.truthNow(patch.inks, tables)));
    expect(spreadOf(after).mean).toBeLessThanOrEqual(0.4);
  });
});

describe('a correction fitted to all that was read', () => {
  const made = drifted('gloss', { gain: [1.12, 0.88, 1.12, 0.9], strength: [1, 1, 0.9, 1] });
  const ladders = correctionOf(made.baseline, made.now);
  const { tables, predicted } = fittedToAll(ladders, made.baseline, made.now);
  const missed = (through: Float64Array[]) =>
    spreadOf(made.baseline.map(({ patch }) => deltaE00(made.truthBefore(patch.inks), made.truthNow(patch.inks, through))));

  it('comes nearer than the ladders alone, to 0.4 in truth, and as near as was foretold', () => {
    expect(driftOf(made.baseline, made.now).mean).toBeGreaterThan(2);
    const { mean, p95 } = missed(tables);
    expect(mean).toBeLessThan(missed(ladders.tables).mean);
    expect(mean).toBeLessThanOrEqual(0.4);
    expect(Math.abs(predicted.mean - mean)).toBeLessThan(0.1);
    expect(Math.abs(predicted.p95 - p95)).toBeLessThan(0.4);
  });

  it('leaves the media bare, and never falls', () => {
    for (const table of tables) {
      expect(table[0]).toBeCloseTo(0, 2);
      table.forEach((v, i) => {
        expect(v).toBeLessThanOrEqual(1);
        expect(v).toBeGreaterThanOrEqual(i === 0 ? 0 : table[i - 1]!);
      });
    }
  });

  it('is refused of too few patches, and of another chart', () => {
    const few = made.baseline.slice(0, 30);
    expect(() => fittedToAll(ladders, few, made.now.slice(0, 29))).toThrow(/this is another chart/);
    const bare = made.baseline.findIndex(({ patch }) => patch.inks.every((v) => v === 0));
    const [then, later] = [made.baseline, made.now].map((all) => [all[bare]!, ...all.filter((_, i) => i !== bare).slice(0, 30)]);
    expect(() => fittedToAll(ladders, then!, later!)).toThrow(SurfaceError);
  });
});

describe('a correction after another', () => {
  it('is both, one after the other', () => {
    const half = [0, 1, 2, 3].map(() => Float64Array.from({ length: 256 }, (_, v) => v / 510));
    const curved = [0, 1, 2, 3].map(() => Float64Array.from({ length: 256 }, (_, v) => (v / 255) ** 2));
    for (const v of [0, 40, 128, 255])
      expect(composed({ tables: half }, { tables: curved }).tables[2]![v]).toBeCloseTo((v / 255) ** 2 / 2, 4);
  });

  it('brings a machine back that drifted on', () => {
    const unit = UNITS[1]!;
    const made = drifted('gloss', unit);
    const first = correctionOf(made.baseline, made.now).tables;
    const again = made.now.map(({ patch }) => ({ patch, lab: made.truthNow(patch.inks, first) }));
    const both = composed({ tables: first }, correctionOf(made.baseline, again)).tables.map((table) => Float64Array.from(table));
    const after = made.baseline.map(({ patch }) => deltaE00(made.truthBefore(patch.inks), made.truthNow(patch.inks, both)));
    expect(spreadOf(after).mean).toBeLessThan(0.4);
  });
});

describe('readings of another chart', () => {
  it('are refused with the figures', () => {
    const { baseline, now } = drifted('gloss', UNITS[0]!);
    expect(() => correctionOf(baseline, now.slice(1))).toThrow(/this is another chart/);
    const other = now.map((one) => ({ ...one, patch: { ...one.patch, id: `X${one.patch.id}` } }));
    expect(() => driftOf(baseline, other)).toThrow(/0 of them are the same/);
  });

  it('that are the same twice tell of no drift but noise, and change next to nothing', () => {
    const { baseline, now } = drifted('matt', { gain: [1, 1, 1, 1], strength: [1, 1, 1, 1] });
    expect(driftOf(baseline, now).mean).toBeLessThan(0.2);
    for (const table of correctionOf(baseline, now).tables)
      table.forEach((v, i) => expect(Math.abs(v - i / 255)).toBeLessThan(0.02));
  });
});
