/** A column of a table. */
export interface Column {
  key: string;
  label: string;
  /** What it is sorted by. */
  sort?: string;
  /** In rem; columns without one share what is left. */
  width?: number;
  right?: boolean;
  /** What a row is called stands here. */
  isName?: boolean;
}

/** What columns that share what is left have at the least, rem: a name has to be read. */
const LEAST = 7;
const LEAST_NAME = 11;
export const TICK_WIDTH = 2.5;

/** How narrow a table of columns becomes before it is moved sideways instead, rem. */
export const leastWidth = (columns: readonly Column[], tickable: boolean): number =>
  columns.reduce((sum, { width, isName }) => sum + (width ?? (isName ? LEAST_NAME : LEAST)), tickable ? TICK_WIDTH : 0);

/** How wide it becomes, rem: the eye has to keep to a row from one end to the other. */
export const mostWidth = (columns: readonly Column[], tickable: boolean): number => 1.8 * leastWidth(columns, tickable);
