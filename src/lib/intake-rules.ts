import { z } from 'zod';
import { plainName } from '$core/units/names';

/** Rules of the shop: when something that comes in is so, it is made by a recipe. The first that fits counts. */

const text = z.string().trim().max(120, 'At most 120 characters.');
const figure = (what: string, most: number) =>
  z
    .number({ error: `${what} must be a figure.` })
    .min(0, `${what} must not be below 0.`)
    .max(most, `${what} is too large.`)
    .nullable()
    .default(null);

/** What is said of it; what is empty is not asked. */
export const IntakeWhen = z.object({
  /** The customer, whole, whatever its capitals. */
  customer: text.default(''),
  /** The file's name; * stands for anything. */
  name: text.default(''),
  /** A spot colour or layer that it has; * stands for anything. */
  spot: text.default(''),
  /** Of its longer side, mm. */
  leastMm: figure('The size', 1e6),
  mostMm: figure('The size', 1e6),
  leastPages: figure('The number of pages', 1e6),
  mostPages: figure('The number of pages', 1e6),
  /** What the docket would be printed on. */
  media: text.default('')
});
export type IntakeWhen = z.infer<typeof IntakeWhen>;

export const IntakeRule = z.object({ when: IntakeWhen, recipeId: z.int().min(1) });
export type IntakeRule = z.infer<typeof IntakeRule>;
export const IntakeRules = z.array(IntakeRule).max(200, 'At most 200 rules.');

/** What rules are asked of. */
export interface Incoming {
  customer: string;
  /** Of the file. */
  name: string;
  /** Its spot colours and layers. */
  spots: readonly string[];
  widthMm: number;
  heightMm: number;
  pages: number;
  media: string;
}

/** Whether a name is as a pattern says: * stands for anything; capitals, accents, spaces and points for nothing. */
export function fitsPattern(name: string, pattern: string): boolean {
  const parts = pattern.split('*').map(plainName);
  const plain = plainName(name);
  if (parts.length === 1) return plain === parts[0];
  const [first, ...rest] = parts as [string, ...string[]];
  const last = rest.pop()!;
  if (!plain.startsWith(first) || !plain.endsWith(last) || plain.length < first.length + last.length) return false;
  // What is between is found from the left, each as early as it can be.
  let at = first.length;
  const end = plain.length - last.length;
  for (const part of rest) {
    const found = plain.indexOf(part, at);
    if (found < 0 || found + part.length > end) return false;
    at = found + part.length;
  }
  return true;
}

export function fitsWhen(when: IntakeWhen, { customer, name, spots, widthMm, heightMm, pages, media }: Incoming): boolean {
  const longer = Math.max(widthMm, heightMm);
  const within = (value: number, least: number | null, most: number | null) =>
    (least ?? -Infinity) <= value + 0.05 && value - 0.05 <= (most ?? Infinity);
  return (
    (when.customer === '' || plainName(when.customer) === plainName(customer)) &&
    (when.name === '' || fitsPattern(name, when.name)) &&
    (when.spot === '' || spots.some((spot) => fitsPattern(spot, when.spot))) &&
    within(longer, when.leastMm, when.mostMm) &&
    within(pages, when.leastPages, when.mostPages) &&
    (when.media === '' || plainName(when.media) === plainName(media))
  );
}

/** The first rule that fits, and its place. */
export function ruleFor(rules: readonly IntakeRule[], incoming: Incoming): { rule: IntakeRule; place: number } | undefined {
  const place = rules.findIndex(({ when }) => fitsWhen(when, incoming));
  return place < 0 ? undefined : { rule: rules[place]!, place };
}
