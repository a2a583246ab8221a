import type { RequestEvent } from '@sveltejs/kit';
import { SHAPES, type ListName } from '$lib/server/app/lists';
import { Problem } from '$lib/server/platform/problem';

/** The list that an address names. @throws Problem 404 for any other */
export function listOf(event: RequestEvent): ListName {
  const name = (event.params as Record<string, string | undefined>).list ?? '';
  if (!Object.hasOwn(SHAPES, name)) throw new Problem(404, `There is no list of ${name}.`);
  return name as ListName;
}
