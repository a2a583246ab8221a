import { readFile } from 'node:fs/promises';
import type { Field } from '$core/cutting/trace-outline';
import { flatten } from '$core/geometry/path';
import type { Detail } from '$core/panels/detail';
import { inkTaken } from '$core/inks/divide';
import { PROCESS_CHANNELS } from '$core/inks/ink-set';
import { CELLS } from '$core/inks/spread';
import { isPlain, marginMm } from '$core/inks/stack';
import { pageBox } from '$core/artwork/choices';
import type { PageFacts } from '$core/artwork/facts';
import type { Piece } from '$core/artwork/piece';
import { withMargin } from '$core/artwork/piece-layers';
import { evenSides, type Box } from '$core/geometry/box';
import { enlargement, wholePage, type Preparation } from '$core/artwork/preparation';
import { roleOf } from '$core/artwork/roles';
import { SHOPS_SOURCES, type PieceRequest } from '$lib/docket-choices';
import type { Docket } from './dockets';
import { findKept, keptFile } from '../platform/kept-files';
import { digest, digestOnce } from '../platform/digest';
import { Problem } from '../platform/problem';
import { draw } from './drawing';
import type { ProcessPool } from '../platform/tasks/process-pool';
import type { Artworks } from '../artwork/artworks';
import type { Conditions } from '../conditions/conditions';
import type { NamedColours } from '../conditions/named-colours';
import type { InkLimits } from '$core/colour/separation';
import type { Db } from '../platform/db/open';
import type { Dockets } from './dockets';
import type { PreparedDockets } from './prepared-dockets';
import type { FileStore } from '../platform/files';
import type { Logger } from 'pino';
import type { Settings } from '../platform/settings';
import type { SourceProfiles } from '../conditions/source-profiles';
import type { Overlays } from '../records/overlays';
import { KERNELS_FILE } from '../platform/tasks/pool';
import type { CompareAnswer, CompareRequest } from './workers/compare';
import type { InksRequest } from './workers/colours';
import type { DocketMeasured, MeasureAnswer, MeasureRequest, PreviewRequest } from './workers/measure';
import type { FieldRequest, TraceAnswer, TraceRequest } from './workers/trace';

export type MapKind = 'ink' | 'gamut' | 'proof';

/** How finely a line is traced at the finished size, pixels an inch. */
const TRACE_DPI = 200;
/** The longer side of what is traced in the browser while a slider moves. */
const COARSE_PX = 900;
const FINEST_PX = 9000;
/** The longer side of what a docket's detail is read from. */
const DETAIL_PX = 2400;
/** Flat pieces of cut lines for following them over a drawing, mm. */
const FLAT_MM = 0.1;

const UNWATCHED = { signal: new AbortController().signal, progress: () => undefined };

/** What it works with. */
interface Needs {
  drawingPool: ProcessPool;
  artworks: Artworks;
  colours: NamedColours;
  conditions: Conditions;
  db: Db;
  dockets: Dockets;
  preparedDockets: PreparedDockets;
  files: FileStore;
  log: Logger;
  overlays: Overlays;
  settings: Settings;
  sources: SourceProfiles;
}

/** Pictures of dockets and what is measured on them, made in workers once and kept. */
export class DocketPictures {
  readonly #needs: Needs;
  /** What is being measured now, so that several who ask wait for the same. */
  readonly #measuring = new Map<string, Promise<void>>();

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** A page at its own trim box, for lists. @returns the file's path */
  async page(artworkId: number, index: number, mostPx: number): Promise<string> {
    const { page } = this.#needs.artworks.page(artworkId, index);
    const leftOut = {
      spots: this.#unprinted(page.spots.map((spot) => spot.name)),
      layers: page.layers.filter((layer) => !layer.visible).map((layer) => layer.name)
    };
    return this.piece(artworkId, index, mostPx, trimPiece(page, leftOut));
  }

  /** A docket as it will print. @returns the file's path */
  async docket(id: number, mostPx: number, asRead = false): Promise<string> {
    const docket = this.#needs.dockets.get(id);
    const piece = this.#pieceOf(docket);
    const shown = asRead ? { ...piece, prepare: { ...piece.prepare, mirror: false } } : piece;
    return this.piece(docket.artworkId, docket.page, mostPx, shown, marginMm(docket.choices.stack?.layers ?? []));
  }

