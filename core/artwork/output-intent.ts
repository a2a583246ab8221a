import { throwTraps, type PDFDocument, type PDFObject } from '../interpreter/interpreter';
import { readProfileFacts } from '../colour/icc-read';

/** What a PDF says it was made to be printed on (ISO 32000-2, 14.11.5): the profile of its plain colours of one kind. */
export interface OutputIntent {
  /** What it calls the condition. */
  name: string;
  space: 'rgb' | 'cmyk' | 'grey';
  profile: Uint8Array;
}

const SPACES: Readonly<Record<string, OutputIntent['space']>> = { RGB: 'rgb', CMYK: 'cmyk', GRAY: 'grey' };
/** No profile is taken that is larger. */
const MOST_BYTES = 13e6;
/** Standards in the order in which their intents are looked for. */
const ORDER = ['/GTS_PDFX', '/GTS_PDFA1', '/ISO_PDFE1'];

/** @returns the first intent that holds a profile; nothing where none does, or its profile is broken */
export function outputIntent(document: PDFDocument): OutputIntent | undefined {
  const list = document.getTrailer().get('Root', 'OutputIntents');
  if (!list.isArray()) return undefined;
  const intents = Array.from({ length: Math.min(list.length, 100) }, (_, i) => list.get(i));
  const rank = (intent: PDFObject) => (ORDER.indexOf(intent.get('S').toString()) + ORDER.length + 1) % (ORDER.length + 1);
  for (const intent of intents.sort((p, q) => rank(p) - rank(q))) {
    const made = read(intent);
    if (made) return made;
  }
  return undefined;
}

function read(intent: PDFObject): OutputIntent | undefined {
  const stream = intent.get('DestOutputProfile');
  if (!stream.isStream()) return undefined;
  try {
    const profile = Uint8Array.from(stream.readStream().asUint8Array());
    const facts = profile.length <= MOST_BYTES ? readProfileFacts(profile) : undefined;
    const space = facts && SPACES[facts.colourSpace];
    if (!space || facts.deviceClass === 'link') return undefined;
    const said = ['OutputConditionIdentifier', 'OutputCondition', 'Info'].map((key) => intent.get(key));
    const name = said
      .filter((one) => one.isString())
      .map((one) => one.asString().trim())
      .find((one) => one && one !== 'Custom');
    return { name: (name ?? (facts.description || 'a profile without a name')).slice(0, 100), space, profile };
  } catch (error) {
    throwTraps(error);
    return undefined;
  }
}
