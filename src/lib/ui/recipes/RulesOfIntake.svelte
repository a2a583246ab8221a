<script lang="ts">
  import Down from '@lucide/svelte/icons/chevron-down';
  import Up from '@lucide/svelte/icons/chevron-up';
  import X from '@lucide/svelte/icons/x';
  import { onMount, untrack } from 'svelte';
  import { IntakeRules, IntakeWhen, type IntakeRule } from '$lib/intake-rules';
  import type { LengthUnit } from '$core/units/length';
  import type { ArtworkLine } from '$lib/server/artwork/artwork-list';
  import type { KeptRules } from '$lib/server/automation/intake';
  import { attempt, send } from '$lib/ui/common/client';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import { Draft } from '$lib/ui/common/draft.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { fromServer } from '$lib/ui/list/source';

  /** Rules of the shop: when what comes in is so, then it is made by a recipe. Tried on a file before they are kept. */
  let {
    kept,
    recipes,
    medias,
    unit
  }: { kept: KeptRules; recipes: readonly { id: number; name: string }[]; medias: readonly string[]; unit: LengthUnit } =
    $props();

  const keptOf = ({ version, rules: value }: KeptRules) => ({ version, value });
  const draft = untrack(() => new Draft('rules of intake', keptOf(kept), (waits) => IntakeRules.safeParse(waits).data));
  onMount(() => draft.restore());
  $effect(() => {
    const now = keptOf(kept);
    untrack(() => draft.adopt(now));
  });
  const rules = $derived(draft.current);

  type Asked = 'customer' | 'name' | 'spot' | 'size' | 'pages' | 'media';
  const ASKS: Record<Asked, string> = {
    customer: 'the customer is',
    name: 'the file is called',
    spot: 'it has a spot colour or layer',
    size: 'its longer side is',
    pages: 'its pages are',
    media: 'it would be printed on'
  };
  const asks = ({ when }: IntakeRule): Asked[] => [
    ...(when.customer !== '' ? (['customer'] as const) : []),
    ...(when.name !== '' ? (['name'] as const) : []),
    ...(when.spot !== '' ? (['spot'] as const) : []),
    ...(when.leastMm !== null || when.mostMm !== null ? (['size'] as const) : []),
    ...(when.leastPages !== null || when.mostPages !== null ? (['pages'] as const) : []),
    ...(when.media !== '' ? (['media'] as const) : [])
  ];
  const BEGUN: Record<Asked, Partial<IntakeWhen>> = $derived({
    customer: { customer: 'Somebody' },
    name: { name: '*.pdf' },
    spot: { spot: '*' },
    size: { leastMm: 0, mostMm: 1000 },
    pages: { leastPages: 2, mostPages: null },
    media: { media: medias[0] ?? '' }
  });
  const NOT: Record<Asked, Partial<IntakeWhen>> = {
    customer: { customer: '' },
    name: { name: '' },
    spot: { spot: '' },
    size: { leastMm: null, mostMm: null },
    pages: { leastPages: null, mostPages: null },
    media: { media: '' }
  };
  function put(list: IntakeRule[]): void {
    draft.change(list);
    // It was tried on others.
    tried = null;
  }
  const set = (place: number, part: Partial<IntakeRule>) =>
    put(rules.map((rule, i) => (i === place ? { ...rule, ...part } : rule)));
  const ask = (place: number, part: Partial<IntakeWhen>) => set(place, { when: { ...rules[place]!.when, ...part } });
  function move(place: number, by: -1 | 1): void {
    const list = [...rules];
    const [rule] = list.splice(place, 1);
    list.splice(place + by, 0, rule!);
    put(list);
  }
  const add = () => put([...rules, { when: IntakeWhen.parse({ name: '*' }), recipeId: recipes[0]!.id }]);
  const keep = () =>
    attempt(async () => {
      const { version, current: sent } = draft;
      draft.kept(keptOf(await send<KeptRules>('PUT', '/api/intake-rules', { version, rules: sent })), sent);
    }, 'Kept.');

  // Tried on a file.
  const found = fromServer<ArtworkLine>('artwork');
  let files = $state.raw<ArtworkLine[]>([]);
  let file = $state<number | null>(null);
  let customer = $state('');
  let tried = $state.raw<{ place: number; changes: { part: string; was: string; is: string }[]; lacking: string[] } | null>(null);
  const look = () =>
    attempt(async () => {
      files = (await found.page(new URLSearchParams(), 0)).rows.filter(({ state }) => state === 'ready').slice(0, 60);
      file ??= files[0]?.id ?? null;
    });
  async function attemptIt(): Promise<void> {
    const line = files.find(({ id }) => id === file);
    if (!line) return;
    await attempt(async () => {
      tried = await send<NonNullable<typeof tried>>('POST', '/api/intake-rules/try', { rules, artworkId: line.artworkId, page: line.page, customer }); // prettier-ignore
    });
  }
  const nameOf = (id: number) => recipes.find((one) => one.id === id)?.name ?? 'a recipe that is gone';
