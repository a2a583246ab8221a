import { seededRandom } from '../../core/geometry/random';

/** Calls of the interface as its own description at /api says that they may be made, mostly as they should be. */

type Schema = Record<string, unknown> & {
  type?: string | string[];
  properties?: Record<string, Schema>;
  required?: string[];
  items?: Schema;
  prefixItems?: Schema[];
  anyOf?: Schema[];
  oneOf?: Schema[];
  allOf?: Schema[];
  enum?: unknown[];
  additionalProperties?: Schema | boolean;
  minimum?: number;
  maximum?: number;
  minItems?: number;
  maxItems?: number;
  maxLength?: number;
  pattern?: string;
};
interface Parameter {
  name: string;
  in: string;
  required: boolean;
  schema: Schema;
}
export interface Described {
  paths: Record<
    string,
    Record<string, { parameters?: Parameter[]; requestBody?: { content: Partial<Record<string, { schema: Schema }>> } }>
  >;
}

export interface AnyCall {
  method: string;
  /** With its query. */
  path: string;
  body: string | undefined;
  isJson: boolean;
}

/** What nobody should send. */
const ODD = [
  null,
  '',
  0,
  -1,
  1e308,
  0.1,
  'x'.repeat(300),
  [],
  {},
  true,
  '\u0000',
  'constructor',
  '__proto__',
  99999999999,
  '../../x'
];
const WORDS = [
  '',
  'a',
  'Gull',
  'Tea room',
  '1',
  '2026-12-01',
  'kiss cut',
  'Ελένη',
  "'; DROP",
  '%',
  '*',
  '{{Name}}',
  'y'.repeat(300)
];
const BODIES = ['', 'x', '{}', '[]', '<a/>', 'CGATS.17\nBEGIN_DATA\n', '%PDF-1.4\n', 'Name;L*;a*;b*\nDawn;50;1;2\n'];
const DEEPEST = 8;

/**
 * @param leave what is not to be called: method and path as they are described
 * @returns the next call, for ever
 */
export function* anyCalls(
  described: Described,
  seed: number,
  leave: (method: string, path: string) => boolean
): Generator<AnyCall> {
  const random = seededRandom(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const whole = (from: number, to: number) => from + Math.floor(random() * (to - from + 1));

  function made(schema: Schema, depth = 0): unknown {
    if (depth > DEEPEST || random() < 0.01) return pick(ODD);
    if ('const' in schema) return schema.const;
    if (schema.enum) return pick(schema.enum);
    const one = schema.anyOf ?? schema.oneOf;
    if (one) return made(pick(one), depth + 1);
    if (schema.allOf) return Object.assign({}, ...schema.allOf.map((part) => made(part, depth + 1))) as unknown;
    switch (Array.isArray(schema.type) ? pick(schema.type) : schema.type) {
      case 'object': {
        const { properties = {}, required = [], additionalProperties } = schema;
        const own = Object.entries(properties).filter(([name]) => required.includes(name) || random() < 0.6);
        const entries = own.map(([name, part]): [string, unknown] => [name, made(part, depth + 1)]);
        if (typeof additionalProperties === 'object')
          for (let left = whole(0, 2); left > 0; left--)
            entries.push([pick(['Cyan', 'White', '1', 'a b', 'constructor']), made(additionalProperties, depth + 1)]);
        return Object.fromEntries(entries);
      }
      case 'array': {
        const { prefixItems, items = {}, minItems = 0, maxItems = Infinity } = schema;
        if (prefixItems) return prefixItems.map((part) => made(part, depth + 1));
        const length = whole(minItems, Math.min(maxItems, minItems + 3));
        return Array.from({ length }, () => made(items, depth + 1));
      }
      case 'integer':
      case 'number': {
        const [least, most] = [Math.max(schema.minimum ?? 0, -5), Math.min(schema.maximum ?? 20, 20)];
        if (random() < 0.1) return pick([schema.minimum ?? 0, schema.maximum ?? 1e9, 0]);
        return schema.type === 'integer' ? whole(Math.min(least, most), most) : least + random() * (most - least);
      }
      case 'boolean':
        return random() < 0.5;
      case 'string':
        return schema.pattern ? pick(['1', 'folder-1', 'program', '#12ab34']) : pick(WORDS).slice(0, schema.maxLength ?? 300);
      case 'null':
        return null;
      default:
        return pick(ODD);
    }
  }

  const calls = Object.entries(described.paths).flatMap(([path, methods]) =>
    Object.entries(methods).flatMap(([method, call]) => (leave(method, path) ? [] : [{ path, method, call }]))
  );
  for (;;) {
    const { path, method, call } = pick(calls);
    // What is deleted is not there for what comes after.
    if (method === 'delete' && random() < 0.8) continue;
    const filled = path.replace(/\{(\w+)\}/g, (_, name: string) => {
      if (name === 'list') return pick(['dockets', 'artwork', 'runs', 'cuts', 'conditions', 'media', 'modes', 'colours', 'x']);
      if (name === 'space') return pick(['srgb', 'wide', '1']);
      return encodeURIComponent(random() < 0.03 ? String(pick(ODD)) : String(whole(1, 12)));
    });
    const query = new URLSearchParams();
    for (const { name, in: where, required, schema } of call.parameters ?? []) {
      if (where !== 'query' || !(required || random() < 0.5)) continue;
      const value = made(schema);
      query.set(name, typeof value === 'string' ? value : JSON.stringify(value));
    }
    const schema = call.requestBody?.content['application/json']?.schema;
    const isBare = method === 'get' || method === 'delete';
    const body = schema ? JSON.stringify(made(schema)) : isBare ? undefined : pick(BODIES);
    yield { method: method.toUpperCase(), path: `${filled}?${query.toString()}`, body, isJson: schema !== undefined };
  }
}
