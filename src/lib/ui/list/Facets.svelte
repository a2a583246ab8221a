<script lang="ts">
  import type { FacetValue, ListQuery, ListShape } from '$lib/listing';

  interface Props {
    facets: Record<string, FacetValue[]>;
    query: ListQuery;
    shape: ListShape;
    /** By facet: what it is called. */
    titles: Readonly<Record<string, string>>;
    onchange: (query: ListQuery) => void;
  }
  let { facets, query, shape, titles, onchange }: Props = $props();

  /** What is open is shown where nothing is said and nothing looked for. */
  const isOpenAlone = $derived(shape.open !== undefined && !query.facets[shape.open.facet]?.length && query.words.trim() === '');
  const isOn = (facet: string, value: string) =>
    (query.facets[facet]?.includes(value) ?? false) || (isOpenAlone && facet === shape.open?.facet && value === shape.open.value);

  function toggle(facet: string, value: string): void {
    const before = query.facets[facet] ?? [];
    const after = before.includes(value) ? before.filter((one) => one !== value) : [...before, value];
    onchange({ ...query, facets: { ...query.facets, [facet]: after } });
  }
  /** A facet with one value that everything has tells nothing. */
  const shown = $derived(
    Object.keys(titles).filter((name) => (facets[name]?.length ?? 0) > 1 || (query.facets[name]?.length ?? 0) > 0)
  );
</script>

<form
  class="border-base-300 w-44 shrink-0 [scrollbar-gutter:stable] space-y-3 overflow-y-auto border-r p-3 pr-1 text-sm 2xl:w-56"
  aria-label="Narrow down"
  onsubmit={(event) => event.preventDefault()}
>
  {#each shown as facet (facet)}
    <fieldset class="min-w-0">
      <legend class="panel-title">{titles[facet] ?? facet}</legend>
      <ul>
        {#each facets[facet] ?? [] as { value, count } (value)}
          {@const on = isOn(facet, value)}
          <li>
            <button
              type="button"
              class="flex min-h-[24px] w-full items-center justify-between gap-2 rounded px-1.5 text-left {on
                ? 'bg-primary text-primary-content font-semibold'
                : 'hover:bg-base-300'}"
              aria-pressed={on}
              onclick={() => toggle(facet, value)}
              ><span class="truncate" title={value}>{value}</span><span class="tabular-nums">{count.toLocaleString('en-GB')}</span
              ></button
            >
          </li>
        {/each}
      </ul>
    </fieldset>
  {:else}
    <p class="text-base-content/70">Nothing to narrow down by yet.</p>
  {/each}
</form>
