import { PWG_KINDS } from '$core/artwork/raster/pwg';
import { MOST_SERIES } from '$core/records/series';
import { ownSheet, sheetsFor, type Sheet } from '$lib/network-printer';
import {
  attribute as is,
  JOB_STATE,
  MORE_OPERATIONS,
  OPERATION,
  PRINTER_STATE,
  TAG,
  type IppAttribute,
  type IppValue
} from '$protocol/ipp';
import { hasEnded, type NetworkJob } from './network-jobs';

/**
 * What a printer and its jobs say of themselves.
 *
 * @see RFC 8011 for most of it, PWG 5100.14 for what a printer for every program has
 */

export const QUALITY = { draft: 3, normal: 4, best: 5 } as const;
/** Dots an inch that programs are asked to draw pages with where they send no PDF. */
const RASTER_DPI = [150, 300];
export const FORMATS = ['application/pdf', 'image/jpeg', 'image/png', 'image/pwg-raster', 'application/octet-stream'];
export const COMPRESSIONS = ['none', 'gzip', 'deflate'];
export const SCALINGS = ['auto', 'auto-fit', 'fit', 'none'];
export const COLOUR_MODES = ['auto', 'color', 'monochrome'];
/** How long a job without its document is kept open. */
export const TIME_OUT_S = 60;
/** The longest sheet that is asked for on a roll, mm. */
const LONGEST_MM = 50_000;
const LEAST_MM = 10;

/** What there is to say. */
export interface PrinterFacts {
  name: string;
  uuid: string;
  /** As it was asked by, so that it leads there again: host and port. */
  host: string;
  path: string;
  /** What a person may want to know of it: its recipe and where it goes. */
  info: string;
  media: { name: string; widthMm: number; lengthMm: number };
  /** Of each ink the name, its colour as six figures after #, and how full it is, %, where that is known. */
  inks: readonly { name: string; colour: string; level: number | null }[];
  qualities: readonly number[];
  /** Where a program does not say how many. */
  copies: number;
  /** What hinders it, as a sentence; nothing when it is well. */
  trouble: string | null;
  /** Jobs that have not ended. */
  open: number;
  isWorking: () => boolean;
  startedAt: number;
  changedAt: number;
  now: number;
}

const hundredths = (mm: number): number => Math.round(mm * 100);

/** Seconds that it has been up, as times are told. */
export const upTime = ({ startedAt }: Pick<PrinterFacts, 'startedAt'>, at: number): number =>
  Math.max(1, Math.round((at - startedAt) / 1000));

/** The sheets that a media takes, the usual one first. */
export function sheetsOf({ widthMm, lengthMm }: PrinterFacts['media']): Sheet[] {
  const sheets = sheetsFor(widthMm, lengthMm);
  if (sheets.length === 0) return [ownSheet('custom', 'whole', widthMm, Math.min(lengthMm, LONGEST_MM))];
  const usual = sheets.find(({ name }) => name.startsWith('iso_a4')) ?? sheets.at(-1)!;
  return [usual, ...sheets.filter((sheet) => sheet !== usual)];
}

/** Any size between two, as those that are named. */
export const sheetLimits = ({ widthMm, lengthMm }: PrinterFacts['media']): { least: Sheet; most: Sheet } => ({
  least: ownSheet('custom', 'min', LEAST_MM, LEAST_MM),
  most: ownSheet('custom', 'max', widthMm, Math.min(lengthMm, LONGEST_MM))
});

/**
 * A hundredth of a millimetre. CUPS takes sheets without any margin for special ones that are no usual sheet, and would print
 * on US Letter in place of the one that is said to be the usual one.
 */
const LEAST_MARGIN = 1;
const SIDES = ['top', 'bottom', 'left', 'right'];
const NO_MARGINS = SIDES.map((side) => is(TAG.integer, `media-${side}-margin`, LEAST_MARGIN));

function mediaOf(size: IppAttribute[], type: string): IppAttribute[] {
  return [
    { tag: TAG.collection, name: 'media-size', values: [size] },
    ...NO_MARGINS,
    is(TAG.keyword, 'media-source', 'main'),
    is(TAG.name, 'media-type', type)
  ];
}

const sizeOf = ({ widthMm, heightMm }: Sheet): IppAttribute[] => [
  is(TAG.integer, 'x-dimension', hundredths(widthMm)),
  is(TAG.integer, 'y-dimension', hundredths(heightMm))
];

