/** What the tray of the Floor shows of the dockets, the newest on top. */
export const TRAY = { stage: 'not laid out', list: 'open' };
