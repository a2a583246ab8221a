import { refusal, type Told } from '../../platform/told';
import { openCards, packCards, type OpenedCards } from '../card-zip';

/** Files of cards are unpacked and hashed here: that takes seconds where they hold many profiles. */

export function open(bytes: Uint8Array): Told<OpenedCards> {
  try {
    return { ok: true, made: openCards(bytes) };
  } catch (error) {
    return refusal(error);
  }
}

export const pack = ({ cards, parts }: { cards: string[]; parts: Record<string, Uint8Array> }): Uint8Array =>
  packCards(cards, parts);
