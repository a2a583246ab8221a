/** Encodings that text can be read with; the first is what most tables have. */
export const ENCODINGS = [
  'utf-8',
  'utf-16le',
  'utf-16be',
  'windows-1252',
  'windows-1250',
  'windows-1251',
  'windows-1253',
  'windows-1254',
  'iso-8859-15',
  'macintosh',
  'shift_jis',
  'gb18030'
] as const;
export type Encoding = (typeof ENCODINGS)[number];
export const DELIMITERS = [',', ';', '\t', '|'] as const;
export type Delimiter = (typeof DELIMITERS)[number];

/** How a table is read; what is not said is told from its bytes. */
export interface TableChoices {
  encoding?: Encoding | undefined;
  delimiter?: Delimiter | undefined;
  heading?: boolean | undefined;
  sheet?: string | undefined;
}
