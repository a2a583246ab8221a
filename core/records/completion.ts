import { COUNTER } from './content';
import { plainName } from '../units/names';
import { askFor } from './new-field';

/** What may be meant while a field's text is typed: between a brace that is open and the caret. */
export interface Completions {
  /** What of the text is replaced. */
  from: number;
  to: number;
  options: Completion[];
}
export interface Completion {
  label: string;
  /** What stands in its place. */
  put: string;
}

const MOST = 8;
const FORMS = [
  'upper case',
  'lower case',
  'each word',
  'ticked',
  'like 0042',
  'like 1,234.50',
  'like 31.12.2026',
  'like Thursday 31 December'
];
const COUNTS = ['from 1', 'step 10', 'like 001'];

/** @param caret where it is in the text @returns nothing where no brace is open */
export function completionsAt(
  text: string,
  caret: number,
  columns: readonly string[],
  lists: readonly string[] = []
): Completions | undefined {
  const before = text.slice(0, caret);
  const open = before.lastIndexOf('{');
  if (open < 0 || before.indexOf('}', open) >= 0 || before[open - 1] === '\\') return undefined;
  const typed = before.slice(open + 1);
  // What is typed after the caret, up to the brace that closes, is replaced too.
  const rest = /^[^{}[\]]*\}/.exec(text.slice(caret))?.[0] ?? '';
  const comma = typed.lastIndexOf(',');
  const named = (list: readonly string[], words: string) =>
    list.filter((one) => plainName(one).includes(plainName(words))).slice(0, MOST);
  const ins = lists.map((list) => `in ${list}`);
  const options =
    comma < 0
      ? [
          ...named(columns, typed).map((column) => ({ label: column, put: askFor(column) })),
          ...named([COUNTER], typed).map((count) => ({ label: 'a counter', put: `{${count}}` }))
        ]
      : named(
          plainName(typed.slice(0, typed.indexOf(','))) === COUNTER ? [...COUNTS, ...ins] : [...FORMS, ...ins],
          typed.slice(comma + 1)
        ).map((form) => ({
          label: form,
          put: `${text.slice(open, open + 1 + comma + 1)} ${form}}`
        }));
  return options.length === 0 ? undefined : { from: open, to: caret + rest.length, options };
}
