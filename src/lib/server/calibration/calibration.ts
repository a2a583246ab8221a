import { LRUCache } from 'lru-cache';
import type { ToneGrain } from '$core/calibration/tone-grain';
import { suggestLimit } from '$core/calibration/channel-limits';
import { laddersOf, mediaWhite, ReadingError, type Ladder } from '$core/calibration/ladders';
import { departure, lineariseLadder, type Evenness } from '$core/calibration/linearise';
import { spreadOf, type BuiltProfile } from '$core/calibration/profile-from-chart';
import { relativeTo } from '$core/colour/media-relative';
import { totalCurve } from '$core/calibration/total-ink';
import { TOTAL_SERIES } from '$core/charts/patches';
import { IccError, readProfileFacts } from '$core/colour/icc-read';
import type { GamutHull } from '$core/colour/gamut';
import { deltaE00, type Triple } from '$core/colour/lab';
import type { ProfileRecipe } from '$core/colour/profile-build';
import { BLACK_CHOICES, type BlackChoice } from '$core/colour/black';
import { type Inks, type InkLimits } from '$core/colour/separation';
import {
  StepChoice,
  type BlackSetting,
  type Chart,
  type StandardSpace,
  type EvenLadder,
  type StepResult
} from '$lib/calibration';
import { digest } from '../platform/digest';
import { Problem } from '../platform/problem';
import { KERNELS_FILE, MASK_FILE } from '../platform/tasks/pool';
import type { GrainRequest } from '../conditions/workers/profile';
import type { Charts } from './charts';
import type { Conditions } from '../conditions/conditions';
import type { FileStore } from '../platform/files';
import type { MediaCards } from '../media/cards';
import type { Piscina } from 'piscina';
import type { Settings } from '../platform/settings';
import type { SourceProfiles } from '../conditions/source-profiles';
import type { TaskRunner } from '../platform/tasks/runner';
import type { TaskContext } from '../platform/tasks/runner';

const blackOf = (choice: BlackSetting): BlackChoice =>
  choice.choice === 'own' ? { curve: choice.curve, steady: choice.steady } : BLACK_CHOICES[choice.choice];

/** What it works with. */
interface Needs {
  charts: Charts;
  conditions: Conditions;
  files: FileStore;
  media: MediaCards;
  profilePool: Piscina;
  settings: Settings;
  sources: SourceProfiles;
  tasks: TaskRunner;
}

/** The tone whose grain is told. */
const PALE_TONE = 0.25;
/** Conditions whose grain is remembered. */
const MOST_GRAINS = 100;

