import { distance } from 'fastest-levenshtein';
import { z } from 'zod';
import { layersOf, type Belongs } from './facts';

/** What a spot colour or a layer of an artwork is for. */
export const ROLES = [
  'prints',
  'kiss cut',
  'through cut',
  'crease',
  'perforation',
  'white',
  'varnish',
  'primer',
  'guide',
  'data area'
] as const;
export const Role = z.enum(ROLES);
export type Role = z.infer<typeof Role>;

/** Roles whose lines go to the cutter, in the order that tools work: what frees a piece comes last. */
export const TOOLS = ['kiss cut', 'crease', 'perforation', 'through cut'] as const;
export type Tool = (typeof TOOLS)[number];
export const isTool = (role: string | undefined): role is Tool => TOOLS.some((tool) => tool === role);

/**
 * The tool that a line of a page goes to: its spot colour's, or that of the innermost of its layers which has a role.
 *
 * @param roleOf the role of a spot colour or layer by its name
 */
export function toolOf(line: Belongs, roleOf: (name: string) => Role | undefined): Tool | undefined {
  const ofSpot = line.spot === undefined ? undefined : roleOf(line.spot);
  if (isTool(ofSpot)) return ofSpot;
  const ofLayer = layersOf(line)
    .map(roleOf)
    .find((role) => role !== undefined);
  return isTool(ofLayer) ? ofLayer : undefined;
}

/** Names that fit the pattern (`*` stands for anything) have the role. */
export const RoleRule = z.object({
  pattern: z.string().trim().min(1, 'A pattern must not be empty.').max(60, 'A pattern has at most 60 characters.'),
  role: Role
});
export type RoleRule = z.infer<typeof RoleRule>;

/** A name as it is compared: case, spaces, hyphens, underscores, dots and accents do not matter. */
export const plainName = (name: string): string =>
  name
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[\s\-_.]+/g, '');

/** Patterns made ready once: a drawing has tens of thousands of names. */
const ready = new Map<string, RegExp>();

function expressionOf(pattern: string): RegExp {
  const known = ready.get(pattern);
  if (known) return known;
  const parts = plainName(pattern)
    .split('*')
    .map((part) => part.replace(/[\\^$.*+?()[\]{}|/]/g, '\\$&'));
  const expression = new RegExp(`^${parts.join('.*')}$`, 'u');
  if (ready.size > 1000) ready.clear();
  ready.set(pattern, expression);
  return expression;
}

/** The shop's rules that fit a name; the first counts. */
export function rulesFor(name: string, rules: readonly RoleRule[]): RoleRule[] {
  const plain = plainName(name);
  return rules.filter((rule) => expressionOf(rule.pattern).test(plain));
}

/** The shop's rule for a name: the first that fits. */
export function ruleFor(name: string, rules: readonly RoleRule[]): RoleRule | undefined {
  const plain = plainName(name);
  return rules.find((rule) => expressionOf(rule.pattern).test(plain));
}

/** The role of a name: as the docket says, otherwise as the shop's rules do; none where neither knows it. */
export function roleOf(name: string, rules: readonly RoleRule[], ofDocket: Readonly<Record<string, Role>>): Role | undefined {
  return (Object.hasOwn(ofDocket, name) ? ofDocket[name] : undefined) ?? ruleFor(name, rules)?.role;
}

/** A rule that a name misses by one letter: added, left out, or another. Short names are too easily alike. */
export function nearRule(name: string, rules: readonly RoleRule[]): RoleRule | undefined {
  const plain = plainName(name);
  if (plain.length < 4 || ruleFor(name, rules)) return undefined;
  return rules.find((rule) => distance(plain, plainName(rule.pattern).replaceAll('*', '')) === 1);
}

export const DEFAULT_RULES: RoleRule[] = [
  { pattern: '*through cut*', role: 'through cut' },
  { pattern: 'die line', role: 'through cut' },
  { pattern: '*kiss cut*', role: 'kiss cut' },
  { pattern: 'cut', role: 'kiss cut' },
  { pattern: 'cut line*', role: 'kiss cut' },
  { pattern: '*contour*', role: 'kiss cut' },
  { pattern: 'crease*', role: 'crease' },
  { pattern: 'fold', role: 'crease' },
  { pattern: 'fold line*', role: 'crease' },
  { pattern: 'perforation*', role: 'perforation' },
  { pattern: 'white', role: 'white' },
  { pattern: 'white ink*', role: 'white' },
  { pattern: '*underprint*', role: 'white' },
  { pattern: 'varnish*', role: 'varnish' },
  { pattern: 'primer', role: 'primer' },
  { pattern: 'guide*', role: 'guide' },
  { pattern: 'data area*', role: 'data area' }
];
