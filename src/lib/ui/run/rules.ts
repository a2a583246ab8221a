import type { PlacingRule } from '$core/layout/placement';

/** The placing rules in words, with a small drawing of each: rectangles x, y, width, height on a roll of 40 × 24, lying on its side. */
export const RULES: Record<
  PlacingRule,
  { name: string; says: string; drawing: [number, number, number, number][]; path?: string }
> = {
  apart: {
    name: 'Apart',
    says: 'Each docket is a run of its own.',
    drawing: [
      [2, 2, 7, 9],
      [2, 13, 7, 9],
      [16, 2, 10, 20],
      [33, 2, 5, 9]
    ]
  },
  rows: {
    name: 'In order',
    says: 'Row after row as the list says; copies of a docket stay together.',
    drawing: [
      [2, 2, 8, 6],
      [2, 9, 8, 6],
      [2, 16, 8, 6],
      [12, 2, 8, 6],
      [22, 2, 12, 9],
      [22, 13, 12, 9]
    ]
  },
  straight: {
    name: 'Straight cuts',
    says: 'Least length that cuts from edge to edge still free.',
    drawing: [
      [2, 2, 12, 12],
      [2, 15, 5, 7],
      [8, 15, 6, 7],
      [16, 2, 9, 9],
      [16, 12, 9, 10],
      [27, 2, 11, 20]
    ]
  },
  close: {
    name: 'Close fit',
    says: 'Rectangles anywhere, interlocking; the least length for them.',
    drawing: [
      [2, 2, 16, 9],
      [2, 12, 8, 10],
      [11, 12, 7, 5],
      [19, 2, 8, 15],
      [11, 18, 16, 4],
      [28, 2, 10, 20]
    ]
  },
  shapes: {
    name: 'True shape',
    says: 'By the contour that is cut, turned and into each other’s holes.',
    drawing: [],
    path: 'M3 21L9 3L15 21ZM11 3L23 3L17 20ZM25 3h6v13h7v6h-13zM33 3h5v11h-5z'
  },
  hand: {
    name: 'By hand',
    says: 'Where you put them; what is new goes to the first free place.',
    drawing: [
      [3, 3, 8, 8],
      [13, 9, 10, 12],
      [26, 4, 7, 7]
    ]
  }
};
