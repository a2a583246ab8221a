import { ITSELF, neighboursOf } from '$core/charts/neighbours';
import type { ColourChart } from '$core/charts/patches';
import { CgatsError, readCgats } from '$core/colour/cgats';
import { deltaE00, type Triple } from '$core/colour/lab';
import { IN_REACH } from '$core/colour/named-inks';
import type { Inks } from '$core/colour/separation';
import type { Chart } from '$lib/calibration';
import type { ColourOn, Round } from '$lib/named-colours';
import type { ColourMaking } from '../conditions/colour-making';
import type { Conditions } from '../conditions/conditions';
import { asMeasured, type KeptInks, type NamedColours } from '../conditions/named-colours';
import type { MadeColour } from '../conditions/workers/named-inks';
import { readSample } from '../machines/instrument-client';
import type { Machines } from '../machines/machines';
import { Problem } from '../platform/problem';
import type { ChartMaking } from './chart-making';
import type { Charts } from './charts';

interface Needs {
  machines: Machines;
  conditions: Conditions;
  colours: NamedColours;
  making: ColourMaking;
  charts: Charts;
  chartMaking: ChartMaking;
}

/** So many patches of a colour are printed, all over the sheet: what is read is their mean. */
const SOLIDS = 11;
/** Rounds of a colour that are kept. */
const MOST_ROUNDS = 12;

/** Named colours on conditions: what inks make them, by the model, by hand, or by measuring what was printed. */
export class ColourInks {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** A colour on every condition. */
  async on(id: number): Promise<ColourOn[]> {
    const { conditions, colours, making } = this.#needs;
    const { lab } = colours.get(id);
    return Promise.all(
      conditions.list().map(async ({ id: conditionId, hasProfile }): Promise<ColourOn> => {
        const kept = colours.kept(id, conditionId);
        if (!hasProfile) return { conditionId, made: null, own: kept ? { ...shown(kept), old: true } : null };
        const current = colours.current(id, conditionId);
        const [made] = await making.on(conditionId, [{ lab, own: current?.inks }]);
        const most = conditions.get(conditionId).totalInk;
        const known = asMeasured(made!, current?.off, lab);
        return {
          conditionId,
          own: kept ? { ...shown(kept), old: !current } : null,
          made: { ...known, isInReach: known.deltaE <= IN_REACH, most }
        };
      })
    );
  }

  /** What inks would make of a colour on a condition. */
  async tried(id: number, conditionId: number, inks: Inks): Promise<MadeColour> {
    const { colours, making } = this.#needs;
    const { lab } = colours.get(id);
    const [made] = await making.on(conditionId, [{ lab, own: inks }]);
    return asMeasured(made!, colours.current(id, conditionId)?.off, lab);
  }

  /** Inks that the operator chose; nothing for those that the profile gives. */
  byHand(id: number, conditionId: number, inks: Inks | null): void {
    const { colours, conditions } = this.#needs;
    conditions.colour(conditionId);
    const { rounds = [], off } = colours.current(id, conditionId) ?? {};
    colours.keepInks(id, conditionId, inks && { inks: whole(inks), how: 'by hand', rounds, off });
  }

