import { marksOf, stackOf, withPictures } from '$core/artwork/docket-stack';
import { withMargin } from '$core/artwork/piece-layers';
import type { Preparation } from '$core/artwork/preparation';
import { marginMm, type Stack } from '$core/inks/stack';
import type { DocketChoices, PieceRequest } from '$lib/docket-choices';
import type { Artworks } from '../artwork/artworks';
import type { Conditions } from '../conditions/conditions';
import type { NamedColours } from '../conditions/named-colours';
import type { SourceProfiles } from '../conditions/source-profiles';
import type { Db } from '../platform/db/open';
import { keptFile } from '../platform/kept-files';
import type { FileStore } from '../platform/files';
import type { Settings } from '../platform/settings';
import { KERNELS_FILE } from '../platform/tasks/pool';
import { roleOf, type Role } from '$core/artwork/roles';
import type { IntentChoice } from '$core/colour/icc-write';
import { tonesOf } from './prepared-dockets';
import { draw } from './drawing';
import { keyOf, withoutCurves, withSides } from './pictures';
import type { LayersRequest } from './workers/layers';

type Needs = Parameters<typeof draw>[0] & {
  artworks: Artworks;
  colours: NamedColours;
  conditions: Conditions;
  db: Db;
  files: FileStore;
  settings: Settings;
  sources: SourceProfiles;
};

/** Before there is a condition. */
const NO_LIMITS = { total: 4 };

/** A docket as it is being changed: what its layers depend on. */
export interface LayersOf {
  artworkId: number;
  page: number;
  piece: PieceRequest;
  stack: Stack | null;
  roles: Record<string, Role>;
  conditionId: number | null;
  intent: IntentChoice;
  adjustment: DocketChoices['adjustment'];
  tone: DocketChoices['tone'];
}

/** Pictures of dockets with what lies under and over their colour, made once and kept. */
export class LayerPictures {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** @param mostPx of the longer side @returns the file's path */
  async picture(of: LayersOf, show: LayersRequest['show'], mostPx: number): Promise<string> {
    const { artworks, colours, conditions, db, files, settings, sources } = this.#needs;
    const { artwork, page } = artworks.page(of.artworkId, of.page);
    const condition = of.conditionId === null ? undefined : conditions.get(of.conditionId);
    const marks = marksOf(page, settings.current.rules, of.roles);
    const own = stackOf(of.stack, marks).layers;
    const role = (name: string) => roleOf(name, settings.current.rules, of.roles);
    const pages = artwork.facts?.pages ?? [];
    const named = colours.places([...new Set(pages.flatMap(({ spots }) => spots.map(({ name }) => name)))], of.piece.colours);
    const prepare: Preparation = { ...of.piece.prepare, ...(named && { named }), ...tonesOf(of) };
    const piece = withSides({
      ...of.piece,
      prepare: of.conditionId !== null && condition?.hasProfile ? colours.onCondition(of.conditionId)(prepare) : prepare
    });
    const layers = withPictures(own, piece.prepare, page, pages, role);
    const request: LayersRequest = {
      pdf: files.path(artwork.pdfHash ?? ''),
      page: of.page,
      piece: withMargin(piece, marginMm(layers)),
      profile: condition?.hasProfile ? conditions.profilePath(condition.id) : null,
      limits: condition?.hasProfile ? conditions.inkLimits(condition.id) : NO_LIMITS,
      intent: of.intent,
      sources: await sources.paths(sources.chosen(of.piece.sources, artwork.facts?.outputIntent)),
      kernels: KERNELS_FILE,
      layers,
      marks,
      channels: condition?.press.channels ?? {},
      ground: { body: condition?.press.media.body ?? 'opaque', colour: condition?.press.media.colour ?? '#ffffff' },
      show,
      mostPx
    };
    return keptFile(db, files, keyOf('layers', { ...request, limits: withoutCurves(request.limits) }), () =>
      draw<Uint8Array>(this.#needs, 'layers', request)
    );
  }
}
