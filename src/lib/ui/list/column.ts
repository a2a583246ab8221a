/** A column of a table. */
export interface Column {
  key: string;
  label: string;
  /** What it is sorted by. */
  sort?: string;
  /** Of a table whose other columns share what is left. */
  width?: string;
  right?: boolean;
  /** What a row is called stands here. */
  isName?: boolean;
}