function mediaAttributes({ media }: PrinterFacts): IppAttribute[] {
  const sheets = sheetsOf(media);
  const { least, most } = sheetLimits(media);
  const between: IppAttribute[] = [
    is(TAG.range, 'x-dimension', { from: hundredths(least.widthMm), to: hundredths(most.widthMm) }),
    is(TAG.range, 'y-dimension', { from: hundredths(least.heightMm), to: hundredths(most.heightMm) })
  ];
  const list = (name: string, values: IppValue[]): IppAttribute => ({ tag: TAG.collection, name, values });
  const columns = ['media-size', 'media-type', 'media-source', ...NO_MARGINS.map(({ name }) => name)];
  return [
    is(TAG.keyword, 'media-default', sheets[0]!.name),
    is(
      TAG.keyword,
      'media-supported',
      [...sheets, least, most].map(({ name }) => name)
    ),
    is(
      TAG.keyword,
      'media-ready',
      sheets.map(({ name }) => name)
    ),
    is(TAG.keyword, 'media-col-supported', columns),
    list('media-col-default', [mediaOf(sizeOf(sheets[0]!), media.name)]),
    list(
      'media-col-ready',
      sheets.map((sheet) => mediaOf(sizeOf(sheet), media.name))
    ),
    list('media-col-database', [...sheets.map((sheet) => mediaOf(sizeOf(sheet), media.name)), mediaOf(between, media.name)]),
    list('media-size-supported', [...sheets.map(sizeOf), between]),
    ...SIDES.map((side) => is(TAG.integer, `media-${side}-margin-supported`, LEAST_MARGIN)),
    is(TAG.keyword, 'media-source-supported', 'main'),
    is(TAG.name, 'media-type-supported', media.name)
  ];
}

/** What a job may ask for, and what it gets when it does not. */
function templateAttributes(facts: PrinterFacts): IppAttribute[] {
  const resolutions = RASTER_DPI.map((dpi) => ({ across: dpi, down: dpi }));
  return [
    is(TAG.integer, 'copies-default', facts.copies),
    is(TAG.range, 'copies-supported', { from: 1, to: MOST_SERIES }),
    is(TAG.enum, 'finishings-default', 3),
    is(TAG.enum, 'finishings-supported', 3),
    ...mediaAttributes(facts),
    is(TAG.enum, 'orientation-requested-default', 3),
    is(TAG.enum, 'orientation-requested-supported', 3),
    is(TAG.keyword, 'output-bin-default', 'auto'),
    is(TAG.keyword, 'output-bin-supported', 'auto'),
    is(TAG.keyword, 'overrides-supported', ['document-number', 'pages']),
    is(TAG.boolean, 'page-ranges-supported', true),
    is(TAG.keyword, 'print-color-mode-default', 'color'),
    is(TAG.keyword, 'print-color-mode-supported', COLOUR_MODES),
    is(TAG.keyword, 'print-content-optimize-default', 'auto'),
    is(TAG.keyword, 'print-content-optimize-supported', 'auto'),
    is(TAG.enum, 'print-quality-default', QUALITY.normal),
    is(TAG.enum, 'print-quality-supported', [...facts.qualities]),
    is(TAG.keyword, 'print-rendering-intent-default', 'auto'),
    is(TAG.keyword, 'print-rendering-intent-supported', 'auto'),
    is(TAG.keyword, 'print-scaling-default', 'auto'),
    is(TAG.keyword, 'print-scaling-supported', SCALINGS),
    is(TAG.resolution, 'printer-resolution-default', resolutions[1]!),
    is(TAG.resolution, 'printer-resolution-supported', resolutions),
    is(TAG.keyword, 'sides-default', 'one-sided'),
    is(TAG.keyword, 'sides-supported', 'one-sided'),
    is(TAG.keyword, 'pdl-override-supported', 'attempted'),
    is(TAG.keyword, 'job-creation-attributes-supported', JOB_ATTRIBUTES),
    is(TAG.resolution, 'pwg-raster-document-resolution-supported', resolutions),
    is(TAG.keyword, 'pwg-raster-document-sheet-back', 'normal'),
    is(TAG.keyword, 'pwg-raster-document-type-supported', PWG_KINDS)
  ];
}

