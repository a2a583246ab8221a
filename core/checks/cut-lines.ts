import { areCutByRecord } from '../records/choices';
import type { ArtworkChoices } from '../artwork/choices';
import { finishedToPage } from '../artwork/preparation';
import { closedRings, type FinishedLine } from '../cutting/docket-lines';
import type { MadeLine } from '../artwork/cut-choices';
import { fitRing } from '../cutting/fit';
import { crossings, doubles, islands, slivers } from '../cutting/line-faults';
import { unite } from '../geometry/areas';
import { bounds, flatten, pathData, subpaths, transformPath, type Path, type Polyline } from '../geometry/path';
import { counted } from '../units/counted';
import type { Tool } from '../artwork/roles';
import { lengthIn, per, type Found, type CheckInput, type Mend } from './check';

/** Lines are looked at as straight pieces this true, mm. */
const FLAT_MM = 0.02;
/** Lines nearer than this lie on each other, mm. */
const SAME_MM = 0.05;
/** An open line whose ends are no farther apart is meant to be closed, mm. */
const GAP_MM = 2;
/** Nodes that lie closer than this on average say little, mm. */
const SMOOTH_MM = 0.05;

export function cutMissing({ choices, lines, customerLines, records, wall }: CheckInput): Found[] {
  // Panels are cut along their own edges.
  if (wall) return [];
  const byRecord = records !== undefined && areCutByRecord(records);
  if (byRecord && !choices.cut)
    return [
      {
        id: 'cut-missing',
        level: 'look',
        figure: '0',
        limit: '1',
        sentence: 'Lettering of its records is to be cut, but cutting is off.',
        mend: { label: 'Cut it', change: { cut: true } }
      }
    ];
  const found = { id: 'cut-missing', figure: String(lines.length), limit: '1' };
  if (choices.cut && lines.length === 0 && !byRecord) {
    return [
      {
        ...found,
        level: 'stop',
        sentence: 'It is to be cut, and there is no cut line. The cutter would have nothing to do.',
        mend: { label: 'Cut along the page', change: { lines: { ...choices.lines, made: [pageLine()] } } }
      }
    ];
  }
  if (!choices.cut && customerLines > 0) {
    return [
      {
        ...found,
        level: 'look',
        figure: String(customerLines),
        limit: '0',
        sentence: `The artwork has ${counted(customerLines, 'cut line')}, but cutting is off. ${customerLines === 1 ? 'It does' : 'They do'} not print either.`,
        mend: { label: 'Cut it', change: { cut: true } }
      }
    ];
  }
  return [];
}

export const pageLine = (): MadeLine => ({
  id: 'page',
  tool: 'kiss cut',
  from: { kind: 'page', shape: 'rectangle', radiusMm: 5 },
  offsetMm: 0,
  corners: 'round',
  smoothMm: 0.05,
  holes: true,
  smallestMm2: 0,
  bridgeMm: 0
});

export function cutTooMany({ page, choices, customerLines }: CheckInput): Found[] {
  if (page.linesLeftOut === 0 || !choices.cut || !choices.lines.customer.use || customerLines === 0) return [];
  const all = page.linesLeftOut + customerLines;
  return [
    {
      id: 'cut-many',
      level: 'stop',
      figure: all.toLocaleString('en-GB'),
      limit: customerLines.toLocaleString('en-GB'),
      sentence: `The page has about ${all.toLocaleString('en-GB')} outlines in spot colours or on layers; ${customerLines.toLocaleString('en-GB')} were kept. The rest would not be cut. Found which spot colour the cut line is.`
    }
  ];
}

export function cutOpen(input: CheckInput): Found[] {
  const open = knifeLines(input).filter(({ polyline }) => !polyline.closed);
  const worst = open[0];
  if (!worst) return [];
  const gaps = open.map(({ polyline }) => gapOf(polyline));
  const near = gaps.every((gap) => gap <= GAP_MM);
  return [
    {
      id: 'cut-open',
      level: near ? 'look' : 'stop',
      figure: lengthIn(input, Math.max(...gaps)),
      limit: lengthIn(input, 0),
      sentence: `${counted(open.length, 'cut line is', 'cut lines are')} open, by up to ${lengthIn(input, Math.max(...gaps))}. What is cut will hang on there.`,
      ...placeOf([worst.polyline]),
      mend: redrawn(input, 'Close them', (path) =>
        subpaths(path).flatMap((part) => (part.at(-1)?.kind === 'close' ? part : [...part, { kind: 'close' as const }]))
      )
    }
  ];
}

const gapOf = ({ points }: Polyline): number => {
  const [a, b] = [points[0], points[points.length - 1]];
  return a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0;
};

