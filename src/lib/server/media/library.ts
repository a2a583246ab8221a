import { z } from 'zod';
import { cardDifferences, MediaCard } from '$core/media/card';
import { askJson } from '../machines/ask';
import type { Media } from './cards';
import { Problem } from '../platform/problem';
import type { MediaCards } from './cards';
import type { Settings } from '../platform/settings';

const MOST_BYTES = 50e6;

const Offers = z.object({
  library: z.string().max(120),
  cards: z
    .array(
      z.object({
        id: z.string().min(1).max(100),
        version: z.int().min(1),
        published: z.string().max(40),
        news: z.string().max(1000),
        card: MediaCard
      })
    )
    .max(2000)
});

export interface LibraryCard {
  id: string;
  version: number;
  published: string;
  news: string;
  card: MediaCard;
  /** The card of the shop that came from it. */
  mine: { id: number; version: number } | null;
  /** What taking the newer one would change. */
  changes: { field: string; mine: string; theirs: string }[];
}

/** What it works with. */
interface Needs {
  media: MediaCards;
  settings: Settings;
}

/** Makers' cards from a media library. The application works without one. */
export class Library {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** @throws Problem when there is no library, or it does not answer */
  async offers(): Promise<{ library: string; cards: LibraryCard[] }> {
    const { settings, media } = this.#needs;
    if (!settings.current.libraryUrl) throw new Problem(409, 'No media library is set. Give its address under Shop.');
    let given: unknown;
    try {
      given = (await askJson(`${settings.current.libraryUrl}/cards`, { ms: 8000, mostBytes: MOST_BYTES })).value;
    } catch {
      throw new Problem(
        502,
        `The media library at ${settings.current.libraryUrl} does not answer. Your own cards are all here; try again later.`
      );
    }
    const parsed = Offers.safeParse(given);
    if (!parsed.success) throw new Problem(502, 'The media library answered with something that is no list of cards.');
    const mine = media.list();
    return {
      library: parsed.data.library,
      cards: parsed.data.cards.map((offer) => {
        const own = mine.find((one) => one.library?.id === offer.id);
        return {
          ...offer,
          mine: own ? { id: own.id, version: own.library?.version ?? 0 } : null,
          changes: own ? cardDifferences(own.card, kept(offer.card, own)) : []
        };
      })
    };
  }

  /** Takes a card, or its newer version in place of the older. */
  async take(id: string): Promise<Media> {
    const { media } = this.#needs;
    const offer = (await this.offers()).cards.find((card) => card.id === id);
    if (!offer) throw new Problem(404, 'The library has no such card any more.');
    const library = { id: offer.id, version: offer.version };
    // One that was put away comes back as it is offered now.
    const own = media.fromLibrary(id);
    if (own) return media.replace(own.id, kept(offer.card, own), library);
    return media.add(offer.card, { locked: true, library });
  }
}

/** What the shop found out itself stays: the white that it measured, and what it cuts the media with. */
const kept = (card: MediaCard, own: Media): MediaCard => ({
  ...card,
  white: own.card.white ?? card.white,
  knives: { ...card.knives, ...own.card.knives }
});
