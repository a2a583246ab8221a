import { Problem } from '../../platform/problem';
import { openCards, packCards, type OpenedCards } from '../card-zip';

/** Files of cards are unpacked and hashed here: that takes seconds where they hold many profiles. */

/** Why a file is not taken: a problem loses its kind on the way to another thread. */
export interface NotTaken {
  status: number;
  why: string;
}

export function open(bytes: Uint8Array): OpenedCards | NotTaken {
  try {
    return openCards(bytes);
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    return { status: error.status, why: error.message };
  }
}

export const pack = ({ cards, parts }: { cards: string[]; parts: Record<string, Uint8Array> }): Uint8Array =>
  packCards(cards, parts);
