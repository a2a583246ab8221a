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

export const sentence = (error: unknown): string => (error instanceof Error ? error.message : String(error));
