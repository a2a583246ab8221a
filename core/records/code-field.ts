import { codeModules, encoded, layCode, type LaidCode } from './codes';
import type { CodeField, Field, TextField } from './field';
import { USUAL_FONT } from './new-field';

/** A code in its field, and what it says in plain below it. */
export interface LaidCodeField {
  laid: LaidCode;
  /** Lettering from so far below the field’s top, mm. */
  label: { field: TextField; text: string; top: number } | undefined;
}

/** What is said in plain takes this share of the field’s height, and is no higher than this. */
const LABEL_SHARE = 0.18;
const LABEL_MM = 6;

/** @throws CodeError for a value without a code, or without room for it */
export function layCodeField(field: CodeField, text: string, dpi: number | undefined): LaidCodeField {
  const { place, kind } = field;
  const high = field.below ? Math.min(LABEL_MM, place.height * LABEL_SHARE) : 0;
  const code = codeModules(kind, text, field.correction);
  const laid = layCode(code, { width: place.width, height: place.height - high }, dpi, field.thinner);
  if (!field.below) return { laid, label: undefined };
  const label: TextField = {
    id: field.id,
    name: field.name,
    is: 'text',
    // A hair of white between both.
    place: { x: 0, y: 0, width: place.width, height: high * 0.9, turn: 0 },
    content: '',
    font: USUAL_FONT,
    size: { is: 'largest' },
    wrap: false,
    along: 'centre',
    down: 'bottom',
    lineSpacing: 1,
    letterSpacing: 0,
    colour: field.colour,
    outline: null,
    bend: 0,
    shadow: null,
    cut: null
  };
  return { laid, label: { field: label, text: encoded(kind, text), top: place.height - high * 0.9 } };
}

/** The fonts that a field is lettered in. */
export const fontsOfField = (field: Field): string[] =>
  field.is === 'text' ? [field.font] : field.is === 'code' && field.below ? [USUAL_FONT] : [];
