import { listsOf } from './fonts';

/** A rule is told by these alone: anything, an element’s name, a class, an id. */
const PLAIN = /^(?:\*|[a-z]+|[.#][\w-]+)$/i;

const MOST_SELECTORS = 1000;

/** Which fonts style sheets ask for, and where: enough of the cascade to show an operator the place, no more. */
export class FontRules {
  /** By selector; what was read later counts more. */
  readonly #lists = new Map<string, { list: string; order: number }>();
  readonly #elsewhere = new Set<string>();
  #order = 0;

  /**
   * @param css without comments
   * @param used whether lettering came before: it cannot be told any more where these count
   */
  add(css: string, used: boolean): void {
    for (const rule of css.split('}')) {
      const at = rule.lastIndexOf('{');
      const list = at < 0 ? undefined : listsOf(rule.slice(at + 1)).at(-1);
      if (list === undefined) continue;
      for (const selector of rule
        .slice(0, at)
        .split(',', MOST_SELECTORS)
        .map((one) => one.trim())) {
        if (PLAIN.test(selector) && !used) this.#lists.set(selector, { list, order: this.#order++ });
        else this.#elsewhere.add(list);
      }
    }
  }

  /** @returns the list of families for an element, where it has one of its own */
  listFor(name: string, attributes: Readonly<Record<string, string>>): string | undefined {
    const classes = (attributes['class'] ?? '').split(/\s+/).map((one) => this.#lists.get(`.${one}`));
    const ofClass = classes.filter((rule) => rule !== undefined).sort((a, b) => b.order - a.order)[0];
    return (
      listsOf(attributes['style'] ?? '').at(-1) ??
      (this.#lists.get(`#${attributes['id'] ?? ''}`) ?? ofClass ?? this.#lists.get(name) ?? this.#lists.get('*'))?.list ??
      attributes['font-family']
    );
  }

  /** Lists that count somewhere, which is not followed. */
  get elsewhere(): Iterable<string> {
    return this.#elsewhere;
  }
}
