import type { MediaCard } from '$core/media/card';
import type { Media } from '$lib/server/media/cards';
import { KeptEdits } from '../common/kept-edits.svelte';

/** A media card that saves itself. */
export const cardEdits = (media: Media) =>
  new KeptEdits<Media, MediaCard>(media, {
    path: `/api/media/${media.id}`,
    valueOf: ({ card }) => card,
    bodyOf: (card) => ({ card })
  });