/** Beyond this, lines are too many to be looked at closely while somebody types: their number is told instead. */
const MOST_NODES_LOOKED_AT = 20_000;
const tooMany = ({ lines }: CheckInput) => lines.reduce((sum, line) => sum + line.outline.length, 0) > MOST_NODES_LOOKED_AT;

export function cutCrossing(input: CheckInput): Found[] {
  if (tooMany(input)) return [];
  // Lines that weed strips are meant to meet others; only what frees a piece must not cross.
  const lines = knifeLines(input).filter(({ id }) => id !== 'weed');
  const places = crossings(lines.map(({ polyline }) => polyline));
  const first = places[0];
  if (!first) return [];
  return [
    {
      id: 'cut-crossing',
      level: 'look',
      figure: counted(places.length, 'place'),
      limit: '0',
      sentence: `Cut lines cross in ${counted(places.length, 'place')}. Small loose pieces fall out there.`,
      place: { x: first.x - 2, y: first.y - 2, width: 4, height: 4 },
      mend: united(input)
    }
  ];
}

export function cutDoubled(input: CheckInput): Found[] {
  const lines = knifeLines(input);
  const twice = doubles(
    lines.map(({ polyline }) => polyline),
    SAME_MM
  );
  if (twice.length === 0) return [];
  const first = lines[twice[0]!];
  return [
    {
      id: 'cut-doubled',
      level: 'look',
      figure: counted(twice.length, 'line'),
      limit: '0',
      sentence: `${counted(twice.length, 'cut line lies', 'cut lines lie')} on another: the knife would go twice, and through.`,
      ...placeOf(first ? [first.polyline] : []),
      mend: {
        label: 'Keep one of each',
        change: redraw(
          input,
          lines.filter((_, i) => !twice.includes(i)).map(({ tool, path }) => ({ tool, path }))
        )
      }
    }
  ];
}

export function cutNodes(input: CheckInput): Found[] {
  const nodes = input.lines.reduce((sum, line) => sum + line.outline.length, 0);
  if (nodes <= input.limits.nodes) return [];
  return [
    {
      id: 'cut-nodes',
      level: 'look',
      figure: nodes.toLocaleString('en-GB'),
      limit: input.limits.nodes.toLocaleString('en-GB'),
      sentence: `${nodes.toLocaleString('en-GB')} nodes in the cut lines, ${input.limits.nodes.toLocaleString('en-GB')} are the shop’s most. The cutter stutters, and edges get rough.${tooMany(input) ? ' Corners, crossings and islands are looked at when they are fewer.' : ''}`,
      mend: redrawn(input, `Smooth them to ${lengthIn(input, SMOOTH_MM)}`, (path) =>
        closedRings(path).flatMap((ring) => fitRing(ring, SMOOTH_MM))
      )
    }
  ];
}

export function cutCorners(input: CheckInput): Found[] {
  if (tooMany(input)) return [];
  const rings = knifeLines(input)
    .filter(({ polyline, id }) => polyline.closed && id !== 'weed')
    .map(({ polyline }) => polyline.points);
  const { knifeMm } = input.limits;
  const thin = slivers(rings, knifeMm);
  const first = thin[0];
  if (!first) return [];
  return [
    {
      id: 'cut-corners',
      level: 'look',
      figure: counted(thin.length, 'place'),
      limit: lengthIn(input, knifeMm),
      sentence: `In ${counted(thin.length, 'place')} the cut is narrower than ${lengthIn(input, knifeMm)}. The knife tears such points and slivers.`,
      place: first
    }
  ];
}

export function cutOutside(input: CheckInput): Found[] {
  const { choices } = input;
  const room = choices.bleedMm;
  // Weed lines too: all of it must find room beside the neighbours.
  const box = bounds(input.lines.flatMap(({ outline }) => flatten(outline, FLAT_MM)));
  if (!box) return [];
  const beyond = Math.max(
    -room - box.x,
    -room - box.y,
    box.x + box.width - choices.widthMm - room,
    box.y + box.height - choices.heightMm - room
  );
  if (beyond <= 0.05) return [];
  return [
    {
      id: 'cut-outside',
      level: 'look',
      figure: lengthIn(input, beyond),
      limit: lengthIn(input, room),
      sentence: `A cut line runs ${lengthIn(input, beyond)} outside of what is printed. It may run into the neighbour on the roll.`,
      place: box,
      mend: {
        label: `Make ${lengthIn(input, Math.ceil((room + beyond) * 10) / 10)} of bleed`,
        change: {
          bleedMm: Math.min(200, Math.ceil((room + beyond) * 10) / 10),
          bleedFrom: choices.bleedFrom === 'page' ? 'mirror' : choices.bleedFrom
        }
      }
    }
  ];
}

