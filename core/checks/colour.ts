import { nearRule, rulesFor, isTool } from '../artwork/roles';
import { counted } from '../units/counted';
import { per, printed, roleIn, type Found, type CheckInput } from './check';

export function colours(input: CheckInput): Found[] {
  const { page } = input;
  const spots = page.spots.filter((spot) => printed(input, { spot: spot.name })).map((spot) => spot.name);
  const used = [...page.colourSpaces, ...spots];
  if (used.length === 0) return [];
  const mixed = page.colourSpaces.includes('RGB') && page.colourSpaces.includes('CMYK');
  const list = `${page.colourSpaces.join(', ')}${spots.length > 0 ? `${page.colourSpaces.length > 0 ? ', and ' : ''}${counted(spots.length, 'spot colour')}: ${spots.slice(0, 4).join(', ')}` : ''}`;
  return [
    {
      id: 'colours',
      level: mixed ? 'look' : 'fine',
      figure: used.join(', '),
      limit: '',
      sentence: mixed
        ? `Colours in ${list}. The same colour in RGB and in CMYK may print differently: compare what should match.`
        : `Colours in ${list}.`
    }
  ];
}

export function spotRoles(input: CheckInput): Found[] {
  const { page, rules, choices } = input;
  return page.spots.flatMap(({ name }): Found[] => {
    // What the shop has a colour for is one.
    if (roleIn(input, name) !== undefined || input.preparation.named?.spots[name]) return [];
    const near = nearRule(name, rules);
    const mend = near
      ? { label: `It is ${near.role}`, change: { roles: { ...choices.roles, [name]: near.role } } }
      : { label: 'It prints in its own colour', change: { roles: { ...choices.roles, [name]: 'prints' as const } } };
    return [
      {
        id: `role-${name}`,
        level: 'look',
        figure: name,
        limit: '',
        sentence: near
          ? `The spot colour “${name}” is one letter away from “${near.pattern}”, which is ${near.role}. It has no role, so it prints.`
          : `The spot colour “${name}” has no role, so it prints in its own colour. Is it a colour, or a line for a tool?`,
        mend
      }
    ];
  });
}

/** A name that the shop's rules take for a line and for an ink. */
export function twoRoles({ page, rules, choices }: CheckInput): Found[] {
  const names = [...page.spots, ...page.layers].map(({ name }) => name);
  return names.flatMap((name): Found[] => {
    if (Object.hasOwn(choices.roles, name)) return [];
    const [first, ...others] = rulesFor(name, rules);
    const other = first && others.find(({ role }) => isTool(role) !== isTool(first.role));
    if (!other) return [];
    return [
      {
        id: `two-roles-${name}`,
        level: 'look',
        figure: name,
        limit: '',
        sentence: `“${name}” fits two of the shop’s rules: “${first.pattern}” is ${first.role}, “${other.pattern}” is ${other.role}. It is taken for ${first.role}.`,
        mend: { label: `It is ${other.role}`, change: { roles: { ...choices.roles, [name]: other.role } } }
      }
    ];
  });
}

export function spotColours(input: CheckInput): Found[] {
  return input.page.spots.flatMap(({ name, colour }): Found[] => {
    const role = roleIn(input, name);
    if ((role !== undefined && role !== 'prints') || colour !== null) return [];
    return [
      {
        id: `colour-${name}`,
        level: 'look',
        figure: name,
        limit: '',
        sentence: `The spot colour “${name}” has no colour in the file: it would print as nothing. Ask for its colour, or give it a role.`,
        mend: { label: 'It is a guide', change: { roles: { ...input.choices.roles, [name]: 'guide' } } }
      }
    ];
  });
}

export function overprint({ page, choices }: CheckInput): Found[] {
  if (!page.overprint) return [];
  const figure = choices.overprint ? 'followed' : 'off';
  return [
    {
      id: 'overprint',
      level: 'look',
      figure,
      limit: '',
      sentence: choices.overprint
        ? 'The file asks for overprint: inks that an object does not name stay beneath it, and spot colours mix with what they lie on. White that overprints does not show. Gradients cover. Compare with the customer’s proof.'
        : 'The file asks for overprint, and the docket has it off: upper colours cover lower ones.',
      mend: choices.overprint
        ? { label: 'Let upper colours cover', change: { overprint: false } }
        : { label: 'Follow the file', change: { overprint: true } }
    }
  ];
}

export function transparency({ page }: CheckInput): Found[] {
  if (page.blends.length === 0) return [];
  const mixed = page.colourSpaces.length > 1;
  return [
    {
      id: 'transparency',
      level: mixed ? 'look' : 'fine',
      figure: page.blends.join(', '),
      limit: '',
      sentence: `Colours are blended (${page.blends.join(', ').toLowerCase()})${mixed ? `, and the page mixes ${page.colourSpaces.join(' and ')}: shadows and glows may turn out otherwise than on the customer’s screen` : ''}.`
    }
  ];
}

export function drift({ drift: read, limits }: CheckInput): Found[] {
  if (!read || read.mean <= limits.driftDeltaE) return [];
  const [figure, limit] = [`ΔE00 ${read.mean.toFixed(1)}`, `ΔE00 ${limits.driftDeltaE}`];
  return [
    {
      id: 'drift',
      level: 'look',
      figure,
      limit,
      sentence: `The condition has drifted: ${figure} in the mean from its baseline when it was last read, and ${limit} is what the shop allows. It will not match what was printed before; bring it back first (Colour, Watch).`
    }
  ];
}

export function totalInk({ measured, limits }: CheckInput): Found[] {
  if (!measured) return [];
  const { most, shareAbove, place } = measured.totalInk;
  const said = { id: 'total-ink', figure: per(most), limit: per(limits.totalInk), ...(place && { place }) };
  if (shareAbove < 0.0005)
    return [{ ...said, level: 'fine', sentence: `At most ${said.figure} of ink; ${said.limit} is the limit.` }];
  return [
    {
      ...said,
      level: 'look',
      sentence: `Up to ${said.figure} of ink, on ${per(shareAbove)} of the area more than the limit of ${said.limit}. There the RIP lets the colour inks give way until it is kept; black stays, dark colours turn greyer.`
    }
  ];
}

export function gamut({ measured, limits, intent }: CheckInput): Found[] {
  if (!measured) return [];
  const { share, mean, worst, place } = measured.gamut;
  const said = { id: 'gamut', figure: per(share), limit: per(limits.gamutShare), ...(place && { place }) };
  if (share <= limits.gamutShare)
    return [
      {
        ...said,
        level: 'fine',
        sentence: `${share < 0.0005 ? 'All colours are' : `All but ${said.figure} of the area is`} within reach of this condition (ΔE00 below ${limits.gamutDeltaE}).`
      }
    ];
  if (intent !== 'relative') {
    const how = {
      perceptual: 'fitted in with all others',
      saturation: 'kept as strong as can be',
      file: 'treated as the file says'
    }[intent];
    return [
      { ...said, level: 'fine', sentence: `${said.figure} of the area is out of this condition’s reach; its colours are ${how}.` }
    ];
  }
  return [
    {
      ...said,
      level: 'look',
      sentence: `${said.figure} of the area is out of this condition’s reach, by ΔE00 ${mean.toFixed(1)} on average and ${worst.toFixed(1)} at worst. It will look duller than the customer expects.`,
      mend: { label: 'Fit the colours in (perceptual)', change: { intent: 'perceptual' } }
    }
  ];
}
