import { readyStacks, suggestedFor, withStack, type ReadyStack } from '../artwork/docket-stack';
import { extraInks, isPlain, nextId, type ExtraInk, type Layer } from '../inks/stack';
import { missingInks } from '../media/press';
import { counted } from '../units/counted';
import { formatSize } from '../units/length';
import { lengthIn, per, type CheckInput, type Found } from './check';

/** What is looked at on what lies under and over the colour. */

const readyNamed = (name: string | undefined, { marks }: CheckInput): ReadyStack | undefined =>
  readyStacks(marks).find((ready) => ready.name === name);

/** The stack without some layers, and without what lay where those did. */
function without(input: CheckInput, gone: (layer: Layer) => boolean): CheckInput['stack'] {
  let layers = input.stack.layers.filter((layer) => !gone(layer));
  for (let before = -1; before !== layers.length;) {
    before = layers.length;
    layers = layers.filter(({ cover }) => cover.is !== 'layer' || layers.some(({ id }) => id === cover.id));
  }
  return { ...input.stack, layers };
}

const also = (words: readonly string[]) =>
  words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;

export function inkMissing(input: CheckInput): Found[] {
  const { press, stack } = input;
  if (!press) return [];
  const lacks = missingInks(stack.layers, press);
  if (lacks.length === 0) return [];
  const left = without(input, ({ ink }) => lacks.includes(ink as ExtraInk));
  return [
    {
      id: 'ink-missing',
      level: 'stop',
      figure: also(lacks),
      limit: '',
      sentence: `It is printed with ${also(lacks)}, and ${press.machine} has no such ink. Choose a media of a machine that has, or print without.`,
      ...(left.layers.length > 0 && { mend: { label: `Print without ${also(lacks)}`, change: { stack: left } } })
    }
  ];
}

export function tooMany({ press, stack }: CheckInput): Found[] {
  const has = stack.layers.length;
  if (!press || has <= press.layers) return [];
  return [
    {
      id: 'layers-many',
      level: 'stop',
      figure: counted(has, 'layer'),
      limit: counted(press.layers, 'layer'),
      sentence: `It has ${counted(has, 'layer')} of ink; ${press.machine} lays down ${press.layers} in one job. Take ${has - press.layers} out.`
    }
  ];
}

export function whiteMissing(input: CheckInput): Found[] {
  const { press, stack } = input;
  if (!press || extraInks(stack).includes('white')) return [];
  const { body, name } = press.media;
  if (body !== 'clear' && body !== 'dark') return [];
  const suggested = press.channels.white ? readyNamed(suggestedFor(press.media) ?? 'White under colour', input) : undefined;
  return [
    {
      id: 'white-missing',
      level: 'look',
      figure: 'no white',
      limit: '',
      sentence:
        body === 'clear'
          ? `${name} is clear, and no white lies under the colours: they will be seen through, and pale on what is dark.`
          : `${name} is dark, and no white lies under the colours: they will hardly be seen.`,
      ...(suggested && { mend: { label: suggested.name, change: withStack(suggested.stack) } })
    }
  ];
}

export function primer(input: CheckInput): Found[] {
  const { press, stack } = input;
  if (!press) return [];
  const has = extraInks(stack).includes('primer');
  const { name, primer: needed } = press.media;
  if (needed === has) return [];
  const id = nextId(stack.layers);
  const under = readyNamed('Primer, white, colour, varnish', input)!.stack.layers[0]!;
  if (!has)
    return [
      {
        id: 'primer',
        level: 'look',
        figure: 'no primer',
        limit: '',
        sentence: `Ink holds on ${name} only over primer, and the docket has none.`,
        ...(press.channels.primer && {
          mend: {
            label: 'Primer under all of it',
            change: { stack: { ...stack, layers: [{ ...under, id }, ...stack.layers] } }
          }
        })
      }
    ];
  return [
    {
      id: 'primer',
      level: 'look',
      figure: 'primer',
      limit: '',
      sentence: `${name} needs no primer: it costs ink and time.`,
      mend: {
        label: 'Take it out',
        change: { stack: without(input, ({ ink }) => ink === 'primer') }
      }
    }
  ];
}

/** The black of the print mode and that of the media. */
export function black({ press }: CheckInput): Found[] {
  if (!press || press.black === press.media.black) return [];
  const { name, black: wanted } = press.media;
  return [
    {
      id: 'black',
      level: 'look',
      figure: `${press.black} black`,
      limit: `${wanted} black`,
      sentence:
        wanted === 'matt'
          ? `${name} takes matt black, and this print mode lays down gloss black: dark colours will look grey. Choose a print mode with matt black.`
          : `${name} takes gloss black, and this print mode lays down matt black: it will lie dull on the surface and rub off. Choose a print mode with gloss black.`
    }
  ];
}

