/** Something a person can mend: a status for HTTP and a sentence for the screen. */
export class Problem extends Error {
  override name = 'Problem';
  readonly status: number;
  /** What is wrong field by field, where a form was sent. */
  readonly fields: Record<string, string>;

  constructor(status: number, sentence: string, fields: Record<string, string> = {}) {
    super(sentence);
    this.status = status;
    this.fields = fields;
  }
}

/** What is sent is longer than is taken. @param most bytes */
export function tooLarge(what: string, most: number): Problem {
  const [share, unit] = most >= 1e9 ? [1e9, 'GB'] : most >= 1e6 ? [1e6, 'MB'] : [1e3, 'kB'];
  return new Problem(413, `The ${what} is larger than ${Math.round(most / share)} ${unit}, the most that is taken.`);
}

export const sentence = (error: unknown): string => (error instanceof Error ? error.message : String(error));
