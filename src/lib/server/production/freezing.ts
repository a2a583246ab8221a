import { areCutByRecord } from '$core/records/choices';
import { createHash } from 'node:crypto';
import { evenSides, reachTo } from '$core/geometry/box';
import { missingPages } from '$core/artwork/docket-stack';
import type { Tool } from '$core/artwork/roles';
import { polylinePath, transformPath, type Path } from '$core/geometry/path';
import { isPlain, layersTogether, marginMm, type LaidLayer } from '$core/inks/stack';
import { printCode, type CodePlaces } from '$core/marks/print-code';
import { printedCode } from '$core/marks/printed-code';
import type { MarkRule } from '$core/marks/registration';
import type { Amounts } from '$core/marks/print-list';
import { codeGround, markGround, seenOn, whiteUnder } from '$core/marks/white-grounds';
import { cannotLay } from '$core/media/press';
import { isJig, type Part } from '$core/layout/placement';
import { pieceKey, pieceOf } from '$core/layout/pieces';
import type { RunPiece } from '$core/layout/run-piece';
import { dressPart, NO_STRAIGHT_CUTS, ripPieces, trimsOf, type PiecePage } from '$core/layout/run-layout';
import { whiteEnds } from '$core/layout/white-ends';
import { pieceToRun, type RipPlan } from '$core/rip/plan';
import { dayOf } from '../platform/days';
import { FROZEN_VERSION, type FrozenRun } from './frozen-run';
import { digest, digestOnce } from '../platform/digest';
import { Problem } from '../platform/problem';
import type { Run } from './run';
import type { Artworks } from '../artwork/artworks';
import type { Conditions } from '../conditions/conditions';
import type { Docket } from '../dockets/dockets';
import type { PreparedDockets } from '../dockets/prepared-dockets';
import type { NamedColours } from '../conditions/named-colours';
import type { SourceProfiles } from '../conditions/source-profiles';
import type { LayoutRequest } from './workers/layout';

/** From a run as it is laid out to all that its plates and cuts depend on, as plain data. */

/** What it works with. */
interface Needs {
  artworks: Artworks;
  conditions: Conditions;
  colours: NamedColours;
  preparedDockets: PreparedDockets;
  sources: SourceProfiles;
}

/** What the layout of a run depends on: not on which record a copy is. */
export function layoutRequest(run: Pick<Run, 'stock' | 'rule' | 'laid' | 'pins'>): LayoutRequest {
  const pieces = run.laid.map((piece) => (piece.records ? { ...piece, records: undefined, order: undefined } : piece));
  return { stock: run.stock, rule: run.rule, pieces, pins: run.pins };
}

/** What a part of a run is printed of. */
interface PartOfRun {
  used: readonly RunPiece[];
  pages: ReadonlyMap<string, PiecePage>;
  layers: LaidLayer[];
  /** What marks for people are printed in. */
  inkOf: ReturnType<typeof seenOn>;
}

/** By piece the records that have a page, in the order of the pages. */
export type RecordsByPiece = ReadonlyMap<string, readonly number[]>;

