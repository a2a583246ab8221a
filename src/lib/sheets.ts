import { counted } from '$core/units/counted';
/** So many sheets in words; in a jig each is a load. */
export const sheetsInWords = (count: number, inJig: boolean): string => counted(count, inJig ? 'load' : 'sheet');
