import type { Triple } from '$core/colour/lab';
import { IN_REACH, type InkedColour } from '$core/colour/named-inks';
import { pageWithFields } from '$core/records/field-spots';
import type { DocketFlat, DocketSpot, ShopColour } from '$lib/named-colours';
import type { Artworks } from '../artwork/artworks';
import type { ColourMaking } from '../conditions/colour-making';
import type { Conditions } from '../conditions/conditions';
import { asMeasured, type NamedColours } from '../conditions/named-colours';
import type { SourceProfiles } from '../conditions/source-profiles';
import type { Db } from '../platform/db/open';
import type { FileStore } from '../platform/files';
import { keptFile } from '../platform/kept-files';
import { readFile } from 'node:fs/promises';
import type { Dockets } from './dockets';
import type { PreparedDockets } from './prepared-dockets';
import { draw } from './drawing';
import { keyOf, withSides } from './pictures';
import type { ColourAtRequest, SpotLabsRequest } from './workers/colours';

type Needs = Parameters<typeof draw>[0] & {
  db: Db;
  files: FileStore;
  artworks: Artworks;
  conditions: Conditions;
  colours: NamedColours;
  dockets: Dockets;
  preparedDockets: PreparedDockets;
  making: ColourMaking;
  sources: SourceProfiles;
};

/** The colours of a docket by name: what its file means, what it prints in, and what its condition makes of that. */
export class DocketColours {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  async of(id: number): Promise<{ spots: DocketSpot[]; flats: DocketFlat[] }> {
    const { colours, conditions, dockets, preparedDockets } = this.#needs;
    const docket = dockets.get(id);
    const { preparation } = preparedDockets.get(docket);
    const { conditionId } = docket.choices;
    const hasProfile = conditionId !== null && conditions.get(conditionId).hasProfile;
    const { named } = hasProfile ? colours.onCondition(conditionId)(preparation) : preparation;
    const file = await this.#fileLabs(id);
    // A flat colour whose named colour is gone has no place among those that print.
    const flats = docket.choices.colours.flatMap(({ what, to }) =>
      'flat' in what ? [named?.flats.find((flat) => flat.to.id === to && same(flat.lab, what.flat))?.to] : []
    );
    const page = pageWithFields(docket.artwork.facts, docket.choices.records.fields);
    const spots = page.spots.map(({ name }) => ({ name, to: named?.spots[name] }));
    const all = [...spots.map(({ to }) => to), ...flats].filter((to) => to !== undefined);
    const made = hasProfile && all.length > 0 ? await this.#needs.making.on(conditionId, all) : [];
    const on = (to: InkedColour | undefined): DocketSpot['made'] => {
      if (!to || !hasProfile) return null;
      const one = asMeasured(made[all.indexOf(to)]!, to.own && colours.current(to.id, conditionId)?.off, to.lab);
      return { reached: one.reached, deltaE: one.deltaE, isInReach: one.deltaE <= IN_REACH };
    };
    const shown = (to: InkedColour | undefined): ShopColour | null => {
      if (!to) return null;
      const { name, lab } = colours.get(to.id);
      return { id: to.id, name, lab };
    };
    return {
      spots: spots.map(({ name, to }) => ({
        name,
        file: file[name] ?? null,
        match: colours.match(name),
        prints: shown(to),
        made: on(to)
      })),
      flats: flats.map((to) => ({ prints: shown(to), made: on(to) }))
    };
  }

  /** What is painted at a place of a docket, mm of its finished size, as its file has it. */
  async at(id: number, x: number, y: number): Promise<Triple> {
    const { artworks, dockets, files, sources, preparedDockets } = this.#needs;
    const docket = dockets.get(id);
    const { choices } = docket;
    const { preparation } = preparedDockets.get(docket);
    const request: ColourAtRequest = {
      pdf: files.path(artworks.get(docket.artworkId).pdfHash ?? ''),
      page: docket.page,
      piece: withSides({ ...choices, prepare: { ...preparation, named: undefined } }),
      sources: await sources.paths(sources.chosen(choices.sources, docket.artwork.outputIntent)),
      place: { x, y }
    };
    return draw<Triple>(this.#needs, 'colourAt', request);
  }

  /** By spot colour what the file means by it, looked up once. */
  async #fileLabs(id: number): Promise<Record<string, Triple>> {
    const { artworks, db, dockets, files, sources } = this.#needs;
    const docket = dockets.get(id);
    if (docket.artwork.facts.spots.length === 0) return {};
    const request: SpotLabsRequest = {
      pdf: files.path(artworks.get(docket.artworkId).pdfHash ?? ''),
      page: docket.page,
      sources: await sources.paths(sources.chosen(docket.choices.sources, docket.artwork.outputIntent))
    };
    const path = await keptFile(db, files, keyOf('measure/spots', request), async () =>
      new TextEncoder().encode(JSON.stringify(await draw<Record<string, Triple>>(this.#needs, 'spotLabsOf', request)))
    );
    return JSON.parse(await readFile(path, 'utf8')) as Record<string, Triple>;
  }
}

const same = (p: Readonly<Triple>, q: Readonly<Triple>): boolean => p.every((v, i) => v === q[i]);
