/** Unicode line breaking (UAX 14); the package has no types of its own. */
declare module 'linebreak' {
  export default class LineBreaker {
    constructor(text: string);
    /** The next place where a line may end, counted in UTF-16; `required` where it must. */
    nextBreak(): { position: number; required: boolean } | null;
  }
}
