import { setTimeout } from 'node:timers/promises';
import type { z } from 'zod';
import { newHpglState, runHpgl } from '$core/cutting/hpgl';
import type { Box } from '$core/geometry/box';
import type { Point } from '$core/geometry/matrix';
import { readPrintCode } from '$core/marks/print-code';
import { Claimed, CutterJob, type Claim, type CutterRoll, type RollPlace } from '$protocol/cutter';
import { message } from '$protocol/http';
import { Eyes, isLikeCode, locate, middleOf, type Found, type Patch } from './eyes';
import { LIFT_S, LOOK_S, secondsAlong, TRAVEL_MM_S } from './motion';
import type { Roll } from './roll';

/**
 * The cutter's computer: goes along the roll, reads codes, asks the server what is cut of each print, finds the marks, and
 * cuts. What it is not told to cut it leaves alone and goes on.
 */

/** How far it looks on at once, mm. */
const LOOK_MM = 500;
/** A print begins this much before where its code says, at most. */
const SLACK = { mm: 8, share: 0.005 };
/** The roll is held by so much of it, mm. */
export const REACH_MM = 700;
const ROLL_MOVE_S = 0.4;
/** More are not told. */
const MOST_PLACES = 900;
const ASK_MS = 20_000;
const AGAIN_MS = 500;

/** How the machine is: what wears, and what can be set off at it. */
export interface Wear {
  /** Its line to the server is broken until then, ms since 1970. */
  lostUntil: number;
  /** How far the blade has gone since it was new, mm, and after how many metres it is blunt. */
  bladeMm: number;
  bluntAfterM: number;
}

/** What was refused, with the server's sentence and its one word. */
class Refused extends Error {
  readonly kind: string;
  constructor(sentence: string, kind: string) {
    super(sentence);
    this.kind = kind;
  }
}

interface Seen {
  job: CutterJob;
  /** The middle of the code that was read; none where its number was given. */
  code: Point | null;
  found: Found;
}

type Next = { print: Seen } | { unknown: { from: number; to: number; why: string; code: string | null } } | undefined;

export class Computer {
  readonly roll: Roll;
  readonly #eyes: Eyes;
  readonly #places: RollPlace[] = [];
  readonly #wear: Wear;
  readonly #pace: (seconds: number) => Promise<void>;
  #server = { url: '', key: '' };
  #state: CutterRoll['state'] = 'lies';
  #reason: string | null = null;
  #position = 0;
  /** What lies before it has been dealt with. */
  #done = 0;
  #running = false;
  #asked: 'stop' | 'skip' | undefined;
  /** Places to be cut again, and by which code. */
  readonly #again: { n: number; code: string | null }[] = [];
  /** The place that was under the knife when it was stopped. */
  #stoppedIn: number | undefined;
  readonly #given = new Map<number, string>();
  /** What was cut: by print the head's ways. */
  readonly cut: { pen: number; points: Point[] }[] = [];
  /** Where the roll is held, and where the head is. */
  #held = 0;
  #head: Point = { x: 0, y: 0 };
  /** How long all of it took. */
  seconds = 0;

  constructor(roll: Roll, wear: Wear, pace: (seconds: number) => Promise<void>) {
    this.roll = roll;
    this.#eyes = new Eyes(roll);
    this.#wear = wear;
    this.#pace = pace;
  }

  get status(): CutterRoll {
    return {
      id: this.roll.id,
      widthMm: this.roll.widthMm,
      lengthMm: this.roll.lengthMm,
      positionMm: this.#position,
      state: this.#state,
      reason: this.#reason,
      places: this.#places
    };
  }

  get isRunning(): boolean {
    return this.#running;
  }

  get linesCut(): number {
    return this.cut.length;
  }

