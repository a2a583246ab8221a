/** What became of a thing that the shop has no more, and how many dockets have chosen it and lie in no run. */
export interface Removed {
  is: 'deleted' | 'put away';
  dockets: number;
}