export function cutIslands(input: CheckInput): Found[] {
  if (tooMany(input)) return [];
  const { islandMm } = input.limits;
  const kiss = knifeLines(input).filter(({ tool }) => tool === 'kiss cut');
  const small = islands(
    kiss.map(({ polyline }) => polyline),
    islandMm
  );
  const first = small[0];
  if (!first) return [];
  const isSmall = (polyline: Polyline) => {
    const box = bounds([polyline]);
    return box !== undefined && small.some((one) => one.x === box.x && one.y === box.y && one.width === box.width);
  };
  return [
    {
      id: 'cut-islands',
      level: 'look',
      figure: counted(small.length, 'piece'),
      limit: lengthIn(input, islandMm),
      sentence: `${counted(small.length, 'piece is', 'pieces are')} smaller than ${lengthIn(input, islandMm)}: ${small.length === 1 ? 'it lifts' : 'they lift'} off with the waste.`,
      place: first,
      mend: {
        label: 'Leave them out',
        change: redraw(
          input,
          knifeLines(input)
            .filter(({ tool, polyline }) => tool !== 'kiss cut' || !isSmall(polyline))
            .map(({ tool, path }) => ({ tool, path }))
        )
      }
    }
  ];
}

/** A line that the artwork runs along or clears has ink under all of it, or under none. */
export function cutThroughArt({ measured, lines }: CheckInput): Found[] {
  const ink = measured?.cutInk;
  if (!ink || lines.length === 0 || ink.changes === 0) return [];
  return [
    {
      id: 'cut-art',
      level: 'look',
      figure: counted(ink.changes, 'place'),
      limit: '0',
      sentence: `Artwork begins or ends on the cut line in ${counted(ink.changes, 'place')}; ${per(ink.share)} of the line has ink under it. An edge of print or of white will show there.`,
      ...(ink.place && { place: ink.place })
    }
  ];
}

interface KnifeLine {
  id: string;
  tool: Tool;
  /** One subpath. */
  path: Path;
  polyline: Polyline;
}

/** What kiss or through cuts: those must be closed and free of each other. Creases and perforations may end anywhere. */
function knifeLines({ lines }: CheckInput): KnifeLine[] {
  return lines
    .filter(({ tool, id }) => (tool === 'kiss cut' || tool === 'through cut') && !(id === 'weed'))
    .flatMap(({ id, tool, outline }) =>
      subpaths(outline).flatMap((path) => {
        const [polyline] = flatten(path, FLAT_MM);
        return polyline ? [{ id, tool, path, polyline }] : [];
      })
    );
}

function placeOf(lines: Polyline[]): Pick<Found, 'place'> {
  const place = bounds(lines);
  return place ? { place } : {};
}

/** Every line drawn anew; the customer's own stay in the file but are not cut. */
function redrawn(input: CheckInput, label: string, change: (path: Path) => Path): Mend {
  const kept = input.lines.filter((line) => line.id !== 'weed');
  return {
    label,
    change: redraw(
      input,
      kept.map(({ tool, outline }: FinishedLine) => ({ tool, path: change(outline) }))
    )
  };
}

/** Areas of all closed lines of a tool as one. */
function united(input: CheckInput): Mend {
  const lines = input.lines.filter((line) => line.id !== 'weed');
  const tools = [...new Set(lines.map((line) => line.tool))];
  const drawn = tools.map((tool) => {
    const ofTool = lines.filter((line) => line.tool === tool);
    const open = ofTool.flatMap((line) => subpaths(line.outline).filter((part) => part.at(-1)?.kind !== 'close'));
    const rings = unite(ofTool.flatMap((line) => closedRings(line.outline)));
    return { tool, path: [...rings.flatMap((ring) => fitRing(ring, 0.02)), ...open.flat()] };
  });
  return { label: 'Merge them', change: redraw(input, drawn) };
}

/** Lines of the finished size as the docket's own, one for each tool. */
function redraw({ choices, preparation }: CheckInput, lines: readonly { tool: Tool; path: Path }[]): Partial<ArtworkChoices> {
  const toPage = finishedToPage(preparation, choices);
  const tools = [...new Set(lines.map((line) => line.tool))];
  const made = tools.map((tool, i): MadeLine => {
    const outline = lines.filter((line) => line.tool === tool).flatMap((line) => transformPath(line.path, toPage));
    return { ...pageLine(), id: `drawn-${i + 1}`, tool, from: { kind: 'drawn', outline: pathData(outline, 4) } };
  });
  return { lines: { ...choices.lines, customer: { ...choices.lines.customer, use: false }, made } };
}
