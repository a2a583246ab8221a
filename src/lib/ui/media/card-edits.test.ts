import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { NEW_CARD, type MediaCard } from '$core/media/card';
import type { Media } from '$lib/server/media/cards';
import { cardEdits } from './card-edits';

const said: string[] = [];
vi.mock('svelte-sonner', () => ({ toast: { error: (text: string) => said.push(text) } }));

let media: Media;
let edits: ReturnType<typeof cardEdits>;
/** A machine, or another window, was here. */
const other = (part: Partial<MediaCard>) => (media = { ...media, version: media.version + 1, card: { ...media.card, ...part } });
beforeEach(() => {
  vi.useFakeTimers();
  said.length = 0;
  const rolls = [{ widthMm: 1300, lengthMm: 50_000 }, { widthMm: 1000, lengthMm: 9000 }]; // prettier-ignore
  media = { id: 4, version: 1, card: { ...NEW_CARD, name: 'Gull film', rolls } } as unknown as Media;
  vi.stubGlobal('fetch', (_path: string, { method, body }: RequestInit) => {
    const says = (status: number, answer: unknown) => Promise.resolve(new Response(JSON.stringify(answer), { status }));
    if (method !== 'PUT') return says(200, media);
    const { version, card } = JSON.parse(body as string) as { version: number; card: MediaCard };
    if (version !== media.version) return says(409, { error: 'This card was changed in another window meanwhile.' });
    if (!(card.widthMm >= 50)) return says(422, { error: 'The width is 50 to 6,000 mm.' });
    other(card);
    return says(200, media);
  });
  edits = cardEdits(media);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const change = (part: Partial<MediaCard>) => edits.edits.change({ ...edits.edits.current, ...part });
const pass = () => vi.advanceTimersByTimeAsync(1000);

describe('a media card that saves itself', () => {
  it('is changed while machines print on it: what they take off its rolls stays off, and a white that they found is there', async () => {
    const [wide, narrow] = media.card.rolls as [MediaCard['rolls'][number], MediaCard['rolls'][number]];
    other({ rolls: [{ ...wide, lengthMm: 41_000 }, narrow], white: [95, 0, -2] });
    change({ costPerM2: 6 });
    change({ rolls: [wide, { ...narrow, batch: 'B 7' }] });
    await pass();
    expect(media.card).toMatchObject({ costPerM2: 6, white: [95, 0, -2], rolls: [{ lengthMm: 41_000 }, { batch: 'B 7' }] });
    // Told of more of it, it shows that, and steps back take back what was typed alone.
    other({
      rolls: [
        { ...wide, lengthMm: 30_000 },
        { ...narrow, batch: 'B 7' }
      ]
    });
    edits.adopt(media);
    edits.edits.undo();
    edits.edits.undo();
    await pass();
    expect(media.card).toMatchObject({
      costPerM2: NEW_CARD.costPerM2,
      white: [95, 0, -2],
      rolls: [{ lengthMm: 30_000 }, narrow]
    });
    expect(said).toEqual([]);
  });

  it('leaves out a figure that cannot be, or is none, and keeps what was typed beside it', async () => {
    for (const widthMm of [7, NaN]) {
      change({ widthMm });
      change({ maker: `Tern ${widthMm}` });
      await pass();
      expect(said.at(-1)).toBe('The width is 50 to 6,000 mm.');
      expect(media.card).toMatchObject({ widthMm: NEW_CARD.widthMm, maker: `Tern ${widthMm}` });
      expect([edits.edits.current, edits.edits.pending]).toEqual([media.card, false]);
    }
  });
});
