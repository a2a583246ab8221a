<script lang="ts">
  import { ROLES, roleOf, ruleFor, type Role } from '$core/artwork/roles';
  import { isPlainTone } from '$core/colour/tone';
  import { fieldSpots } from '$core/records/field-spots';
  import { counted } from '$core/units/counted';
  import { SHOPS_OWN, type DocketChoices } from '$lib/docket-choices';
  import { attempt } from '$lib/ui/common/client';
  import { changeSettings } from '$lib/ui/shop/change-settings';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import type { TicketView } from './ticket';

  let { view }: { view: TicketView } = $props();

  const { choices, settings, docket } = $derived(view);
  const { facts } = $derived(docket.artwork);
  interface Named {
    name: string;
    what: string;
    colour: [number, number, number] | null | undefined;
    isLayer: boolean;
  }
  const named = $derived<Named[]>([
    ...facts.spots.map(({ name, colour, outlines, objects }) => ({
      name,
      colour,
      isLayer: false,
      what: outlines === objects ? counted(outlines, 'outline') : counted(objects, 'object')
    })),
    ...fieldSpots(choices.records.fields)
      .filter((name) => !facts.spots.some((spot) => spot.name === name))
      .map((name) => ({ name, colour: undefined, isLayer: false, what: 'in fields' })),
    ...facts.layers.map(({ name, group }) => ({
      name,
      colour: undefined,
      isLayer: true,
      what: group === null ? 'layer' : `layer, one of ${facts.layers.filter((layer) => layer.group === group).length}`
    }))
  ]);
  const nameOf = (id: string) => view.sources.find((source) => source.id === id)?.name ?? 'the usual';
  const intent = $derived(docket.artwork.outputIntent);
  const SPACES = [
    ['rgb', 'RGB'],
    ['cmyk', 'CMYK'],
    ['grey', 'grey']
  ] as const;
  /** What a plain space is read as where the docket does not say. */
  const usual = (space: (typeof SPACES)[number][0]) =>
    intent?.space === space ? `as the file says: ${intent.name}` : `as in the shop: ${nameOf(settings.sources[space])}`;
  const own = $derived(SPACES.flatMap(([space]) => (choices.sources[space] ? [choices.sources[space]] : [])));
  const sourceWords = $derived(
    own.length > 0
      ? `colours are read as ${own.map((id) => (id === SHOPS_OWN ? 'in the shop' : nameOf(id))).join(', ')}`
      : intent
        ? `${SPACES.find(([space]) => space === intent.space)?.[1]} is read as the file says: ${intent.name}`
        : 'colours are read as in the shop'
  );
  const toneWords = $derived.by(() => {
    const { adjustment, tone } = choices;
    const parts = [
      ...(['brightness', 'contrast', 'saturation', 'cast'] as const).flatMap((part) =>
        adjustment[part] === 0
          ? []
          : [`${part} ${adjustment[part] > 0 && part !== 'cast' ? '+' : ''}${Math.round(adjustment[part] * 100)}`]
      ),
      ...(isPlainTone(tone) ? [] : ['curves of its own'])
    ];
    return parts.length > 0 ? parts.join(', ').replaceAll('-', '−') : 'as it was sent';
  });
  const setRole = (name: string, role: string) => {
    const rest = Object.fromEntries(Object.entries(choices.roles).filter(([other]) => other !== name));
    view.change({ roles: role === '' ? rest : { ...rest, [name]: role as Role } });
  };
  const keepRule = (name: string, role: Role) =>
    attempt(
      () =>
        changeSettings(({ rules }) => ({
          rules: [{ pattern: name, role }, ...rules.filter((rule) => rule !== ruleFor(name, rules) || rule.pattern.includes('*'))]
        })),
      `From now on “${name}” ${role === 'prints' ? 'prints in its own colour' : `is ${role}`}.`
    );
  /** Of layers that stand in for each other one is shown: switching it on switches the others off. */
  const showLayer = (name: string, on: boolean) => {
    const group = facts.layers.find((layer) => layer.name === name)?.group ?? null;
    const others = facts.layers.filter((layer) => on && group !== null && layer.group === group && layer.name !== name);
    const off = choices.layersOff.filter((other) => other !== name && !others.some((layer) => layer.name === other));
    view.change({ layersOff: on ? [...off, ...others.map((layer) => layer.name)] : [...off, name] });
  };
</script>