</script>

<section aria-label="Rules for what comes in">
  <header class="mb-1 flex items-center gap-2">
    <h2 class="panel-title grow">When something comes in</h2>
    {#if draft.isChanged}<button class="btn btn-xs" onclick={() => draft.drop()}>As it was</button>
      <button class="btn btn-xs btn-primary" onclick={keep}>Keep the rules</button>{/if}
    <button
      class="btn btn-xs"
      disabled={recipes.length === 0}
      title={recipes.length === 0 ? 'Keep a recipe first' : ''}
      onclick={add}>Another rule</button
    >
  </header>
  {#if draft.isOverNewer}<p class="text-error" role="alert">
      The rules were changed in another window meanwhile. <button class="btn btn-xs" onclick={() => draft.drop()}
        >Show those</button
      >
    </p>{/if}
  {#if rules.length === 0}<p class="text-base-content/70 text-sm">
      A rule says: when it is so, make it by that recipe. The first that fits counts, for dockets made by hand and for folders
      without a recipe.
    </p>{/if}
  <ol class="divide-base-300 divide-y">
    {#each rules as rule, i (i)}
      <li class="flex items-start gap-2 py-1.5 leading-8" class:bg-base-200={tried?.place === i}>
        <span class="w-5 text-right">{i + 1}.</span>
        <p class="grow">
          When
          {#each asks(rule) as one, k (one)}{k > 0 ? ', and ' : ''}{ASKS[one]}
            {#if one === 'customer' || one === 'name' || one === 'spot'}<input
                class="in-sentence"
                aria-label="Rule {i + 1}: {ASKS[one]}"
                maxlength="120"
                value={rule.when[one]}
                onchange={(event) => ask(i, { [one]: event.currentTarget.value.trim() || '*' })}
              />{:else if one === 'media'}<select
                class="in-sentence"
                aria-label="Rule {i + 1}: media"
                value={rule.when.media}
                onchange={(event) => ask(i, { media: event.currentTarget.value })}
                >{#each [...new Set([rule.when.media, ...medias])] as media (media)}<option value={media}>{media}</option
                  >{/each}</select
              >{:else if one === 'size'}<LengthBox
                sentence
                label="Rule {i + 1}: at least"
                {unit}
                value={rule.when.leastMm ?? 0}
                onchange={(leastMm) => ask(i, { leastMm })}
              /> to <LengthBox
                sentence
                label="Rule {i + 1}: at most"
                {unit}
                value={rule.when.mostMm ?? 100_000}
                onchange={(mostMm) => ask(i, { mostMm })}
              />{:else}<FigureBox
                sentence
                min={1}
                label="Rule {i + 1}: pages at least"
                max={10_000}
                value={rule.when.leastPages ?? 1}
                onchange={(leastPages) => ask(i, { leastPages })}
              /> to <FigureBox
                sentence
                min={1}
                label="Rule {i + 1}: pages at most"
                max={10_000}
                placeholder="any number"
                value={rule.when.mostPages}
                onchange={(mostPages) => ask(i, { mostPages })}
                onempty={() => ask(i, { mostPages: null, leastPages: rule.when.leastPages ?? 1 })}
              />{/if}<button
              class="btn btn-ghost btn-xs btn-square"
              aria-label="Rule {i + 1}: do not ask whether {ASKS[one]}"
              onclick={() => ask(i, NOT[one])}><X size={13} /></button
            >{:else}anything comes{/each}
          <select
            class="in-sentence text-base-content/70"
            aria-label="Rule {i + 1}: ask for more"
            value=""
            onchange={(event) => {
              const one = event.currentTarget.value as Asked;
              event.currentTarget.value = '';
              ask(i, BEGUN[one]);
            }}
          >
            <option value="" disabled>and…</option>
            {#each (Object.keys(ASKS) as Asked[]).filter((one) => !asks(rule).includes(one)) as one (one)}<option value={one}
                >{ASKS[one]}</option
              >{/each}
          </select>
          it is made by
          <select
            class="in-sentence"
            aria-label="Rule {i + 1}: recipe"
            value={String(rule.recipeId)}
            onchange={(event) => set(i, { recipeId: Number(event.currentTarget.value) })}
          >
            {#if !recipes.some(({ id }) => id === rule.recipeId)}<option value={String(rule.recipeId)}
                >{nameOf(rule.recipeId)}</option
              >{/if}
            {#each recipes as { id, name } (id)}<option value={String(id)}>{name}</option>{/each}
          </select>
        </p>
        <button
          class="btn btn-ghost btn-xs btn-square"
          disabled={i === 0}
          aria-label="Rule {i + 1} earlier"
          onclick={() => move(i, -1)}><Up size={14} /></button
        >
        <button
          class="btn btn-ghost btn-xs btn-square"
          disabled={i === rules.length - 1}
          aria-label="Rule {i + 1} later"
          onclick={() => move(i, 1)}><Down size={14} /></button
        >
        <button
          class="btn btn-ghost btn-xs btn-square"
          aria-label="Drop rule {i + 1}"
          onclick={() => put(rules.filter((_, k) => k !== i))}><X size={14} /></button
        >
      </li>
    {/each}
  </ol>
  {#if rules.length > 0}
    <details class="mt-2" ontoggle={(event) => event.currentTarget.open && files.length === 0 && void look()}>
      <summary>Try them on a file</summary>
      <p class="flex flex-wrap items-center gap-2 py-1">
        <select
          class="select select-sm w-64"
          aria-label="File to try the rules on"
          value={String(file)}
          onchange={(event) => (file = Number(event.currentTarget.value))}
        >
          {#each files as { id, name, page } (id)}<option value={String(id)}>{name}{page > 0 ? `, page ${page + 1}` : ''}</option
            >{/each}
        </select>
        for
        <input
          class="input input-sm w-48"
          aria-label="Customer to try the rules with"
          placeholder="a customer"
          maxlength="120"
          bind:value={customer}
        />
        <button class="btn btn-sm" disabled={file === null} onclick={attemptIt}>Try</button>
      </p>
      {#if tried}
        <div role="status">
          {#if tried.place < 0}<p>No rule fits: it is made as by hand.</p>
          {:else}
            <p>Rule {tried.place + 1} fits: it is made by {nameOf(rules[tried.place]?.recipeId ?? 0)}.</p>
            {#each tried.lacking as sentence (sentence)}<p class="text-error">{sentence}</p>{/each}
            {#each tried.changes as { part, was, is } (part)}<p class="text-sm">
                <span class="text-base-content/70 line-through">{was}</span>
                {is}
              </p>{/each}
          {/if}
        </div>
      {/if}
    </details>
  {/if}
</section>
