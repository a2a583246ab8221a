import type { CodeField, TextField } from '../../core/records/field';
import { newCode, newText } from '../../core/records/new-field';

/** Fields of a pass of 90 × 50 mm: lettering on the left, a code on the right. */

export const nameField: TextField = {
  ...newText([], { x: 5, y: 6, width: 55, height: 16, turn: 0 }, '{name}', 'Name'),
  along: 'left'
};

export const codeField: CodeField = {
  ...newCode([nameField], { x: 64, y: 20, width: 22, height: 22, turn: 0 }, 'PASS/{number}/{name}', 'Code'),
  kind: 'Data Matrix'
};
