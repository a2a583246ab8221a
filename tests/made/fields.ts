import type { CodeField, TextField } from '../../core/records/field';

/** Fields of a pass of 90 × 50 mm: lettering on the left, a code on the right. */

const BLACK = { is: 'inks' as const, inks: [0, 0, 0, 1] as [number, number, number, number] };

export const nameField: TextField = {
  id: 1,
  name: 'Name',
  is: 'text',
  place: { x: 5, y: 6, width: 55, height: 16, turn: 0 },
  content: '{name}',
  font: 'Arimo',
  size: { is: 'largest' },
  wrap: false,
  along: 'left',
  down: 'middle',
  lineSpacing: 1,
  letterSpacing: 0,
  colour: BLACK,
  outline: null
};

export const codeField: CodeField = {
  id: 2,
  name: 'Code',
  is: 'code',
  correction: 'middle',
  below: false,
  thinner: 0,
  kind: 'Data Matrix',
  place: { x: 64, y: 20, width: 22, height: 22, turn: 0 },
  content: 'PASS/{number}/{name}',
  colour: BLACK
};