/** The side that it is seen from, and whether it is mirrored for it. */
export function facing(input: CheckInput): Found[] {
  const { press, stack, choices } = input;
  const said = { id: 'facing', limit: '' };
  if (stack.seen !== 'front' && press && (press.media.body === 'opaque' || press.media.body === 'dark'))
    return [
      {
        ...said,
        level: 'look',
        figure: `seen from ${stack.seen === 'both' ? 'both sides' : 'behind'}`,
        sentence: `It is to be seen through the media, and ${press.media.name} lets nothing through.`,
        mend: { label: 'It is seen from the front', change: { stack: { ...stack, seen: 'front' }, mirror: false } }
      }
    ];
  if (stack.seen === 'behind' && !choices.mirror)
    return [
      {
        ...said,
        level: 'look',
        figure: 'not mirrored',
        sentence: 'It is seen from behind, and not mirrored: what can be read will read backwards.',
        mend: { label: 'Mirror it', change: { mirror: true } }
      }
    ];
  if (stack.seen === 'front' && choices.mirror && (!isPlain(stack) || press?.media.body === 'clear'))
    return [
      {
        ...said,
        level: 'look',
        figure: 'mirrored',
        sentence: 'It is mirrored, and seen from the front: what can be read will read backwards.',
        mend: { label: 'Do not mirror it', change: { mirror: false } }
      }
    ];
  return [];
}

/** Lettering that is the wrong way round for who looks at it. */
export function lettering(input: CheckInput): Found[] {
  const { page, choices, stack } = input;
  const { right, mirrored } = page.lettering;
  if (right + mirrored === 0 || facing(input).length > 0) return [];
  const turned = choices.mirror !== (stack.seen === 'behind');
  const wrong = turned ? right : mirrored;
  if (wrong === 0) return [];
  return [
    {
      id: 'lettering-backwards',
      level: 'look',
      figure: counted(wrong, 'stretch', 'stretches'),
      limit: '',
      sentence: `${counted(wrong, 'stretch', 'stretches')} of lettering, of ${right + mirrored}, will read backwards as it is seen.`,
      ...(wrong > right + mirrored - wrong && { mend: { label: 'Mirror it', change: { mirror: !choices.mirror } } })
    }
  ];
}

/** White that ends where the colour does shows beside it when layers lie a little apart. */
export function whitePeeps(input: CheckInput): Found[] {
  const { stack, limits } = input;
  const { layersApartMm } = limits;
  if (!stack.layers.some(({ ink }) => ink === 'colour')) return [];
  const peeps = stack.layers.filter(
    ({ ink, cover, chokeMm }) =>
      ink === 'white' &&
      chokeMm < layersApartMm &&
      (cover.is === 'prints' || cover.is === 'colours' || (cover.is === 'layer' && !cover.except))
  );
  if (peeps.length === 0) return [];
  const least = Math.min(...peeps.map(({ chokeMm }) => chokeMm));
  const chokeMm = Math.max(0.2, layersApartMm);
  return [
    {
      id: 'white-peeps',
      level: 'look',
      figure: lengthIn(input, least),
      limit: lengthIn(input, layersApartMm),
      sentence: `White ends ${lengthIn(input, least)} inside of what it lies under, and layers may lie ${lengthIn(input, layersApartMm)} apart: a white edge may peep out.`,
      mend: {
        label: `Keep it ${lengthIn(input, chokeMm)} inside`,
        change: {
          stack: { ...stack, layers: stack.layers.map((layer) => (peeps.includes(layer) ? { ...layer, chokeMm } : layer)) }
        }
      }
    }
  ];
}

export function varnishBeneath({ stack }: CheckInput): Found[] {
  const last = stack.layers.map(({ ink }) => ink).lastIndexOf('colour');
  const beneath = stack.layers.filter(({ ink }, i) => ink === 'varnish' && i < last);
  if (beneath.length === 0) return [];
  return [
    {
      id: 'varnish-beneath',
      level: 'look',
      figure: counted(beneath.length, 'layer'),
      limit: '',
      sentence: 'Varnish lies below colour: it protects nothing there, and colour may not hold on it.',
      mend: {
        label: 'Varnish last',
        change: { stack: { ...stack, layers: [...stack.layers.filter((layer) => !beneath.includes(layer)), ...beneath] } }
      }
    }
  ];
}

