import type { DocketDocument } from '$lib/docket-choices';
import type { Docket } from '$lib/server/dockets/dockets';
import { isAway, send, SERVER_AWAY } from '$lib/ui/common/client';
import { touched } from '../common/touched';
import { changesBetween, flat, merge, withField, type Change } from './changes';

/** Typing pauses this long before it is saved; edits nearer than the second are one step back. */
const SAVE_AFTER_MS = 200;
const ONE_STEP_MS = 800;
const RETRY_MS = 2000;

/** What another window did meanwhile. */
export interface OtherWindow {
  changes: Change[];
  /** Fields that both changed: theirs stays until mine is asked for. */
  lost: { change: Change; mine: unknown }[];
}

export const documentOf = ({ artworkId, page, name, customer, dueOn, note, priority, choices }: Docket): DocketDocument => ({
  artworkId,
  page,
  name,
  customer,
  dueOn,
  note,
  priority,
  choices
});

/** A state that is saved; one that joins is no step of its own. */
interface Step {
  document: DocketDocument;
  joins: boolean;
}

/** What was typed since a state of a docket, over what the server has now: what was typed last counts. */
function typedOver(since: DocketDocument, typed: DocketDocument, now: DocketDocument): DocketDocument {
  const { merged, lost } = merge(since, typed, now);
  const mine = flat(typed);
  return lost.reduce((document, { key }) => withField(document, key, mine[key]), merged);
}

/** A docket that saves itself. The steps back are the server's, so that they outlive a reload. */
export class DocketEdits {
  current = $state.raw() as DocketDocument;
  /** As the server has it, with what of it cannot be changed here. */
  docket = $state.raw() as Docket;
  saving = $state(false);
  unsaved = $state(false);
  away = $state('');
  refused = $state('');
  other = $state.raw<OtherWindow | null>(null);
  #timer: ReturnType<typeof setTimeout> | undefined;
  #busy: Promise<void> = Promise.resolve();
  /** What the server has been asked to do, and has not done yet. */
  #turns = 0;
  /** What the page was told while something was on its way. */
  #news: Docket | undefined;
  #refusals = 0;
  #lastEdit = 0;
  #lastPlaces = '';
  /** Steps before what is typed now that wait to be saved too. */
  #earlier: Step[] = [];
  /** What is typed now is a step of its own; more of the same then joins it. */
  #newStep = true;

  constructor(docket: Docket) {
    this.docket = docket;
    this.current = documentOf(docket);
  }

  get canUndo(): boolean {
    return this.docket.canUndo || this.unsaved;
  }

  get canRedo(): boolean {
    return this.docket.canRedo && !this.unsaved;
  }

  change(next: DocketDocument): void {
    const now = Date.now();
    const places = touched(this.current, next).join();
    if (places !== this.#lastPlaces || now - this.#lastEdit > ONE_STEP_MS) {
      // What was typed elsewhere is a step of its own, even while it still waits to be saved.
      if (this.unsaved) this.#earlier.push({ document: this.current, joins: !this.#newStep });
      this.#newStep = true;
    }
    this.#lastEdit = now;
    this.#lastPlaces = places;
    this.current = next;
    this.unsaved = true;
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.#queue(), SAVE_AFTER_MS);
  }

  step(by: -1 | 1): Promise<void> {
    return this.byServer((docket) => send<Docket>('POST', `/api/dockets/${docket.id}/step`, { version: docket.version, by }));
  }