/** What a job may ask for here; anything else is told to be left out. */
export const JOB_ATTRIBUTES = [
  'copies',
  'finishings',
  'job-name',
  'media',
  'media-col',
  'orientation-requested',
  'output-bin',
  'overrides',
  'page-ranges',
  'print-color-mode',
  'print-content-optimize',
  'print-quality',
  'print-rendering-intent',
  'print-scaling',
  'printer-resolution',
  'sides'
];

function descriptionAttributes(facts: PrinterFacts): IppAttribute[] {
  const { host, path, media, inks, trouble } = facts;
  const page = `http://${host}/`;
  const state = trouble ? PRINTER_STATE.stopped : facts.isWorking() ? PRINTER_STATE.processing : PRINTER_STATE.idle;
  const changed = upTime(facts, Math.max(facts.startedAt, facts.changedAt));
  const device = `MFG:Zing Mast;MDL:${facts.name.replace(/[;:]/g, ' ')};CMD:PDF,JPEG,PNG,PWGRaster;`;
  return [
    is(TAG.uri, 'printer-uri-supported', `ipp://${host}${path}`),
    is(TAG.keyword, 'uri-security-supported', 'none'),
    is(TAG.keyword, 'uri-authentication-supported', 'requesting-user-name'),
    is(TAG.name, 'printer-name', facts.name),
    is(TAG.text, 'printer-location', ''),
    is(TAG.text, 'printer-info', facts.info.slice(0, 127)),
    is(TAG.text, 'printer-make-and-model', `Zing Mast ${facts.name}`.slice(0, 127)),
    is(TAG.text, 'printer-organization', ''),
    is(TAG.text, 'printer-organizational-unit', ''),
    is(TAG.unknown, 'printer-geo-location', null),
    is(TAG.text, 'printer-device-id', device),
    is(TAG.uri, 'printer-uuid', `urn:uuid:${facts.uuid}`),
    is(TAG.uri, 'printer-more-info', page),
    is(TAG.uri, 'printer-supply-info-uri', page),
    is(TAG.uri, 'printer-icons', `${page}icon.png`),
    is(TAG.enum, 'printer-state', state),
    is(TAG.keyword, 'printer-state-reasons', trouble ? 'other-error' : 'none'),
    is(TAG.text, 'printer-state-message', trouble ?? ''),
    is(TAG.integer, 'printer-state-change-time', changed),
    is(TAG.dateTime, 'printer-state-change-date-time', new Date(facts.changedAt)),
    is(TAG.integer, 'printer-config-change-time', changed),
    is(TAG.dateTime, 'printer-config-change-date-time', new Date(facts.changedAt)),
    is(TAG.dateTime, 'printer-current-time', new Date(facts.now)),
    is(TAG.integer, 'printer-up-time', upTime(facts, facts.now)),
    is(TAG.boolean, 'printer-is-accepting-jobs', true),
    is(TAG.integer, 'queued-job-count', facts.open),
    is(TAG.boolean, 'color-supported', true),
    is(TAG.integer, 'pages-per-minute', 1),
    is(TAG.integer, 'pages-per-minute-color', 1),
    is(TAG.keyword, 'ipp-versions-supported', ['1.1', '2.0']),
    is(TAG.keyword, 'ipp-features-supported', 'ipp-everywhere'),
    is(TAG.enum, 'operations-supported', [...Object.values(OPERATION), ...Object.values(MORE_OPERATIONS)]),
    is(TAG.charset, 'charset-configured', 'utf-8'),
    is(TAG.charset, 'charset-supported', 'utf-8'),
    is(TAG.language, 'natural-language-configured', 'en'),
    is(TAG.language, 'generated-natural-language-supported', 'en'),
    is(TAG.mimeType, 'document-format-default', 'application/octet-stream'),
    is(TAG.mimeType, 'document-format-supported', FORMATS),
    is(TAG.keyword, 'compression-supported', COMPRESSIONS),
    is(TAG.boolean, 'multiple-document-jobs-supported', false),
    is(TAG.integer, 'multiple-operation-time-out', TIME_OUT_S),
    is(TAG.keyword, 'multiple-operation-time-out-action', 'abort-job'),
    is(TAG.boolean, 'job-ids-supported', true),
    is(TAG.boolean, 'preferred-attributes-supported', false),
    is(TAG.keyword, 'which-jobs-supported', ['completed', 'not-completed', 'all']),
    is(TAG.keyword, 'printer-get-attributes-supported', 'document-format'),
    is(TAG.keyword, 'identify-actions-default', 'display'),
    is(TAG.keyword, 'identify-actions-supported', 'display'),
    is(
      TAG.name,
      'marker-names',
      inks.map(({ name }) => name)
    ),
    is(
      TAG.name,
      'marker-colors',
      inks.map(({ colour }) => colour)
    ),
    is(
      TAG.integer,
      'marker-levels',
      inks.map(({ level }) => levelOf(level))
    ),
    is(
      TAG.keyword,
      'marker-types',
      inks.map(() => 'ink-cartridge')
    ),
    // The media counts as one more of what is used up.
    is(TAG.octets, 'printer-supply', [
      ...inks.map(({ level, name }) => supply('ink', levelOf(level), name)),
      supply('other', -2, 'none')
    ]),
    is(TAG.text, 'printer-supply-description', [...inks.map(({ name }) => name), media.name])
  ];
}

