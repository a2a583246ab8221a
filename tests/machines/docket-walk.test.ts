import * as fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { DocketDocument } from '$lib/docket-choices';
import { Shop } from '$lib/server/app/shop';
import { toDocument } from '$lib/server/dockets/dockets';
import { Problem } from '$lib/server/platform/problem';
import { oneChunk, temporaryFolder, until } from '../harness';
import { smallPage } from '../made/small-page';

/** Steps of dockets: whatever is changed, taken back, put away and deleted in whatever order, each is what it was left as. */

const folder = temporaryFolder();
let shop: Shop;
let artworks: number[];

beforeAll(async () => {
  shop = new Shop(folder.path);
  shop.start();
  artworks = [];
  for (const name of ['One', 'Two']) {
    const { id } = await shop.artworks.take(`${name}.pdf`, oneChunk(smallPage(`0 0 0 .${name.length} k 0 0 20 20 re f`)));
    await until(() => shop.artworks.get(id).state === 'ready');
    artworks.push(id);
  }
});
afterAll(async () => {
  await shop.close();
  folder.remove();
});

const ACTS = ['change', 'change', 'join', 'artwork', 'back', 'back', 'forth', 'late', 'both', 'put away', 'delete'] as const;
const step = fc.record({ act: fc.constantFrom(...ACTS), which: fc.nat(1), n: fc.integer({ min: 1, max: 5 }) });

/** What a docket has been, and which of it it is. */
interface Past {
  id: number;
  documents: DocketDocument[];
  at: number;
}
const now = ({ documents, at }: Past) => documents[at]!;
/** What is changed goes on from what it is now: what was taken back before cannot be made again. */
function becomes(past: Past, document: DocketDocument, joins = false): void {
  if (JSON.stringify(document) === JSON.stringify(now(past))) return;
  const to = joins && past.at > 0 ? past.at : past.at + 1;
  past.documents.splice(to, Infinity, document);
  past.at = to;
}

function doing({ act, which, n }: { act: (typeof ACTS)[number]; which: number; n: number }, pasts: Past[]): void {
  const { dockets, docketEditing, docketShelf } = shop;
  const past = pasts[which]!;
  const { id } = past;
  const { version, choices } = dockets.get(id);
  const copies = { choices: { ...choices, copies: n } };
  switch (act) {
    case 'change':
    case 'join':
      docketEditing.change(id, version, copies, act === 'join');
      return becomes(past, { ...now(past), ...copies }, act === 'join');
    case 'artwork': {
      const artworkId = artworks[n % 2]!;
      docketEditing.replaceArtwork(id, version, artworkId, 0);
      return becomes(past, { ...now(past), artworkId });
    }
    case 'back':
    case 'forth': {
      const by = act === 'back' ? -1 : 1;
      if (!past.documents[past.at + by]) {
        expect(() => docketEditing.go(id, version, by)).toThrow('There is nothing to');
        return;
      }
      docketEditing.go(id, version, by);
      past.at += by;
      return;
    }
    case 'late':
      // A window that has not heard of the last change.
      for (const late of [
        () => docketEditing.change(id, version - 1, { note: 'late' }),
        () => docketEditing.go(id, version - 1, -1),
        () => docketEditing.replaceArtwork(id, version - 1, artworks[n % 2]!, 0)
      ])
        expect(late).toThrow(Problem);
      return;
    case 'both':
      docketEditing.changeMany(
        pasts.map((one) => one.id),
        { note: `note ${n}` }
      );
      for (const one of pasts) becomes(one, { ...now(one), note: `note ${n}` });
      return;
    case 'put away':
      docketShelf.putAway([id], n % 2 === 0);
      return;
    case 'delete': {
      expect(docketShelf.remove([id]).removed).toEqual([id]);
      expect(() => dockets.get(id)).toThrow('There is no such docket.');
      expect(docketShelf.restore([id])).toEqual([id]);
      return;
    }
  }
}

describe('a docket', () => {
  it('is what it was left as, and every step back and forth is what it was', () => {
    fc.assert(
      fc.property(fc.array(step, { minLength: 5, maxLength: 60 }), (steps) => {
        const pasts = [0, 1].map((): Past => {
          const docket = shop.dockets.add(artworks[0]!, 0);
          return { id: docket.id, documents: [toDocument(docket)], at: 0 };
        });
        for (const one of steps) {
          doing(one, pasts);
          for (const past of pasts) {
            const docket = shop.dockets.get(past.id);
            expect(toDocument(docket)).toEqual(now(past));
            // What another took the place of is not what it is now.
            expect(docket.previous?.artworkId).not.toBe(docket.artworkId);
            expect([docket.canUndo, docket.canRedo]).toEqual([past.at > 0, past.at < past.documents.length - 1]);
          }
        }
      }),
      { numRuns: 40, seed: 5 }
    );
  });
});