  /**
   * Has the server change the docket in a way of its own, after all is saved and what was asked for before is done. News of the
   * change may be here before the answer: it is this window's.
   */
  byServer(action: (docket: Docket) => Promise<Docket>): Promise<void> {
    clearTimeout(this.#timer);
    // What is typed from now on comes after it.
    const before = this.#taken();
    this.#lastPlaces = '';
    this.#turns++;
    const turn = this.#busy
      .then(() => this.#save(before))
      .then(() => this.#act(action))
      .finally(() => {
        this.#turns--;
        this.#hear();
      });
    this.#busy = turn.catch(() => undefined);
    return turn;
  }

  async #act(action: (docket: Docket) => Promise<Docket>): Promise<void> {
    if (this.unsaved && this.away) throw new Error(this.away);
    this.saving = true;
    try {
      const base = documentOf(this.docket);
      const changed = await action(this.docket);
      const typed = this.unsaved ? this.current : undefined;
      this.#settle(changed);
      // What was typed since it was asked for stays, as one step.
      if (typed) this.current = typedOver(base, typed, this.current);
      this.#earlier = [];
    } finally {
      this.saving = false;
    }
  }

  /** Takes what the server has. Something newer of another window is told; what is not saved here is kept. */
  adopt(docket: Docket): void {
    if (docket.id !== this.docket.id) return;
    if (this.#turns > 0 || this.saving) this.#news = docket;
    else if (docket.version > this.docket.version) {
      if (this.unsaved) void this.flush();
      else {
        const changes = changesBetween(documentOf(this.docket), documentOf(docket));
        if (changes.length > 0) this.other = { changes, lost: [] };
        this.#settle(docket);
      }
    } else if (docket.version === this.docket.version && !this.unsaved) this.docket = docket;
  }

  /** Takes what came while something was on its way. */
  #hear(): void {
    const news = this.#news;
    if (!news || this.#turns > 0 || this.saving) return;
    this.#news = undefined;
    this.adopt(news);
  }

  useMine(): void {
    const lost = this.other?.lost ?? [];
    this.change(lost.reduce((document, { change, mine }) => withField(document, change.key, mine), this.current));
    this.other = null;
  }

  /** For a page that is being closed: saves at once, and has the browser ask while something is not saved. */
  holdPage(event: BeforeUnloadEvent): void {
    if (!this.unsaved && !this.saving) return;
    void this.flush();
    event.preventDefault();
  }

  /** Saves what waits at once. @returns whether all was taken: nothing was refused meanwhile, and the server is there */
  async flush(): Promise<boolean> {
    const before = this.#refusals;
    clearTimeout(this.#timer);
    if (this.unsaved) this.#queue();
    // What comes of bringing it together with another window's is saved after it.
    for (let busy; busy !== this.#busy;) await (busy = this.#busy);
    return !this.unsaved && this.#refusals === before;
  }

  #refuse(sentence: string): void {
    this.refused = sentence;
    this.#refusals++;
  }

  #settle(docket: Docket): void {
    this.docket = docket;
    this.current = documentOf(docket);
  }

  #queue(): void {
    this.#busy = this.#busy.then(() => this.#save());
  }

  /** The steps that wait to be saved; they wait no more. */
  #taken(): Step[] {
    if (!this.unsaved) return [];
    const steps = [...this.#earlier, { document: this.current, joins: !this.#newStep }];
    this.#earlier = [];
    this.#newStep = false;
    this.unsaved = false;
    return steps;
  }

  async #save(steps: readonly Step[] = this.#taken()): Promise<void> {
    if (steps.length === 0) return;
    this.saving = true;
    // The same refused twice is told twice.
    this.refused = '';
    for (const [i, { document, joins }] of steps.entries()) {
      try {
        const { id, version } = this.docket;
        this.docket = await send<Docket>('PUT', `/api/dockets/${id}`, { version, joins, ...document });
        this.away = '';
      } catch (error) {
        const sentence = error instanceof Error ? error.message : String(error);
        if (isAway(error) || !(await this.#bringTogether(sentence, document))) {
          // The server is away, or went before it told what is newer: the edit is kept here and tried again.
          this.away = isAway(error) ? sentence : SERVER_AWAY;
          this.#earlier = [...steps.slice(i, -1), ...this.#earlier];
          this.#newStep ||= i < steps.length - 1 || !joins;
          this.unsaved = true;
          clearTimeout(this.#timer);
          this.#timer = setTimeout(() => this.#queue(), RETRY_MS);
        }
        break;
      }
    }
    this.saving = false;
    this.#hear();
  }

  /**
   * The server refused what was sent: another window was first, a figure is not allowed, or the docket is gone.
   *
   * @returns whether it is known now what the server has
   */
  async #bringTogether(sentence: string, refused: DocketDocument): Promise<boolean> {
    let newest: Docket;
    try {
      newest = await send<Docket>('GET', `/api/dockets/${this.docket.id}`);
    } catch (error) {
      if (isAway(error)) return false;
      this.away = '';
      this.#refuse(sentence);
      return true;
    }
    this.away = '';
    // Steps of before hold what was refused, or lack what another window did: what is typed now has them all.
    this.#earlier = [];
    this.#newStep = true;
    if (newest.version === this.docket.version) {
      this.#refuse(sentence);
      this.docket = newest;
      if (!(await this.#eachForItself(refused))) return false;
      const typed = this.current;
      this.#settle(this.docket);
      // What was typed since stays, what was refused does not.
      this.current = typedOver(refused, typed, this.current);
      this.unsaved = changesBetween(documentOf(this.docket), this.current).length > 0;
      if (this.unsaved) this.#queue();
      return true;
    }
    // With what was typed since the save was sent.
    const sent = this.current;
    const base = documentOf(this.docket);
    const theirs = documentOf(newest);
    const { merged, lost } = merge(base, sent, theirs);
    const mine = flat(sent);
    this.other = { changes: changesBetween(base, theirs), lost: lost.map((change) => ({ change, mine: mine[change.key] })) };
    this.docket = newest;
    this.current = merged;
    if (changesBetween(theirs, merged).length > 0) {
      this.unsaved = true;
      this.#queue();
    }
    return true;
  }

  /** Of what was refused together each is sent for itself: one figure that is not allowed keeps no other. @returns whether the server was there */
  async #eachForItself(refused: DocketDocument): Promise<boolean> {
    const address = `/api/dockets/${this.docket.id}`;
    const keys = changesBetween(documentOf(this.docket), refused).map(({ key }) => key);
    let joins = false;
    // What came alone was refused just now.
    for (const waiting = keys.length > 1 ? keys : []; waiting.length > 0;) {
      const key = waiting[0]!;
      const { version } = this.docket;
      const document = withField(documentOf(this.docket), key, flat(refused)[key]);
      try {
        this.docket = await send<Docket>('PUT', address, { version, joins, ...document });
        joins = true;
      } catch (error) {
        const newest = isAway(error) ? undefined : await send<Docket>('GET', address).catch(() => undefined);
        if (!newest) return false;
        this.docket = newest;
        // Another window was first: it is sent again over what that did.
        if (newest.version !== version) continue;
        this.#refuse(error instanceof Error ? error.message : String(error));
      }
      waiting.shift();
    }
    return true;
  }
}
