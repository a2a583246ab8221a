import type { InkSet } from '../inks/ink-set';
import type { ExtraInk, LaidLayer } from '../inks/stack';
import type { MediaCard } from './card';

/** What a condition's machine can lay under and over colour, and what its media is. */
export interface Press {
  machine: string;
  /** Channels of each ink beside colours that the machine has. */
  channels: Partial<Record<ExtraInk, number>>;
  /** The most layers in one job. */
  layers: number;
  media: Pick<MediaCard, 'name' | 'body' | 'colour' | 'printedSide' | 'primer' | 'stack'>;
}

export function channelsByInk(inks: Pick<InkSet[number], 'role'>[]): Press['channels'] {
  const counts: Press['channels'] = {};
  for (const { role } of inks) if (role !== 'colour' && role !== 'light') counts[role] = (counts[role] ?? 0) + 1;
  return counts;
}

/** Inks of layers that a machine does not have, each once. */
export const missingInks = (layers: readonly LaidLayer[], { channels }: Pick<Press, 'channels'>): ExtraInk[] => [
  ...new Set(layers.flatMap(({ ink }) => (ink === 'colour' || channels[ink] ? [] : [ink])))
];