/** @see RFC 3805: −2 is not known */
const levelOf = (level: number | null): number => (level === null ? -2 : Math.round(level));

/** @see PWG 5100.13, as the printer MIB has it */
const supply = (type: string, level: number, colorant: string): Uint8Array =>
  Buffer.from(
    `type=${type};maxcapacity=100;level=${level};class=supplyThatIsConsumed;unit=percent;colorantname=${colorant.replace(/[;=]/g, ' ')};`
  );

/** All that is asked for by name, or by the name of a group. @param asked everything but the database of media, where nothing is said */
export function printerAttributes(facts: PrinterFacts, asked: readonly string[]): IppAttribute[] {
  const template = templateAttributes(facts);
  const description = descriptionAttributes(facts);
  const names = new Set(asked);
  const isAll = names.size === 0 || names.has('all');
  // By name alone, as PWG 5100.7 has it: it may be long.
  const isWanted = (name: string, group: string) =>
    names.has(name) || (name !== 'media-col-database' && (isAll || names.has(group)));
  return [
    ...template.filter(({ name }) => isWanted(name, 'job-template')),
    ...description.filter(({ name }) => isWanted(name, 'printer-description'))
  ].filter(({ values }) => values.length > 0);
}

/** Of a job, what is asked for. @param asked nothing for all */
export function jobAttributes(facts: PrinterFacts, job: NetworkJob, asked: readonly string[]): IppAttribute[] {
  const printer = `ipp://${facts.host}${facts.path}`;
  const time = (name: string, at: number | null): IppAttribute[] =>
    at === null
      ? [is(TAG.noValue, `time-at-${name}`, null), is(TAG.noValue, `date-time-at-${name}`, null)]
      : [
          // One from before the last start.
          is(TAG.integer, `time-at-${name}`, Math.max(0, Math.round((at - facts.startedAt) / 1000))),
          is(TAG.dateTime, `date-time-at-${name}`, new Date(at))
        ];
  const all: IppAttribute[] = [
    is(TAG.integer, 'job-id', job.id),
    is(TAG.uri, 'job-uri', `${printer}/${job.id}`),
    is(TAG.uri, 'job-printer-uri', printer),
    is(TAG.name, 'job-name', job.name),
    is(TAG.name, 'job-originating-user-name', job.sender),
    is(TAG.enum, 'job-state', job.state),
    is(TAG.keyword, 'job-state-reasons', job.stateReason),
    is(TAG.text, 'job-state-message', (job.message ?? '').slice(0, 1000)),
    is(TAG.integer, 'job-printer-up-time', upTime(facts, facts.now)),
    is(TAG.integer, 'job-k-octets', Math.ceil(job.bytes / 1024)),
    is(TAG.integer, 'copies', job.copies),
    is(TAG.integer, 'job-impressions-completed', job.state === JOB_STATE.completed ? job.copies : 0),
    ...time('creation', job.madeAt),
    ...time('processing', job.cameAt),
    ...time('completed', hasEnded(job.state) ? job.endedAt : null)
  ];
  const names = new Set(asked);
  if (names.size === 0 || names.has('all')) return all;
  const isTemplate = (name: string) => name === 'copies';
  return all.filter(
    ({ name }) =>
      names.has(name) || (names.has('job-template') && isTemplate(name)) || (names.has('job-description') && !isTemplate(name))
  );
}