  /** A piece as it will print, bleed and a margin included; the longer side has `mostPx`. @returns the file's path */
  async piece(artworkId: number, index: number, mostPx: number, piece: PieceRequest, margin = 0): Promise<string> {
    const { db, files } = this.#needs;
    const request = await this.#preview(artworkId, index, mostPx, piece, margin);
    const { widthMm, heightMm, bleedMm, sources, prepare } = piece;
    const plain = { widthMm, heightMm, bleedMm, sources, prepare };
    const { named } = request.piece.prepare;
    const more = [...(margin > 0 ? [margin] : []), ...(named ? [named] : [])];
    const key = keyOf('piece', [request.pdf, index, mostPx, plain, request.sources, ...more]);
    return keptFile(db, files, key, () => draw<Uint8Array>(this.#needs, 'preview', request));
  }

  /** What drawing a docket in its condition's inks tells, or in another's. */
  async measured(id: number, conditionId?: number): Promise<DocketMeasured> {
    const path = await this.#measure(id, 'measured', conditionId);
    return JSON.parse(await readFile(path, 'utf8')) as DocketMeasured;
  }

  /** @returns the path of a PNG the size of the docket's piece with its bleed */
  async map(id: number, kind: MapKind): Promise<string> {
    return this.#measure(id, kind);
  }

  /**
   * A docket in its condition's inks before its tone, for a proof that follows a hand.
   *
   * @param adjusted its colours adjusted as the docket says, or as its file has them
   * @returns the path of a file as `inksDrawn` makes it
   */
  async inks(id: number, mostPx: number, adjusted: boolean): Promise<string> {
    const { dockets, artworks, colours, conditions, files, sources, db } = this.#needs;
    const docket = dockets.get(id);
    const { choices } = docket;
    const { conditionId } = choices;
    if (conditionId === null) throw new Problem(422, 'Choose a media and print mode first.');
    const piece = withSides(this.#pieceOf(docket));
    // The browser applies the tone; named colours alone are drawn for it, so that they come out right: as it was sent through the condition's curves alone.
    const { adjustment, tone: own, ...sent } = piece.prepare;
    const saved = { ...sent, ...(adjustment && { adjustment }), ...(own && { tone: own }) };
    const { tone, ...plain } = colours.onCondition(conditionId)(adjusted ? saved : sent);
    const prepare = plain.named && tone ? { ...plain, tone } : plain;
    const request: InksRequest = {
      pdf: files.path(artworks.get(docket.artworkId).pdfHash ?? ''),
      page: docket.page,
      piece: { ...piece, prepare },
      profile: conditions.profilePath(conditionId),
      limits: conditions.inkLimits(conditionId),
      intent: choices.intent,
      sources: await sources.paths(sources.chosen(choices.sources, docket.artwork.outputIntent)),
      kernels: KERNELS_FILE,
      mostPx
    };
    return keptFile(db, files, keyOf('measure/inks', { ...request, limits: withoutCurves(request.limits) }), () =>
      draw<Uint8Array>(this.#needs, 'inksDrawn', request)
    );
  }

  /** What of a docket's page is opaque or differs from its background, coarse enough to follow a slider in the browser. */
  async field(id: number, how: FieldRequest['how'], background: [number, number, number] | null): Promise<Field> {
    const docket = this.#needs.dockets.get(id);
    const request = await this.#fieldRequest(docket, how, background);
    return draw<Field>(this.#needs, 'field', { ...request, px: COARSE_PX });
  }

  /** The outline of a docket's page, fine enough to cut. @returns path data in mm from the trim box's corner */
  async trace(
    id: number,
    how: TraceRequest['how'],
    threshold: number,
    background: [number, number, number] | null
  ): Promise<string> {
    const docket = this.#needs.dockets.get(id);
    const request = await this.#fieldRequest(docket, how === 'shapes' ? 'opaque' : how, background);
    const answer = await draw<TraceAnswer>(this.#needs, 'trace', { ...request, how, threshold });
    if (!answer.ok) throw new Problem(422, answer.reason);
    return answer.outline;
  }

  /** How much there is to see on a docket, place by place. @returns the path of its columns and rows (two figures of 32 bits), and its cells */
  async detail(id: number): Promise<string> {
    const { dockets, db, files } = this.#needs;
    const docket = dockets.get(id);
    const request = await this.#preview(docket.artworkId, docket.page, DETAIL_PX, this.#pieceOf(docket));
    return keptFile(db, files, keyOf('measure/detail', request), async () => {
      const { columns, rows, cells } = await draw<Detail>(this.#needs, 'detail', request);
      return Uint8Array.from([...new Uint8Array(Uint32Array.of(columns, rows).buffer), ...cells]);
    });
  }

  /** How the artwork of a docket differs from the one that it took the place of. */
  async compare(id: number): Promise<{ share: number; picture: Uint8Array }> {
    const { dockets, artworks } = this.#needs;
    const docket = dockets.get(id);
    const { previous } = docket;
    if (!previous) throw new Problem(404, 'The artwork of this docket was not replaced.');
    const { page: before } = artworks.page(previous.artworkId, previous.page);
    const request: CompareRequest = {
      before: await this.#preview(previous.artworkId, previous.page, 1000, trimPiece(before)),
      after: await this.#preview(docket.artworkId, docket.page, 1000, trimPiece(docket.artwork.facts))
    };
    return draw<CompareAnswer>(this.#needs, 'compare', request);
  }

  #pieceOf(docket: Docket): PieceRequest {
    const { widthMm, heightMm, bleedMm, sources, colours } = docket.choices;
    return { widthMm, heightMm, bleedMm, sources, colours, prepare: this.#needs.preparedDockets.get(docket).preparation };
  }

  /** What the first record has over the artwork; nothing where none can be printed: that is told where they are looked at. */
  async #firstRecord(docket: Docket): Promise<string | undefined> {
    const { overlays, files, preparedDockets } = this.#needs;
    const records = preparedDockets.recordsOf(docket);
    if (!records) return undefined;
    try {
      const [first] = preparedDockets.series(docket) ?? [];
      if (first === undefined) return undefined;
      const {
        files: [hash]
      } = await overlays.pages(records, [first], UNWATCHED);
      return hash && files.path(hash);
    } catch (error) {
      if (error instanceof Problem) return undefined;
      throw error;
    }
  }

  #unprinted(names: readonly string[]): string[] {
    const { rules } = this.#needs.settings.current;
    return names.filter((name) => (roleOf(name, rules, {}) ?? 'prints') !== 'prints');
  }

  async #preview(artworkId: number, index: number, mostPx: number, piece: PieceRequest, margin = 0): Promise<PreviewRequest> {
    const { artworks, colours, files, sources } = this.#needs;
    const { artwork, page } = artworks.page(artworkId, index);
    const named = colours.places(
      page.spots.map(({ name }) => name),
      piece.colours
    );
    return {
      pdf: files.path(artwork.pdfHash ?? ''),
      page: index,
      piece: withMargin(withSides({ ...piece, prepare: { ...piece.prepare, ...(named && { named }) } }), margin),
      sources: await sources.paths(sources.chosen(piece.sources, artwork.facts?.outputIntent)),
      mostPx
    };
  }

  async #fieldRequest(
    docket: Docket,
    how: FieldRequest['how'],
    background: [number, number, number] | null
  ): Promise<FieldRequest> {
    const { files, sources, artworks, settings, preparedDockets } = this.#needs;
    const { preparation, lines } = preparedDockets.get(docket);
    const { choices } = docket;
    const role = (name: string) => roleOf(name, settings.current.rules, choices.roles);
    // What lies beyond the page's box but is drawn belongs to the outline too.
    const area = around(preparation.region, pageBox('media', docket.artwork.facts, lines, role));
    const px = (Math.max(area.width, area.height) * enlargement(preparation, choices) * TRACE_DPI) / 25.4;
    return {
      pdf: files.path(artworks.get(docket.artworkId).pdfHash ?? ''),
      page: docket.page,
      leftOut: preparation.leftOut,
      sources: await sources.paths(sources.chosen(choices.sources, docket.artwork.outputIntent)),
      kernels: KERNELS_FILE,
      how,
      background,
      area,
      px: Math.max(600, Math.min(FINEST_PX, px))
    };
  }

  async #measure(id: number, what: MapKind | 'measured', otherCondition?: number): Promise<string> {
    const { dockets, artworks, colours, conditions, files, settings, sources, db, preparedDockets } = this.#needs;
    const docket = dockets.get(id);
    const { choices } = docket;
    const conditionId = otherCondition ?? choices.conditionId;
    if (conditionId === null) throw new Problem(422, 'Choose a media and print mode first.');
    const { finished, stack, layers, marks } = preparedDockets.get(docket);
    const condition = conditions.get(conditionId);
    const { curves, mixture, profileHash } = conditions.colour(conditionId);
    const limits = conditions.inkLimits(conditionId);
    const inks = conditions.inks(conditionId);
    const onCondition = colours.onCondition(conditionId);
    const inked = <P extends { prepare: Preparation }>(of: P): P => ({ ...of, prepare: onCondition(of.prepare) });
    const over = await this.#firstRecord(docket);
    const request: MeasureRequest = {
      pdf: files.path(artworks.get(docket.artworkId).pdfHash ?? ''),
      page: docket.page,
      piece: inked(withSides(this.#pieceOf(docket))),
      ...(over && { over }),
      profile: files.path(profileHash),
      curves,
      taken: inkTaken(inks, PROCESS_CHANNELS, curves, condition.mode.drops[2]),
      ...(mixture && { mixture }),
      limits,
      intent: choices.intent,
      sources: await sources.paths(sources.chosen(choices.sources, docket.artwork.outputIntent)),
      kernels: KERNELS_FILE,
      // The condition's own limit, and the shop's where that is less.
      totalInk: Math.min(condition.totalInk, settings.current.limits.totalInk),
      gamutDeltaE: settings.current.limits.gamutDeltaE,
      lines: finished
        .filter((line) => line.id !== 'weed' && (line.tool === 'kiss cut' || line.tool === 'through cut'))
        .flatMap((line) => flatten(line.outline, FLAT_MM)),
      stack: isPlain(stack)
        ? null
        : {
            layers: layers.map((layer) => (layer.own ? { ...layer, own: inked(layer.own) } : layer)),
            marks,
            channels: condition.press.channels
          }
    };
    const figures = {
      curves: digestOnce(curves),
      taken: inks.map(({ channel, role, drops }) => [channel, role, drops]),
      ...(mixture && { mixture: digestOnce(mixture) }),
      limits: withoutCurves(limits),
      cells: CELLS
    };
    const told = digest([DRAWN, { ...request, ...figures }]);
    const key = (kind: string) => `measure/${kind}/${told}`;
    const found = findKept(db, files, key(what));
    if (found !== undefined) return found;
    const all = key('all');
    const work =
      this.#measuring.get(all) ??
      draw<MeasureAnswer>(this.#needs, 'measure', request).then(async (answer) => {
        await keptFile(db, files, key('ink'), () => Promise.resolve(answer.ink));
        await keptFile(db, files, key('gamut'), () => Promise.resolve(answer.gamut));
        await keptFile(db, files, key('proof'), () => Promise.resolve(answer.proof));
        await keptFile(db, files, key('measured'), () =>
          Promise.resolve(new TextEncoder().encode(JSON.stringify(answer.measured)))
        );
      });
    this.#measuring.set(all, work);
    try {
      await work;
    } finally {
      this.#measuring.delete(all);
    }
    const made = findKept(db, files, key(what));
    if (made === undefined) throw new Problem(500, 'The docket could not be measured. Try again.');
    return made;
  }
}

/** A piece as it is drawn. */
export const withSides = ({
  widthMm,
  heightMm,
  bleedMm,
  prepare
}: Pick<PieceRequest, 'widthMm' | 'heightMm' | 'bleedMm'> & { prepare: Preparation }): Piece => ({
  widthMm,
  heightMm,
  bleed: evenSides(bleedMm),
  prepare
});

/** A page's trim box at its own size. */
const trimPiece = (page: PageFacts, leftOut?: PieceRequest['prepare']['leftOut']): PieceRequest => ({
  widthMm: page.widthMm,
  heightMm: page.heightMm,
  bleedMm: 0,
  sources: SHOPS_SOURCES,
  colours: [],
  prepare: wholePage(page, leftOut)
});

/** Raised when the same choices are drawn otherwise than before: what was kept is made anew. */
const DRAWN = 4;

/** Limits for a key: curves are long, and told by their digest. */
export const withoutCurves = ({ amounts, ...limits }: InkLimits) => ({ ...limits, amounts: amounts && digestOnce(amounts) });

export const keyOf = (kind: string, what: unknown): string => `${kind}/${digest([DRAWN, what])}`;

function around(a: Box, b: Box): Box {
  const x = Math.min(a.x, b.x);
  const y = Math.min(a.y, b.y);
  return { x, y, width: Math.max(a.x + a.width, b.x + b.width) - x, height: Math.max(a.y + a.height, b.y + b.height) - y };
}
