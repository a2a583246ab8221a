/** The kinds of codes that a field can have; apart from what makes them, which is large. */
export const CODE_KINDS = [
  'QR',
  'Data Matrix',
  'Aztec',
  'PDF417',
  'Code 128',
  'Code 39',
  'EAN-13',
  'EAN-8',
  'UPC-A',
  'ITF-14',
  'GS1-128',
  'GS1 Data Matrix'
] as const;
/** How much of a QR code may be lost and it is still read: about 7, 15, 25 and 30 %. */
export const CORRECTIONS = ['low', 'middle', 'high', 'highest'] as const;
export type Correction = (typeof CORRECTIONS)[number];
export type CodeKind = (typeof CODE_KINDS)[number];
