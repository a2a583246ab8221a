import { error } from '@sveltejs/kit';
import type { Floor } from '$lib/server/app/floor';
import type { PageLoad } from './$types';

/** The same answer goes to all open Floors: it is written and packed once a change. */
export const load: PageLoad = async ({ fetch, depends }) => {
  // Not by what machines say: that is sent along as it comes.
  depends('zing:lanes', 'zing:runs', 'zing:dockets', 'zing:artwork', 'zing:conditions');
  const reply = await fetch('/api/floor');
  if (!reply.ok) error(reply.status, 'The Floor could not be looked up. What is wrong is in the log of the server.');
  return { floor: (await reply.json()) as Floor };
};
