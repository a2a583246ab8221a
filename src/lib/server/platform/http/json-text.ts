import { z } from 'zod';

/** JSON in a field of an address or a form, to be piped into what it should be. @param what the words for it */
export const jsonText = (what: string, most: number) =>
  z
    .string()
    .max(most, `${what} has at most ${most.toLocaleString('en-GB')} signs.`)
    .transform((text, context): unknown => {
      try {
        return JSON.parse(text);
      } catch {
        context.addIssue(`${what} is not JSON.`);
        return z.NEVER;
      }
    });
