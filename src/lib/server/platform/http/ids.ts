import { z } from 'zod';

/** Numbers of rows in a body, each once however often it is said, in their order. @param what one of them, in words */
export const idList = (what: string, most: number) =>
  z
    .array(z.int())
    .min(1, `Choose at least one ${what}.`)
    .max(most, `At most ${most} ${what}s at once.`)
    .transform((ids) => [...new Set(ids)]);