<section aria-label="Colour">
  <h2 class="panel-title leading-4">Colour</h2>
  <p>
    Colours out of reach are
    <select
      class="in-sentence"
      aria-label="Rendering intent"
      value={choices.intent}
      onchange={(event) => view.change({ intent: event.currentTarget.value as DocketChoices['intent'] })}
    >
      <option value="relative">clipped (relative colorimetric)</option>
      <option value="perceptual">fitted in (perceptual)</option>
      <option value="saturation">kept strong (saturation)</option>
      <option value="file">treated as the file says of each object</option>
    </select>. Dark lettering prints
    <select
      class="in-sentence"
      aria-label="Dark lettering"
      value={choices.blackText ? 'black' : 'as is'}
      onchange={(event) => view.change({ blackText: event.currentTarget.value === 'black' })}
    >
      <option value="as is">as it is</option>
      <option value="black">in black alone</option>
    </select>, grey pictures and gradients
    <select
      class="in-sentence"
      aria-label="Grey pictures and gradients"
      value={choices.blackPictures ? 'black' : 'all'}
      onchange={(event) => view.change({ blackPictures: event.currentTarget.value === 'black' })}
    >
      <option value="all">with all inks</option>
      <option value="black">in black alone</option>
    </select>, large black
    <select
      class="in-sentence"
      aria-label="Large black"
      value={choices.richBlack ? 'rich' : 'as is'}
      onchange={(event) => view.change({ richBlack: event.currentTarget.value === 'rich' })}
    >
      <option value="as is">as it is</option>
      <option value="rich">with all inks</option>
    </select>, and lines are at least
    <LengthBox
      sentence
      label="Thinnest line"
      unit="mm"
      value={choices.thinnestMm}
      max={5}
      onchange={(thinnestMm) => view.change({ thinnestMm })}
    /> mm thick. Pictures that are enlarged
    <select
      class="in-sentence"
      aria-label="Enlarged pictures"
      value={choices.enlarged}
      onchange={(event) => view.change({ enlarged: event.currentTarget.value as DocketChoices['enlarged'] })}
    >
      <option value="as it suits">stay crisp or become smooth as it suits them</option>
      <option value="smooth">become smooth</option>
      <option value="crisp">stay crisp</option>
    </select>{#if facts.overprint}; what overprints
      <select
        class="in-sentence"
        aria-label="Overprint"
        value={choices.overprint ? 'lets through' : 'covers'}
        onchange={(event) => view.change({ overprint: event.currentTarget.value === 'lets through' })}
      >
        <option value="lets through">lets through what lies beneath</option>
        <option value="covers">covers what lies beneath</option>
      </select>{/if}{#if facts.fields > 0}; what is filled in in forms, and stamps,
      <select
        class="in-sentence"
        aria-label="Forms and stamps"
        value={choices.fieldsOff ? 'off' : 'on'}
        onchange={(event) => view.change({ fieldsOff: event.currentTarget.value === 'off' })}
      >
        <option value="on">print</option>
        <option value="off">are left out</option>
      </select>{/if}. Its tone is
    <a class="link font-semibold" href="/dockets/{docket.id}/tone">{toneWords}</a>.
  </p>
  <details class="text-sm">
    <summary class="mt-1 cursor-pointer leading-6">Where the file has no profile, {sourceWords}</summary>
    {#each SPACES as [space, words] (space)}
      <label class="flex items-center gap-2"
        ><span class="w-12">{words}</span> is
        <select
          class="in-sentence"
          aria-label="{words} without a profile is"
          value={choices.sources[space]}
          onchange={(event) => view.change({ sources: { ...choices.sources, [space]: event.currentTarget.value } })}
        >
          <option value="">{usual(space)}</option>
          {#if intent?.space === space}<option value={SHOPS_OWN}>as in the shop: {nameOf(settings.sources[space])}</option>{/if}
          {#each view.sources.filter((source) => source.space === space) as source (source.id)}<option value={source.id}
              >{source.name}</option
            >{/each}
        </select></label
      >
    {/each}
  </details>
  {#if named.length > 0}
    <ul class="mt-1 space-y-1 text-sm leading-6" aria-label="Roles">
      {#each named as one (`${one.isLayer}/${one.name}`)}
        {@const byRule = ruleFor(one.name, settings.rules)?.role}
        {@const role = roleOf(one.name, settings.rules, choices.roles)}
        <li class="flex flex-wrap items-center gap-2">
          {#if one.isLayer}
            <input
              type="checkbox"
              class="checkbox checkbox-xs"
              aria-label="Show the layer {one.name}"
              checked={!choices.layersOff.includes(one.name)}
              onchange={(event) => showLayer(one.name, event.currentTarget.checked)}
            />
          {:else}
            <span
              class="border-base-content/40 inline-block h-4 w-4 border"
              style={one.colour ? `background: rgb(${one.colour.join(' ')})` : ''}
              title={one.colour ? 'As the file shows it' : 'No colour in the file'}
            ></span>
          {/if}
          <span class="min-w-0 truncate font-semibold">{one.name}</span>
          <span class="text-base-content/70 text-xs">{one.what}</span>
          <select
            class="in-sentence ml-auto"
            aria-label="Role of {one.name}"
            value={choices.roles[one.name] ?? ''}
            onchange={(event) => setRole(one.name, event.currentTarget.value)}
          >
            <option value="">{byRule ? `${byRule} (rule)` : one.isLayer ? 'prints as it is' : 'no role, so it prints'}</option>
            {#each ROLES as name (name)}<option value={name}
                >{name === 'prints' && !one.isLayer ? 'prints in its own colour' : name}</option
              >{/each}
          </select>
          {#if role && role !== byRule}
            <button class="btn btn-xs" onclick={() => keepRule(one.name, role)}>Keep as a rule</button>
          {/if}
        </li>
      {/each}
    </ul>
  {/if}
</section>