/** Climbing a condition: what readings come to, step by step. */
export class Calibration {
  readonly #needs: Needs;
  readonly #grains = new LRUCache<string, Promise<ToneGrain[]>>({ max: MOST_GRAINS });

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.tasks.register('build', { most: 1, work: (subject, context) => this.#build(subject, context) });
  }

  /**
   * Takes a step from the readings of its chart. A profile is built in a task; all others are there at once.
   *
   * @throws Problem when readings are missing or make no sense, naming the patches
   */
  take(conditionId: number, choice: StepChoice): StepResult | undefined {
    const { charts, tasks } = this.#needs;
    const chart = charts.get(choice.chartId);
    if (chart.conditionId !== conditionId || chart.kind !== choice.step)
      throw new Problem(422, 'This chart is of another step or condition.');
    const without = new Set(choice.step === 'profile' ? choice.without : []);
    const missing = chart.layout.patches.filter((patch) => !chart.readings[patch.id] && !without.has(patch.id));
    if (missing.length > 0)
      throw new Problem(
        409,
        `${missing.length} of ${chart.layout.patches.length} patches are not read yet: ${missing
          .slice(0, 5)
          .map(({ id }) => id)
          .join(', ')}${missing.length > 5 ? ' …' : ''}.`
      );
    charts.mustBeOfNow(chart);
    if (choice.step === 'profile') {
      tasks.add('build', JSON.stringify(choice));
      return undefined;
    }
    const wrong = chart.findings[0];
    if (wrong) throw new Problem(422, wrong.text);
    try {
      return this.#apply(conditionId, chart, choice);
    } catch (error) {
      if (error instanceof ReadingError) throw new Problem(422, error.message);
      throw error;
    }
  }

  #apply(conditionId: number, chart: Chart, choice: Exclude<StepChoice, { step: 'profile' }>): StepResult {
    const { conditions, charts, media } = this.#needs;
    const measured = charts.readPatches(chart).map((patch) => ({ patch, lab: patch.lab }));
    const condition = conditions.get(conditionId);
    switch (choice.step) {
      case 'limits': {
        const channels = laddersOf(measured).map((ladder, i) => {
          const { limit, why, gains } = suggestLimit(ladder);
          return { name: ladder.name, suggested: limit, chosen: choice.channels?.[i] ?? limit, why, steps: ladder.steps, gains };
        });
        media.measuredWhite(condition.mediaId, mediaWhite(measured));
        const said = channels.map(({ name, chosen }) => `${name} ${Math.round(chosen * 100)} %`).join(', ');
        return conditions.keep(conditionId, 'limits', { channels }, chart.id, `Ink limits: ${said}`);
      }
      case 'linear': {
        const limits = conditions.result(conditionId, 'limits')?.channels.map(({ chosen }) => chosen) ?? [1, 1, 1, 1];
        const ladders = laddersOf(measured);
        const curves = ladders.map((ladder, i) =>
          Array.from(lineariseLadder(ladder, choice.evenness), (share) => share * (limits[i] ?? 1))
        );
        const before = ladders.map((ladder) => evenLadder(ladder, choice.evenness));
        return conditions.keep(conditionId, 'linear', { evenness: choice.evenness, curves, before }, chart.id, 'Linearised');
      }
      case 'linear check': {
        const evenness = conditions.result(conditionId, 'linear')?.evenness ?? 'distance';
        const after = laddersOf(measured).map((ladder) => evenLadder(ladder, evenness));
        const worst = Math.max(...after.map((ladder) => ladder.worst));
        return conditions.keep(
          conditionId,
          'linear check',
          { after, worst },
          chart.id,
          `Linearisation checked: ${worst.toFixed(1)} % from straight at most`
        );
      }
      case 'total': {
        const curves = conditions.curves(conditionId);
        const ink = (inks: Inks) => inks.reduce((sum, v, i) => sum + (curves[i]![Math.round(v * 255)] ?? 0), 0);
        const white = this.#white(conditionId, measured);
        const series = TOTAL_SERIES.map((name) =>
          totalCurve(
            name,
            measured
              .filter(({ patch }) => patch.id.startsWith(`${name}-`))
              .map(({ patch, lab }) => ({ total: ink(patch.inks), lab })),
            white
          )
        );
        const suggested = Math.max(...series.filter((s) => s.series === 'all' || s.series === 'black').map((s) => s.suggested));
        const total = choice.total ?? Math.round(suggested * 100) / 100;
        return conditions.keep(
          conditionId,
          'total',
          { series, limits: { total, red: choice.red, green: choice.green, blue: choice.blue } },
          chart.id,
          `Total ink: ${Math.round(total * 100)} %`
        );
      }
      case 'verify': {
        const relative = relativeTo(mediaWhite(measured));
        const patches = measured.flatMap(({ patch, lab }) => {
          const asked = chart.asked[patch.id];
          const against = relative(lab);
          return asked ? [{ id: patch.id, inks: patch.inks, asked, lab: against, deltaE: deltaE00(asked, against) }] : [];
        });
        const errors = patches.map(({ deltaE }) => deltaE);
        const { mean, p95 } = spreadOf(errors);
        const { tolerance } = this.#needs.settings.current;
        const pass = mean <= tolerance.mean && p95 <= tolerance.p95;
        return conditions.keep(
          conditionId,
          'verify',
          { mean, p95, worst: Math.max(...errors), tolerance, pass, patches },
          chart.id,
          `Verified: ΔE00 ${mean.toFixed(2)} in the mean, ${pass ? 'passed' : 'not passed'}`
        );
      }
    }
  }

  /** How greys come out of inks with a choice of black, before a profile is built with it. */
  async neutrals(conditionId: number, black: BlackSetting): Promise<{ lightness: number; inks: Inks }[]> {
    const { conditions, profilePool } = this.#needs;
    return (await profilePool.run(
      {
        profile: conditions.profilePath(conditionId),
        separation: { limits: this.inkLimits(conditionId), black: blackOf(black) },
        steps: 41
      },
      { name: 'neutrals' }
    )) as { lightness: number; inks: Inks }[];
  }