/** Freezes runs: from what is laid out to all that plates and cuts depend on, as plain data. */
export class Freezing {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** By piece: where the pages of a run's dockets come from, how they are prepared, and the layers that they are printed in. */
  #pagesOf(run: Run, records: RecordsByPiece = new Map()): { pages: Map<string, PiecePage>; layers: LaidLayer[] } {
    return this.pagesOf(run.dockets, run.condition.id, records);
  }

  /** The same of dockets that are in no run yet. */
  pagesOf(
    all: readonly Docket[],
    conditionId: number,
    records: RecordsByPiece = new Map()
  ): { pages: Map<string, PiecePage>; layers: LaidLayer[] } {
    const { artworks, colours, preparedDockets, sources } = this.#needs;
    const inked = colours.onCondition(conditionId);
    const prepared = all.map((docket) => preparedDockets.get(docket));
    const { layers, places } = layersTogether(prepared.map(({ stack }) => stack));
    const pages = all.map((docket, i): [string, PiecePage] => {
      const { preparation, stack, layers: own, marks } = prepared[i]!;
      const [bleed, margin] = [evenSides(docket.choices.bleedMm), evenSides(marginMm(stack.layers))];
      // What no layer asks for is not drawn.
      const used = Object.entries(marks).filter(([ink]) =>
        stack.layers.some((one) => one.ink === ink && one.cover.is === 'marked')
      );
      const id = pieceKey({ docket: String(docket.id), piece: 0 });
      const recorded = records.get(id);
      return [
        id,
        {
          ...(recorded && { records: recorded }),
          ...(reachTo(bleed, margin) ? {} : { colourBleed: bleed }),
          file: artworks.get(docket.artworkId).pdfHash ?? '',
          page: docket.page,
          prepare: inked(preparation),
          sources: sources.chosen(docket.choices.sources, docket.artwork.outputIntent),
          ...(!isPlain(stack) && {
            stack: {
              layers: own.map(({ own: other, ...layer }, k) => ({
                ...layer,
                ...(other && { own: { ...other, prepare: inked(other.prepare) } }),
                place: places[i]![k]!
              })),
              marks: Object.fromEntries(used)
            }
          })
        }
      ];
    });
    return { pages: new Map(pages), layers };
  }

  /**
   * Whether a run's machine can lay down what its dockets are printed in.
   *
   * @throws Problem with what it lacks: nothing is left out without a word
   */
  #checkPress(run: Run, layers: readonly LaidLayer[]): void {
    this.#checkPages(run.dockets);
    const why = cannotLay(layers, run.condition.press);
    if (why) throw new Problem(422, `${why} Take dockets of this run to another lane, or change their layers.`);
  }

  /** @throws Problem for a layer of a page that its file does not have */
  #checkPages(all: readonly Docket[]): void {
    for (const docket of all) {
      const [page] = missingPages(this.#needs.preparedDockets.layers(docket).stack.layers, docket.artwork.pages.count);
      if (page !== undefined)
        throw new Problem(
          422,
          `A layer of colour of ${docket.name} shows page ${page + 1}, and its file has ${docket.artwork.pages.count}. Choose another page for it on its docket.`
        );
    }
  }

  /**
   * The records of a run, docket by docket: those of all its parts, each once, in the order of their places. They are
   * drawn before the RIP: the page of a record is its place here.
   *
   * @param parts with the record that each copy is
   */
  records(run: Run, parts: readonly Pick<Part, 'copies'>[]): RecordsByPiece {
    const all = new Map<string, number[]>();
    for (const { id, records } of run.laid) {
      if (!records) continue;
      const placed = parts.flatMap(({ copies }) => copies.flatMap((copy) => (copy.id === id ? [copy.record!] : [])));
      if (placed.length > 0) all.set(id, [...new Set(placed)]);
    }
    return all;
  }

  /** What named colours follow beside the limit of all ink. */
  #pairs(conditionId: number): NonNullable<FrozenRun['pairs']> {
    const { red, green, blue } = this.#needs.conditions.inkLimits(conditionId);
    return { red, green, blue };
  }

  /** Tells whether what a run was RIPped from has changed since. */
  planKey(run: Run): string {
    const { conditions, preparedDockets } = this.#needs;
    const { curves, mixture, profileHash } = conditions.colour(run.condition.id);
    const held = new Set(run.entries.filter((entry) => entry.held).map((entry) => entry.docketId));
    const lines = run.dockets
      .filter((docket) => docket.choices.cut && !docket.choices.wall && !held.has(docket.id))
      .map((docket) => preparedDockets.get(docket).finished.map(({ tool, path }) => [tool, path]));
    const { pages: all, layers } = this.#pagesOf(run);
    const pages = [...all].filter(([id]) => !held.has(Number(pieceOf(id).docket)));
    const { mode, totalInk } = run.condition;
    // Plates of before were told by this too.
    const inks = conditions.inks(run.condition.id).map(({ shift, ...ink }) => ({ ...ink, costPerMl: null, shift }));
    // Runs of colour alone are told by what they always were.
    const stacked = layers.length > 1 || layers[0]?.ink !== 'colour' ? [layers] : [];
    const recorded = run.laid.flatMap(({ docket, records, order }) => {
      const choices = run.dockets.find(({ id }) => String(id) === docket)?.choices.records;
      if (!records || !choices) return [];
      const { table, fields, chosen, overrides, pictures } = choices;
      const lists = preparedDockets.lists(choices);
      return [
        [
          records,
          order,
          table?.hash,
          fields,
          chosen,
          overrides,
          ...(pictures ? [pictures.hash] : []),
          ...(lists.length > 0 ? [lists] : [])
        ]
      ];
    });
    const pairs = pages.some(([, { prepare }]) => prepare.named) ? [this.#pairs(run.condition.id)] : [];
    const mixes = mixture ? [digestOnce(mixture)] : [];
    const colour = [curves, ...mixes, profileHash];
    const what = [layoutRequest(run), pages, ...pairs, ...stacked, lines, ...colour, mode, totalInk, inks, ...recorded];
    return digest(what);
  }

  /** One part of a layout as the RIP and the cutter need it. @throws Problem when something is missing for it */
  freeze(run: Run, part: Part, records: RecordsByPiece): FrozenRun {
    const { conditions } = this.#needs;
    const used = run.laid.filter((piece) => part.copies.some((copy) => copy.id === piece.id));
    // What lies in a jig has its shape.
    const isCut = !isJig(run.stock);
    const isTrimmed = isCut && run.rule.cutAlong === 'pieces';
    if (isCut && !isTrimmed) this.#mustHaveLines(run, used);
    const { pages, layers } = this.#pagesOf(run, records);
    this.#checkPress(run, layers);
    const inkOf = seenOn(conditions.inks(run.condition.id), layers, run.condition.press);
    const { plan, places } = this.#plan(run, part, { used, pages, layers, inkOf });
    const cuts = isTrimmed ? trims(part, run) : isCut ? this.#cuts(run, part, used, plan) : [];
    const drawn = this.#toDraw(run, part, plan, records, isCut && !isTrimmed);
    const { curves, mixture, profileHash } = conditions.colour(run.condition.id);
    const frozen: FrozenRun = {
      version: FROZEN_VERSION,
      plan,
      cuts,
      ...(isTrimmed && { inOrder: true }),
      method: run.rule.method,
      profile: profileHash,
      curves,
      ...(mixture && { mixture }),
      pairs: this.#pairs(run.condition.id),
      ...(drawn.length > 0 && { toDraw: drawn })
    };
    return places.codes.length > 0
      ? withCode(frozen, run.id, places, inkOf('black'), this.cutKey(run), run.rule.marks.code)
      : frozen;
  }

  /** @throws Problem where a docket of a part is to be cut, and has nothing to be cut along */
  #mustHaveLines({ dockets }: Run, used: readonly RunPiece[]): void {
    const unmade = dockets.find(
      (docket) =>
        docket.choices.cut &&
        !docket.choices.wall &&
        used.some((piece) => piece.docket === String(docket.id)) &&
        this.#needs.preparedDockets.get(docket).finished.length === 0 &&
        !areCutByRecord(docket.choices.records)
    );
    if (unmade)
      throw new Problem(
        422,
        `${unmade.name} is to be cut, and has no cut line. Give it one on its docket, or switch cutting off.`
      );
  }

  /** What a part prints, and where its code stands. */
  #plan(run: Run, part: Part, { used, pages, layers, inkOf }: PartOfRun): { plan: RipPlan; places: CodePlaces } {
    const { conditions } = this.#needs;
    const { stock, rule, condition } = run;
    const inks = conditions.inks(condition.id);
    const { sources, pieces } = ripPieces(part.copies, rule, used, pages, stock);
    const { code: places, ...dress } = dressPart(
      part,
      stock,
      rule,
      // The day of the RIP is in the caption; it makes no plates old.
      run.laid.map((piece) => ({ ...piece, caption: `${piece.caption} · ${dayOf(new Date())}` })),
      inkOf
    );
    const grounds = [...dress.marks.map(markGround), ...places.codes.map(codeGround)];
    const plan: RipPlan = {
      widthMm: stock.width,
      lengthMm: part.length,
      dpi: { x: condition.mode.dpi, y: condition.mode.dpi },
      inks,
      layers,
      totalInk: condition.totalInk,
      sources,
      pieces,
      ...dress,
      flats: [...whiteUnder(grounds, inks, layers, condition.press), ...dress.flats, ...whiteEnds(used, part, inks, layers)]
    };
    return { plan, places };
  }

  /** The lines that a part is cut along, where they lie on it. */
  #cuts(run: Run, part: Part, used: readonly RunPiece[], plan: RipPlan): FrozenRun['cuts'] {
    const byId = new Map(used.map((piece) => [piece.id, piece]));
    const finished = new Map(run.dockets.map((docket) => [String(docket.id), this.#needs.preparedDockets.get(docket).finished]));
    /** A panel is cut along its own edges, where its docket is to be cut. */
    const linesOf = (id: string): { tool: Tool; path: Path }[] => {
      const { panel, cut, docket } = byId.get(id)!;
      if (!panel) return finished.get(docket) ?? [];
      return cut ? panel.lines.map((path) => ({ tool: 'through cut', path })) : [];
    };
    return part.copies.flatMap((copy, i) => {
      const placed = plan.pieces[i];
      if (!placed) return [];
      const place = pieceToRun(plan, placed);
      const { docket, piece } = pieceOf(copy.id);
      return linesOf(copy.id).map(({ tool, path }) => ({
        docket,
        piece: copy.record ?? piece,
        copy: copy.copy,
        tool,
        path: transformPath(path, place)
      }));
    });
  }

  /** The records of a part that are drawn before its RIP. @param isCut along lines of its own */
  #toDraw(run: Run, part: Part, plan: RipPlan, drawn: RecordsByPiece, isCut: boolean): NonNullable<FrozenRun['toDraw']> {
    const { dpi } = run.condition.mode;
    return [...drawn].flatMap(([id, records]) => {
      // One piece is several sources where pockets cut it off otherwise.
      const sources = [...new Set(part.copies.flatMap((copy, i) => (copy.id === id ? [plan.pieces[i]!.source] : [])))];
      if (sources.length === 0) return [];
      const { docket } = pieceOf(id);
      const { choices } = run.dockets.find((one) => String(one.id) === docket)!;
      const { widthMm, heightMm, records: of } = choices;
      const { scale } = run.laid.find((piece) => piece.id === id)!;
      const lists = this.#needs.preparedDockets.lists(of);
      const recordsOf = { choices: { widthMm, heightMm, records: of }, dpi, lists, scale };
      const cut = part.copies.flatMap(({ id: of, copy, record }, index) =>
        of === id && record !== undefined ? [{ index, docket, record, copy }] : []
      );
      const isCutByRecord = isCut && choices.cut && areCutByRecord(of);
      return [{ sources, of: recordsOf, records: [...records], ...(isCutByRecord && { cut }) }];
    });
  }

  /** Tells whether the dockets of a run are others since, as far as one who cuts its prints must know: size, page and lines. */
  cutKey({ dockets: all }: Pick<Run, 'dockets'>): string {
    const what = all.map((docket) => {
      const { widthMm, heightMm, turn, mirror, cut, wall } = docket.choices;
      const lines = this.#needs.preparedDockets.get(docket).finished.map(({ tool, path }) => [tool, path]);
      const panels = wall ? [{ ...wall, photo: null, spared: [] }] : [];
      return [docket.id, docket.artworkId, docket.page, widthMm, heightMm, turn, mirror, cut, lines, ...panels];
    });
    return digest(what);
  }
}

/** Straight cuts along the pieces of a part. @throws Problem where there are none */
function trims(part: Part, { laid }: Run): FrozenRun['cuts'] {
  const cuts = trimsOf(part, laid);
  if (!cuts) throw new Problem(422, NO_STRAIGHT_CUTS);
  return cuts.map(({ from, to }, copy) => ({
    docket: '',
    piece: 0,
    copy,
    tool: 'through cut',
    path: polylinePath({ points: [from, to], closed: false })
  }));
}

/** Plates that will be cut carry a code of their own: others, though of the same run, have another. */
function withCode(
  frozen: FrozenRun,
  runId: number,
  places: CodePlaces,
  inks: Amounts,
  of: string,
  kind: MarkRule['code']
): FrozenRun {
  const text = printCode(
    createHash('sha256')
      .update(JSON.stringify([runId, frozen]))
      .digest()
  );
  const { flats, letters } = printedCode(text, places, inks, kind);
  const { plan } = frozen;
  return {
    ...frozen,
    plan: { ...plan, flats: [...(plan.flats ?? []), ...flats], letters: [...(plan.letters ?? []), ...letters] },
    code: { text, boxes: places.codes, of }
  };
}
