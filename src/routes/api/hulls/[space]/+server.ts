import { z } from 'zod';
import { STANDARD_SPACES } from '$lib/calibration';
import { call } from '$lib/server/platform/http/call';
import { Problem } from '$lib/server/platform/problem';

const Space = z.enum(STANDARD_SPACES);

export const GET = call({ summary: 'The hull of a standard space, to compare gamuts with' }, ({ shop, event }) => {
  const space = Space.safeParse(event.params['space']);
  if (!space.success) throw new Problem(404, `Standard spaces are ${STANDARD_SPACES.join(', ')}.`);
  return shop.calibration.hull(space.data);
});