  /** Cuts the roll to its end, or goes on. */
  start(url: string, key: string): void {
    this.#server = { url, key };
    this.#asked = undefined;
    if (this.#running) return;
    // It goes on with the print that it was stopped in, unless a person has asked for it already.
    const stopped = this.#stoppedIn;
    this.#stoppedIn = undefined;
    if (stopped !== undefined && !this.#again.some(({ n }) => n === stopped)) this.again(stopped, null);
    this.#running = true;
    this.#reason = null;
    void this.#run()
      .catch((error: unknown) => this.#stand('stopped', message(error)))
      .finally(() => (this.#running = false));
  }

  /** After the stroke that it is in: all of it, or the print under the knife. */
  ask(what: 'stop' | 'skip'): void {
    this.#asked = what;
  }

  /** A place is gone back to. @param code as a person read it, where the camera does not */
  again(n: number, code: string | null): void {
    if (!this.#places.some((place) => place.n === n)) return;
    if (code !== null) this.#given.set(n, code);
    // What was given once need not be given again.
    this.#again.push({ n, code: code ?? this.#given.get(n) ?? null });
  }

  /** A place as the camera sees it. */
  view(n: number): Box | undefined {
    const place = this.#places.find((one) => one.n === n);
    return place && { x: place.fromMm, y: 0, width: Math.max(1, place.toMm - place.fromMm), height: this.roll.widthMm };
  }

  #isStopped(): boolean {
    return this.#asked === 'stop';
  }

  #stand(state: CutterRoll['state'], reason: string | null): void {
    this.#state = state;
    this.#reason = reason;
  }

  async #run(): Promise<void> {
    for (;;) {
      if (this.#isStopped()) return this.#stand('stopped', 'It was stopped.');
      if (this.#wear.bladeMm > this.#wear.bluntAfterM * 1000)
        return this.#stand(
          'stopped',
          `The blade is blunt: it has cut ${Math.round(this.#wear.bladeMm / 1000)} m. Put in another.`
        );
      if (this.#places.length >= MOST_PLACES)
        return this.#stand('stopped', `The roll has more than ${MOST_PLACES} places. Take it out, and look at it.`);
      this.#stand('looking', null);
      const again = this.#again.shift();
      if (again) {
        const place = this.#places.find(({ n }) => n === again.n)!;
        const seen = await this.#seeAgain(place, again.code);
        await this.#deal(place, seen);
        continue;
      }
      const next = await this.#next();
      // Stopped while it looked, it has not come to the end.
      if (!next && this.#isStopped()) continue;
      if (!next) return this.#stand('done', null);
      const n = this.#places.length + 1;
      const blank = { n, task: null, name: null, isTurned: false, refused: null };
      if ('unknown' in next) {
        const { from, to, why, code } = next.unknown;
        this.#places.push({ ...blank, fromMm: from, toMm: to, code, state: 'refused', reason: why, refused: 'unread' });
        this.#moveTo(to);
        this.#done = to + 1;
        continue;
      }
      const { from, to, isTurned } = next.print.found;
      const place: RollPlace = { ...blank, fromMm: from, toMm: to, isTurned, code: next.print.job.code, state: 'looking', reason: null }; // prettier-ignore
      this.#places.push(place);
      // What goes wrong with it does not hold up the rest, and can be looked at again.
      const before = this.#done + 1;
      this.#done = Math.max(to, before);
      await this.#deal(place, next.print);
      if (place.refused !== 'broken') continue;
      // It ends where its marks do, and something else may lie behind it.
      place.toMm = Math.max(from, ...next.print.found.marks.map(({ x }) => x)) + 1;
      this.#done = Math.max(place.toMm, before);
    }
  }

  async #spend(seconds: number): Promise<void> {
    this.seconds += seconds;
    await this.#pace(seconds);
  }

  #moveTo(mm: number): void {
    this.#position = Math.max(0, Math.min(this.roll.lengthMm, mm));
  }

  /** The next print along the roll that is known by its code, or what lies before it and is not known. */
  async #next(): Promise<Next> {
    const tried = new Set<Patch>();
    const end = this.roll.lengthMm;
    let why = 'No code was read on it.';
    let wrong: string | null = null;
    for (let to = this.#done + LOOK_MM; ; to += LOOK_MM) {
      const patches = (await this.#eyes.patches(this.#done, to)).filter(({ x }) => x >= this.#done);
      const [first] = patches;
      this.#moveTo(Math.min(to, end));
      if (!first) {
        if (to >= end) return undefined;
        continue;
      }
      for (const patch of patches) {
        if (tried.has(patch) || !isLikeCode(patch)) continue;
        tried.add(patch);
        const read = await this.#eyes.read(patch);
        const code = read && readPrintCode(read.text);
        // Customers print codes too.
        if (!read || code === undefined) continue;
        const job = await this.#askFor(code).catch((error: unknown) => {
          if (!(error instanceof Refused)) throw error;
          [why, wrong] = [error.message, code];
        });
        const seen = job && (await this.#locate(job, read.at));
        if (!seen) continue;
        const before = patches.filter(({ x, width }) => x + width < seen.found.from - SLACK.mm - SLACK.share * job.lengthMm);
        if (before.length === 0) return { print: seen };
        return { unknown: { from: first.x, to: Math.max(...before.map(({ x, width }) => x + width)), why, code: wrong } };
      }
      if (to >= end) {
        const all = await this.#eyes.patches(this.#done, end);
        return { unknown: { from: first.x, to: Math.max(...all.map(({ x, width }) => x + width)), why, code: wrong } };
      }
      if (this.#isStopped()) return undefined;
    }
  }

  async #locate(job: CutterJob, code: Point): Promise<Seen | undefined> {
    const around = job.lengthMm * 1.01 + 50;
    const found = locate(job, code, await this.#eyes.patches(code.x - around, code.x + around));
    return found && { job, code, found };
  }

  /** A place that is gone back to, by a code that is read on it or was given. */
  async #seeAgain(place: RollPlace, given: string | null): Promise<Seen | undefined> {
    this.#moveTo(place.fromMm);
    const patches = await this.#eyes.patches(place.fromMm - 5, place.toMm + 5);
    try {
      if (given !== null) {
        const job = await this.#askFor(given);
        // The number is known, and not where its code is: any mark's patch may be one.
        const found = wholeOf(job, patches, place);
        return { job, code: null, found };
      }
      for (const patch of patches) {
        const read = await this.#eyes.read(patch);
        const code = read && readPrintCode(read.text);
        const seen = read && code !== undefined ? await this.#locate(await this.#askFor(code), read.at) : undefined;
        if (seen) return seen;
      }
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      Object.assign(place, { state: 'refused', reason: error.message, refused: error.kind });
      return undefined;
    }
    Object.assign(place, { state: 'refused', reason: 'No code was read on it. Give its number.', refused: 'unread' });
    return undefined;
  }

  /** Has a print's marks looked for, and cut by them. */
  async #deal(place: RollPlace, seen: Seen | undefined): Promise<void> {
    if (!seen) return;
    const { job, code, found } = seen;
    Object.assign(place, { state: 'looking', reason: null, refused: null, code: job.code, isTurned: found.isTurned });
    this.#moveTo(place.fromMm);
    // The camera was over the last mark.
    this.#head = { x: place.fromMm, y: 0 };
    const [mark] = job.marks;
    const claim: Claim = {
      sheet: `${this.roll.id}/${place.n}`,
      seen: mark ? this.#eyes.marksNear(found.marks, mark) : [],
      code
    };
    await this.#spend(LOOK_S * found.marks.length);
    let claimed: Claimed;
    try {
      claimed = await this.#ask(`${job.code}/claim`, claim, Claimed);
    } catch (error) {
      const kind = error instanceof Refused ? error.kind : 'other';
      Object.assign(place, { state: 'refused', reason: message(error), refused: kind });
      if (kind === 'other') throw error;
      return;
    }
    Object.assign(place, { state: 'cutting', task: claimed.task, name: claimed.name });
    this.#state = 'cutting';
    const { made, why } = await this.#cutStrokes(job.code, claimed);
    const told = { task: claimed.task, strokes: made };
    if (why === undefined) await this.#tell(`${job.code}/done`, told);
    else await this.#tell(`${job.code}/failed`, { ...told, reason: why });
    const isSkipped = this.#asked === 'skip';
    if (isSkipped) this.#asked = undefined;
    else if (why !== undefined && this.#isStopped()) this.#stoppedIn = place.n;
    Object.assign(place, { state: why === undefined ? 'cut' : isSkipped ? 'skipped' : 'refused', reason: why ?? null, refused: why === undefined ? null : 'failed' }); // prettier-ignore
  }

  /** Cuts stroke by stroke. @returns how many are made, and why not all */
  async #cutStrokes(code: string, { task, hpgl }: Claimed): Promise<{ made: number; why?: string }> {
    let telling = Promise.resolve();
    let isTelling = false;
    const strokes = strokesIn(hpgl);
    for (const [i, { pen, speed, points }] of strokes.entries()) {
      if (this.#asked) return { made: i, why: this.#asked === 'skip' ? 'It was skipped.' : 'It was stopped.' };
      const xs = points.map(({ x }) => x);
      const [from, to] = [Math.min(...xs), Math.max(...xs)];
      if (to > this.roll.lengthMm) return { made: i, why: `The roll ends at ${Math.round(this.roll.lengthMm)} mm.` };
      let seconds = LIFT_S + secondsAlong([this.#head, points[0]!], TRAVEL_MM_S) + secondsAlong(points, speed);
      if (from < this.#held || to > this.#held + REACH_MM) {
        this.#held = Math.max(0, from - 10);
        seconds += ROLL_MOVE_S;
      }
      await this.#spend(seconds);
      this.cut.push({ pen, points });
      this.#wear.bladeMm += points.slice(1).reduce((sum, p, k) => sum + Math.hypot(p.x - points[k]!.x, p.y - points[k]!.y), 0);
      this.#head = points[points.length - 1]!;
      this.#moveTo(this.#head.x);
      // One that the server has not heard of is told with the next.
      if (isTelling || i + 1 === strokes.length) continue;
      isTelling = true;
      telling = this.#ask(`${code}/progress`, { task, strokes: i + 1 })
        .catch(() => undefined)
        .then(() => void (isTelling = false));
    }
    await telling;
    return { made: strokes.length };
  }

  #askFor(code: string): Promise<CutterJob> {
    return this.#ask(code, undefined, CutterJob);
  }

  /** Again and again, until the server has heard it. */
  async #tell(path: string, body: object): Promise<void> {
    for (;;) {
      try {
        await this.#ask(path, body);
        return;
      } catch (error) {
        if (error instanceof Refused) return;
        await setTimeout(AGAIN_MS);
      }
    }
  }

  /** @throws Refused with the server's sentence; Error where there is no answer for long */
  async #ask<S extends z.ZodType>(path: string, body?: object, schema?: S): Promise<z.output<S>> {
    for (let tries = 0; ; tries++) {
      try {
        if (Date.now() < this.#wear.lostUntil) throw new Error('The line is broken.');
        const reply = await fetch(`${this.#server.url}/api/cutter/${path}`, {
          method: body ? 'POST' : 'GET',
          headers: { authorization: `Bearer ${this.#server.key}`, ...(body && { 'content-type': 'application/json' }) },
          signal: AbortSignal.timeout(ASK_MS),
          ...(body && { body: JSON.stringify(body) })
        });
        const value = (await reply.json()) as { error?: string; fields?: Record<string, string> };
        if (!reply.ok) throw new Refused(value.error ?? 'The server refused.', value.fields?.['refused'] ?? 'other');
        return (schema?.parse(value) ?? value) as z.output<S>;
      } catch (error) {
        if (error instanceof Refused) throw error;
        if (tries * AGAIN_MS > 60_000) throw new Error(`The server does not answer: ${message(error)}`, { cause: error });
        await setTimeout(AGAIN_MS);
      }
    }
  }
}

/** Where a print lies whose number was given: its marks are anywhere on its part of the roll. */
function wholeOf(job: CutterJob, patches: readonly Patch[], place: RollPlace): Found {
  const [{ diameter } = { diameter: 0 }] = job.marks;
  const isLikeMark = ({ width, height }: Patch) =>
    Math.abs(width - diameter) < 0.35 * diameter && Math.abs(height - diameter) < 0.35 * diameter;
  return { from: place.fromMm, to: place.toMm, isTurned: false, marks: patches.filter(isLikeMark).map(middleOf) };
}

/** What the head does, from where it is lowered to where it is lifted. */
function strokesIn(hpgl: string): { pen: number; speed: number; points: Point[] }[] {
  const state = newHpglState();
  const speeds: number[] = [];
  for (const instruction of hpgl.split(';')) {
    runHpgl(state, instruction);
    while (speeds.length < state.lines.length) speeds.push(state.speed * 10);
  }
  return state.lines.map((points, i) => ({ points, pen: state.pens[i] ?? 0, speed: speeds[i] ?? 0 }));
}
