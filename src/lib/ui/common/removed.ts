import { counted } from '$core/units/counted';
import type { Removed } from '$lib/server/platform/removed';

/** What to do about dockets that had chosen what the shop has no more; nothing where none had. */
export const leftBehind = ({ dockets }: Removed): string =>
  dockets === 0
    ? ''
    : ` ${counted(dockets, 'docket that is', 'dockets that are')} not laid out had chosen this: choose other media there.`;