  /** Lays out a chart of a colour on a condition, as it prints there now. */
  async chart(id: number, conditionId: number, kind: ColourChart): Promise<Chart> {
    const { colours, chartMaking } = this.#needs;
    const { name, lab } = colours.get(id);
    const current = colours.current(id, conditionId);
    const now = { lab, own: current?.inks };
    // What measuring taught of the colour holds for its neighbours.
    const aimed = (near: Triple) => near.map((v, i) => v - (current?.off?.[i] ?? 0)) as Triple;
    if (kind === 'colour') {
      const [made] = await this.#needs.making.on(conditionId, [now]);
      const solids = Array.from({ length: SOLIDS }, (_, i) => ({ id: `S${i + 1}`, inks: made!.inks, lab }));
      return chartMaking.ofColour(conditionId, kind, { id, name }, [
        ...solids,
        { id: 'W', inks: [0, 0, 0, 0], lab: [100, 0, 0] }
      ]);
    }
    // Around the colour as it prints: what a customer would have otherwise is seen against that.
    const around = neighboursOf(lab);
    const made = await this.#needs.making.on(
      conditionId,
      around.map(({ code, lab: near }) => (code === ITSELF ? now : { lab: aimed(near) }))
    );
    return chartMaking.ofColour(
      conditionId,
      kind,
      { id, name },
      around.map(({ code, lab: near }, i) => ({ id: code, inks: made[i]!.inks, lab: near }))
    );
  }

  /**
   * Corrects a colour's inks by what was read of its print: the model is asked for as much more as it promised too much.
   *
   * @throws Problem where the chart is of another colour, of inks from before, or not read
   */
  async correct(id: number, chartId: number): Promise<void> {
    const { colours, charts } = this.#needs;
    const { name, lab } = colours.get(id);
    const chart = charts.get(chartId);
    const { conditionId } = chart;
    if (charts.row(chartId).colour_id !== id || chart.kind !== 'colour')
      throw new Problem(422, `Chart C${chartId} is no chart of ${name}.`);
    const solids = chart.layout.patches.filter(({ id: patch }) => patch !== 'W');
    const unread = chart.layout.patches.filter((patch) => !chart.readings[patch.id]);
    if (unread.length > 0)
      throw new Problem(409, `${unread.length} of ${chart.layout.patches.length} patches of chart C${chartId} are not read yet.`);
    const inks = solids[0]!.inks;
    const measured = meanOf(solids.map((patch) => chart.readings[patch.id]!));
    const spread = Math.max(...solids.map((patch) => deltaE00(chart.readings[patch.id]!, measured)));
    if (spread > MOST_SPREAD)
      throw new Problem(
        422,
        `The patches of one colour differ by ΔE00 ${spread.toFixed(1)} from their mean; ${MOST_SPREAD} is the most. Read the strip again, and print the chart again if they still do.`
      );
    charts.mustBeOfNow(chart);
    const rounds = colours.current(id, conditionId)?.rounds ?? [];
    if (rounds.some((round) => round.chartId === chartId)) throw new Problem(409, `Chart C${chartId} has been taken already.`);
    const [model] = await this.#needs.making.on(conditionId, [{ lab, own: inks }]);
    const off = measured.map((v, i) => v - model!.reached[i]!) as Triple;
    const aim = lab.map((v, i) => v - off[i]!) as Triple;
    const [next] = await this.#needs.making.on(conditionId, [{ lab: aim }]);
    const round: Round = { chartId, at: Date.now(), inks, measured, deltaE: deltaE00(measured, lab) };
    // Inks that came out best stay where the model knows none that are better by more than reading tells apart.
    const best = [...rounds, round].filter((one) => one.deltaE <= GOOD_ENOUGH).sort((p, q) => p.deltaE - q.deltaE)[0];
    const kept: Omit<KeptInks, 'press'> = {
      inks: best?.inks ?? next!.inks,
      how: 'measured',
      rounds: [...rounds, round].slice(-MOST_ROUNDS),
      off
    };
    colours.keepInks(id, conditionId, kept);
  }

  /**
   * Takes the patch that somebody chose on a sheet of neighbours: its inks for this condition, or its colour for all of them.
   *
   * @param code as it stands under the patch
   */
  pick(id: number, chartId: number, code: string, as: 'condition' | 'colour'): void {
    const { colours, charts } = this.#needs;
    const { name } = colours.get(id);
    const chart = charts.get(chartId);
    if (charts.row(chartId).colour_id !== id || chart.kind !== 'neighbours')
      throw new Problem(422, `Sheet C${chartId} is not of ${name}.`);
    const patch = chart.layout.patches.find((one) => one.id === code.trim().toUpperCase());
    if (!patch)
      throw new Problem(
        422,
        `“${code}” is on no patch of sheet C${chartId}: a code is a letter of A to C and two figures of 1 to 5.`
      );
    const { rounds = [], off } = colours.current(id, chart.conditionId) ?? {};
    if (as === 'colour') return colours.moveTo(id, chart.asked[patch.id]!);
    charts.mustBeOfNow(chart);
    colours.keepInks(id, chart.conditionId, { inks: patch.inks, how: 'picked', rounds, off });
  }

  /** What the instrument sees of a sample that lies under it. */
  async sample(): Promise<Triple> {
    const text = await readSample(this.#needs.machines.instrument().url);
    try {
      return readCgats(text).patches[0]!.lab;
    } catch (error) {
      throw new Problem(
        502,
        error instanceof CgatsError ? `The instrument's reading makes no sense: ${error.message}` : String(error)
      );
    }
  }
}

/** Patches of one colour that differ by more were not read well. */
const MOST_SPREAD = 1.5;
/** A colour that was measured as near as this is not corrected any more: the next would be no better than chance. */
const GOOD_ENOUGH = 0.25;

const whole = (inks: Inks): Inks => inks.map((v) => Math.round(v * 255) / 255) as Inks;
const meanOf = (labs: readonly Triple[]): Triple =>
  [0, 1, 2].map((i) => labs.reduce((sum, lab) => sum + lab[i]!, 0) / labs.length) as Triple;
const shown = ({ inks, how, rounds }: KeptInks) => ({ inks, how, rounds });
