import type { z } from 'zod';

/** What is wrong with a field for which its schema has no words of its own. */

const EXPECTED: Record<string, string> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  tuple: 'a list',
  object: 'an object',
  record: 'an object',
  null: 'empty',
  undefined: 'left out'
};

export function issueSentence(issue: z.core.$ZodRawIssue): string {
  const name = issue.path && issue.path.length > 0 ? `“${issue.path.join('.')}”` : 'The request';
  switch (issue.code) {
    case 'invalid_type': {
      if (issue.input === undefined) return `${name} is missing.`;
      const expected = EXPECTED[issue.expected];
      return expected ? `${name} must be ${expected}.` : `${name} is not as it should be.`;
    }
    case 'invalid_value':
      return issue.values.length === 1
        ? `${name} must be ${String(issue.values[0])}.`
        : `${name} must be one of ${issue.values.map(String).join(', ')}.`;
    case 'too_small':
      return `${name} is too ${issue.origin === 'string' || issue.origin === 'array' ? 'short' : 'small'}: ${issue.inclusive === false ? 'more than' : 'at least'} ${String(issue.minimum)}.`;
    case 'too_big':
      return `${name} is too ${issue.origin === 'string' || issue.origin === 'array' ? 'long' : 'large'}: ${issue.inclusive === false ? 'less than' : 'at most'} ${String(issue.maximum)}.`;
    case 'unrecognized_keys':
      return `${name} has what is not known here: ${issue.keys.join(', ')}.`;
    default:
      return `${name} is not as it should be.`;
  }
}
