import { setTimeout } from 'node:timers/promises';
import type { Logger } from 'pino';
import { roleOf, toolOf } from '$core/artwork/roles';
import type { CheckInput } from '$core/checks/check';
import { checkArtwork, checkLines } from '$core/checks/check-docket';
import { jigLook } from '$lib/jig-look';
import { wallLook } from '$lib/panels';
import { usableWidth } from '$lib/usable-width';
import type { Conditions } from '../conditions/conditions';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { sentence } from '../platform/problem';
import type { Settings } from '../platform/settings';
import type { Dockets } from './dockets';
import type { PreparedDockets } from './prepared-dockets';
import type { Jigs } from '../machines/jigs';
import type { Machines } from '../machines/machines';

const LOOK_EVERY_MS = 500;
const AT_ONCE = 50;
/** After so much work it rests as long, so that whoever asks is answered. */
const AT_A_TIME_MS = 5;
/** Lists are told of what was found so often while much is looked at. */
const TELL_EVERY_MS = 2000;
/** Lines of more nodes are looked at on the docket alone. */
const MOST_NODES = 2000;
const LEVELS = { fine: 0, look: 1, stop: 2 };

interface Needs {
  db: Db;
  events: Events;
  log: Logger;
  settings: Settings;
  conditions: Conditions;
  dockets: Dockets;
  preparedDockets: PreparedDockets;
  machines: Machines;
  jigs: Jigs;
}

/** Looks at dockets of the open list that changed, and keeps the worst that is found without drawing them, for lists to be sorted by. */
export class DocketChecking {
  readonly #needs: Needs;
  readonly #widths = new Map<string, number>();
  #timer: NodeJS.Timeout | undefined;
  #looking = false;
  #stopped = false;

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('settings changed', ({ before, after }) => {
      if (JSON.stringify([before.limits, before.rules, before.unit]) !== JSON.stringify([after.limits, after.rules, after.unit]))
        needs.db.prepare('UPDATE docket SET worst = NULL WHERE away = 0').run();
    });
    needs.events.on('condition changed', (id) =>
      needs.db.prepare('UPDATE docket SET worst = NULL WHERE away = 0 AND condition_id = ?').run(id)
    );
    needs.events.on('jig changed', (id) =>
      needs.db
        .prepare(
          `UPDATE docket SET worst = NULL WHERE away = 0 AND (choices ->> '$.jig.id' = @id
             OR run_id IN (SELECT id FROM run WHERE state != 'printed' AND rule ->> '$.jig' = @id))`
        )
        .run({ id })
    );
    needs.events.on('media seen', ({ name, widthMm }) => this.#saw(name, widthMm));
  }

  start(): void {
    this.#timer = setInterval(() => this.#begin(), LOOK_EVERY_MS);
  }

  stop(): void {
    this.#stopped = true;
    clearInterval(this.#timer);
  }

  /** Dockets may be too wide for another roll of their media. */
  #saw(name: string, widthMm: number): void {
    const before = this.#widths.get(name);
    this.#widths.set(name, widthMm);
    if (before === undefined || before === widthMm) return;
    this.#needs.db
      .prepare(
        `UPDATE docket SET worst = NULL WHERE away = 0 AND condition_id IN (
           SELECT c.id FROM condition c JOIN media m ON m.id = c.media_id WHERE m.name = ?)`
      )
      .run(name);
  }

  #begin(): void {
    if (this.#looking || this.#stopped) return;
    this.#looking = true;
    this.#look()
      .catch((error: unknown) => {
        // A server that stops has closed its database.
        if (!this.#stopped) this.#needs.log.error({ error: sentence(error) }, 'dockets were not looked at');
      })
      .finally(() => (this.#looking = false));
  }

  async #look(): Promise<void> {
    const { db, events } = this.#needs;
    const next = db
      .prepare<[], number>(`SELECT id FROM docket WHERE worst IS NULL AND away = 0 ORDER BY id DESC LIMIT ${AT_ONCE}`)
      .pluck();
    let toldAt = performance.now();
    /** Looked at, and not told yet: a screen of one docket is left alone by what is found on others. */
    let untold: number[] = [];
    const tell = () => {
      if (untold.length > 0) events.changed('dockets', untold);
      untold = [];
      toldAt = performance.now();
    };
    for (let ids = next.all(); ids.length > 0 && !this.#stopped; ids = next.all()) {
      const began = performance.now();
      const found: [number, number][] = [];
      for (const id of ids) {
        found.push([id, LEVELS[this.worst(id).level]]);
        if (performance.now() - began > AT_A_TIME_MS) break;
      }
      this.#keep(found);
      untold.push(...found.map(([id]) => id));
      if (performance.now() - toldAt > TELL_EVERY_MS) tell();
      await setTimeout(performance.now() - began);
    }
    if (!this.#stopped) tell();
  }

  /** Without waiting for the disk: what a power cut takes back is looked at once more. */
  #keep(found: readonly [id: number, worst: number][]): void {
    const { db } = this.#needs;
    const put = db.prepare('UPDATE docket SET worst = ? WHERE id = ?');
    db.pragma('synchronous = NORMAL');
    try {
      db.transaction(() => found.forEach(([id, worst]) => put.run(worst, id)))();
    } finally {
      db.pragma('synchronous = FULL');
    }
  }

  /** The worst that is found on a docket without drawing it, with its sentence. */
  worst(id: number): { level: keyof typeof LEVELS; sentence: string } {
    const { conditions, dockets, jigs, machines, settings, log, preparedDockets } = this.#needs;
    try {
      const docket = dockets.get(id);
      const { choices, artwork } = docket;
      const { lines, preparation, finished, stack, marks } = preparedDockets.get(docket);
      const { rules, limits, unit } = settings.current;
      const condition = choices.conditionId === null ? undefined : conditions.get(choices.conditionId);
      const wall = choices.wall ? wallLook(choices, condition, machines.list()) : undefined;
      const input: CheckInput = {
        unit,
        page: artwork.facts,
        choices,
        preparation,
        rules,
        limits,
        lines: finished,
        customerLines: lines.filter((line) => toolOf(line, (name) => roleOf(name, rules, choices.roles))).length,
        fontsNotEmbedded: artwork.fontsNotEmbedded,
        findings: artwork.findings,
        mayTurn: choices.mayTurn,
        intent: choices.intent,
        records: choices.records,
        stack,
        marks,
        pages: artwork.pages,
        ...(wall && { wall }),
        jig: jigLook(choices, docket.runJig, (id) => jigs.line(id), condition),
        ...(condition && {
          usableMm: usableWidth(choices, condition.rollWidthMm),
          dpi: condition.mode.dpi,
          press: condition.press,
          drift: condition.watch.read
        })
      };
      const nodes = finished.reduce((sum, line) => sum + line.outline.length, 0);
      const checks = [...checkArtwork(input), ...(nodes <= MOST_NODES ? checkLines(input) : [])];
      return checks.reduce<{ level: keyof typeof LEVELS; sentence: string }>(
        (worst, check) => (LEVELS[check.level] > LEVELS[worst.level] ? check : worst),
        { level: 'fine', sentence: '' }
      );
    } catch (error) {
      // Its artwork is being read anew, or it is gone: it is looked at again when it changes.
      log.info({ docket: id, error: sentence(error) }, 'a docket was not looked at');
      return { level: 'look', sentence: sentence(error) };
    }
  }
}