  /** How grainy pale tones of a condition are, by channel that has a light ink; nothing where none has, or before there is a profile. */
  async grain(id: number): Promise<ToneGrain[]> {
    const { conditions, profilePool } = this.#needs;
    const condition = conditions.get(id);
    const inks = conditions.inks(id);
    if (!condition.hasProfile || !inks.some(({ role }) => role === 'light')) return [];
    const { curves } = conditions.colour(id);
    const request: GrainRequest = {
      profile: conditions.profilePath(id),
      inks,
      curves,
      dpi: condition.mode.dpi,
      tone: PALE_TONE,
      kernels: KERNELS_FILE,
      mask: MASK_FILE
    };
    const key = JSON.stringify(request);
    const known = this.#grains.get(key) ?? (profilePool.run(request, { name: 'grain' }) as Promise<ToneGrain[]>);
    this.#grains.set(key, known);
    // What went wrong is tried again.
    known.catch(() => this.#grains.delete(key));
    return known;
  }

  /** What can be printed. @param what a condition's number, or a standard space */
  async hull(what: number | StandardSpace): Promise<GamutHull> {
    const { conditions, sources } = this.#needs;
    const profile =
      typeof what === 'number'
        ? conditions.profilePath(what)
        : what === 'offset'
          ? (await sources.paths({ ...sources.chosen(), cmyk: 'offset' })).cmyk
          : what;
    return (await this.#needs.profilePool.run({ profile }, { name: 'hull' })) as GamutHull;
  }

  inkLimits(conditionId: number): InkLimits {
    const { conditions } = this.#needs;
    const limits = conditions.result(conditionId, 'total')?.limits ?? { total: conditions.get(conditionId).mode.limits.total };
    return { ...limits, amounts: conditions.curves(conditionId) };
  }

  /** Takes a profile that was made elsewhere. @throws Problem when it is no CMYK output profile */
  async importProfile(conditionId: number, bytes: Uint8Array): Promise<StepResult> {
    const { conditions, files } = this.#needs;
    conditions.get(conditionId);
    let facts;
    try {
      facts = readProfileFacts(bytes);
    } catch (error) {
      throw new Problem(422, error instanceof IccError ? error.message : 'This profile cannot be read.');
    }
    if (facts.deviceClass !== 'prtr' || facts.colourSpace !== 'CMYK')
      throw new Problem(
        422,
        `This is a profile of class ${facts.deviceClass} for ${facts.colourSpace}; a condition takes CMYK output profiles.`
      );
    const lacking = ['A2B1', 'B2A1'].filter((tag) => !facts.tags.includes(tag) && !facts.tags.includes(tag.replace('1', '0')));
    if (lacking.length > 0)
      throw new Problem(422, `The profile has no table ${lacking.join(' and ')}, so that it cannot be printed with.`);
    const hash = await files.put(bytes);
    return conditions.keep(
      conditionId,
      'profile',
      {
        hash,
        source: 'imported',
        name: facts.description,
        version: Number(facts.version[0]),
        patches: 0,
        fit: null,
        errors: {},
        findings: [],
        gamutVolume: 0,
        neutrals: [],
        black: null,
        white: null
      },
      null,
      `Profile taken from a file: ${facts.description || 'unnamed'}`
    );
  }

  async #build(subject: string, { signal, progress }: TaskContext): Promise<() => void> {
    const { charts, conditions, profilePool, files } = this.#needs;
    const choice = StepChoice.parse(JSON.parse(subject));
    if (choice.step !== 'profile') throw new Problem(422, 'Only profiles are built.');
    const chart = charts.get(choice.chartId);
    charts.mustBeOfNow(chart);
    const condition = conditions.get(chart.conditionId);
    const limits = this.inkLimits(condition.id);
    const without = new Set(choice.without);
    const read = charts.readPatches(chart).filter((patch) => !without.has(patch.id));
    const now = new Date();
    const recipe: ProfileRecipe = {
      name: `${condition.machine}, ${condition.media}, ${condition.mode.name}`.slice(0, 120),
      made: { year: now.getFullYear(), month: now.getMonth() + 1, day: now.getDate() },
      version: choice.version,
      separation: { limits, black: blackOf(choice.black) },
      forwardGrid: 17,
      backwardGrid: choice.fine ? 45 : 33,
      measured: charts.cgats(chart.id)
    };
    const shared = new SharedArrayBuffer(4);
    const watch = setInterval(() => progress(Atomics.load(new Int32Array(shared), 0) / 1000), 200);
    let built: BuiltProfile;
    try {
      built = (await profilePool.run({ read, recipe, progress: shared }, { signal, name: 'fromChart' })) as BuiltProfile;
    } finally {
      clearInterval(watch);
    }
    const hash = await files.put(built.profile);
    return () => {
      if (digest(this.inkLimits(condition.id)) !== digest(limits))
        throw new Problem(409, 'The condition was changed while its profile was built. Build it again.');
      conditions.keep(
        condition.id,
        'profile',
        {
          hash,
          source: 'measured',
          name: recipe.name,
          version: choice.version,
          patches: read.length,
          fit: built.fit,
          errors: Object.fromEntries(read.map((patch, i) => [patch.id, Math.round(built.errors[i]! * 1000) / 1000])),
          findings: built.findings,
          gamutVolume: built.gamutVolume,
          neutrals: built.neutrals,
          black: choice.black,
          white: built.white
        },
        chart.id,
        `Profile of ${read.length} patches: fits to ΔE00 ${built.fit.mean.toFixed(2)} in the mean`
      );
    };
  }

  #white(conditionId: number, measured: Parameters<typeof mediaWhite>[0]): Triple {
    try {
      return mediaWhite(measured);
    } catch {
      const { media, conditions } = this.#needs;
      return media.get(conditions.get(conditionId).mediaId).card.white ?? [95, 0, 0];
    }
  }
}

function evenLadder(ladder: Ladder, evenness: Evenness): EvenLadder {
  const { worst, each } = departure(ladder, evenness);
  return {
    name: ladder.name,
    shares: ladder.steps.map(({ share }) => share),
    values: ladder.steps.map((step) => (evenness === 'chroma' && ladder.name !== 'black' ? step.chroma : step.distance)),
    departures: each,
    worst
  };
}
