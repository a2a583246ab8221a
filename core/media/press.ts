import type { InkSet } from '../inks/ink-set';
import type { ExtraInk, LaidLayer } from '../inks/stack';
import { counted } from '../units/counted';
import type { Black, MediaCard } from './card';

/** What a condition's machine can lay under and over colour, and what its media is. */
export interface Press {
  machine: string;
  /** Channels of each ink beside colours that the machine has. */
  channels: Partial<Record<ExtraInk, number>>;
  /** pl of the fullest drop of each of them. */
  fullDrop: Partial<Record<ExtraInk, number>>;
  /** The most layers in one job. */
  layers: number;
  media: Pick<MediaCard, 'name' | 'body' | 'colour' | 'printedSide' | 'primer' | 'black' | 'stack'>;
  /** The black that its print mode lays down. */
  black: Black;
}

export function channelsByInk(inks: Pick<InkSet[number], 'role'>[]): Press['channels'] {
  const counts: Press['channels'] = {};
  for (const { role } of inks) if (role !== 'colour' && role !== 'light') counts[role] = (counts[role] ?? 0) + 1;
  return counts;
}

export const fullDropByInk = (inks: Pick<InkSet[number], 'role' | 'drops'>[]): Press['fullDrop'] =>
  Object.fromEntries(inks.map(({ role, drops }) => [role, drops[2]]));

/** Why a machine cannot lay down some layers in one job, in a sentence; nothing where it can. */
export function cannotLay(layers: readonly LaidLayer[], press: Press): string | undefined {
  const lacks = missingInks(layers, press);
  if (lacks.length > 0) return `${press.machine} has no ${lacks.join(' and no ')}.`;
  if (layers.length <= press.layers) return undefined;
  return `${press.machine} lays down ${counted(press.layers, 'layer')} of ink in one job, not ${layers.length} (${layers.map(({ ink }) => ink).join(', ')}).`;
}

/** Inks of layers that a machine does not have, each once. */
export const missingInks = (layers: readonly LaidLayer[], { channels }: Pick<Press, 'channels'>): ExtraInk[] => [
  ...new Set(layers.flatMap(({ ink }) => (ink === 'colour' || channels[ink] ? [] : [ink])))
];