export function amounts({ press, stack }: CheckInput): Found[] {
  if (!press) return [];
  const limit = ({ ink }: Layer) => (ink === 'colour' ? Infinity : (press.channels[ink] ?? Infinity));
  const above = stack.layers.filter((layer) => layer.amount > limit(layer) + 1e-9);
  if (above.length === 0) return [];
  const worst = above.reduce((p, q) => (q.amount - limit(q) > p.amount - limit(p) ? q : p));
  return [
    {
      id: 'layer-amount',
      level: 'look',
      figure: per(worst.amount),
      limit: per(limit(worst)),
      sentence: `${per(worst.amount)} of ${worst.ink} is asked for; ${press.machine} has ${counted(limit(worst), 'channel')} of it, and lays down ${per(limit(worst))} at the most.`,
      mend: {
        label: `${per(limit(worst))} of ${worst.ink}`,
        change: {
          stack: {
            ...stack,
            layers: stack.layers.map((layer) => (above.includes(layer) ? { ...layer, amount: limit(layer) } : layer))
          }
        }
      }
    }
  ];
}

/** Pages that layers of colour show in place of the docket's own: there, and of its shape. */
export function otherPages({ stack, pages, page, unit }: CheckInput): Found[] {
  const own = stack.layers.filter(({ ink, ownPage }) => ink === 'colour' && ownPage !== null);
  const instead = (gone: number) => ({
    label: 'Show the docket’s own page',
    change: {
      stack: { ...stack, layers: stack.layers.map((layer) => (layer.ownPage === gone ? { ...layer, ownPage: null } : layer)) }
    }
  });
  return [...new Set(own.map(({ ownPage }) => ownPage!))].flatMap((index): Found[] => {
    const name = `page ${index + 1}`;
    const said = { id: `other-page-${index + 1}`, figure: name };
    if (index >= pages.count)
      return [
        {
          ...said,
          level: 'stop',
          limit: counted(pages.count, 'page'),
          sentence: `A layer of colour shows ${name}, and the file has ${counted(pages.count, 'page')}.`,
          mend: instead(index)
        }
      ];
    const other = pages.shown[index];
    if (!other) return [];
    const across = other.widthMm / page.widthMm;
    const down = other.heightMm / page.heightMm;
    const more = Math.max(across / down, down / across) - 1;
    if (more < OF_ONE_SHAPE) return [];
    return [
      {
        ...said,
        level: 'look',
        figure: per(more),
        limit: per(OF_ONE_SHAPE),
        sentence: `A layer of colour shows ${name}, ${formatSize(other.widthMm, other.heightMm, unit)}, where the docket’s own page is ${formatSize(page.widthMm, page.heightMm, unit)}: it is stretched by ${per(more)}.`,
        mend: instead(index)
      }
    ];
  });
}

/** Pages whose sides differ by less than this are of one shape. */
const OF_ONE_SHAPE = 0.005;

/** What the file marks for an ink that no layer prints, and layers of what it does not mark. */
export function marks({ stack, marks: marked, choices }: CheckInput): Found[] {
  const takes = (ink: ExtraInk) => stack.layers.some((layer) => layer.ink === ink && layer.cover.is === 'marked');
  const unused = (Object.entries(marked) as [ExtraInk, { spots: readonly string[]; layers: readonly string[] }][]).filter(
    ([ink]) => !takes(ink)
  );
  const left = unused.map(([ink, { spots, layers }]): Found => {
    const names = [...spots, ...layers];
    return {
      id: `unused-${ink}`,
      level: 'look',
      figure: names.slice(0, 3).join(', '),
      limit: '',
      sentence: `${also(names.slice(0, 3).map((name) => `“${name}”`))} ${names.length === 1 ? 'is' : 'are'} ${ink}, and no layer prints it: it is left out.`,
      mend: {
        label: 'Print it in its own colour',
        change: { roles: { ...choices.roles, ...Object.fromEntries(names.map((name) => [name, 'prints' as const])) } }
      }
    };
  });
  const empty = stack.layers
    .filter(({ ink, cover }) => ink !== 'colour' && cover.is === 'marked' && !marked[ink])
    .map(({ id, ink }): Found => ({
      id: `nothing-marked-${id}`,
      level: 'look',
      figure: ink,
      limit: '',
      sentence: `A layer of ${ink} lies where the file marks it, and the file marks nothing for ${ink}: it will be empty.`
    }));
  return [...left, ...empty];
}
