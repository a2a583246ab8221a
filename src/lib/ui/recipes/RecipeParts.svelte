<script lang="ts">
  import { partWords, type RecipeNames } from '$lib/recipe-words';
  import { PART_WORDS, RECIPE_PARTS, type MediaRule, type RecipePart, type RecipeSets, type SizeRule } from '$lib/recipes';
  import { PRIORITIES } from '$lib/docket-choices';
  import ChoiceBox from '$lib/ui/common/ChoiceBox.svelte';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import PlatesChoice from '$lib/ui/docket/PlatesChoice.svelte';
  import PocketSentence from '$lib/ui/jig/PocketSentence.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  /** What a recipe sets, ticked part by part; some of it as a rule in the place of a figure. */
  let {
    all,
    sets,
    names,
    onchange
  }: {
    /** Each part that can be ticked, as it would be set. */
    all: RecipeSets;
    sets: RecipeSets;
    names: RecipeNames;
    onchange: (sets: RecipeSets) => void;
  } = $props();

  const BLEED_FROM = [['page', 'from the page'], ['mirror', 'by mirroring the edge'], ['stretch', 'by stretching the edge'], ['colour', 'in one colour']] as const; // prettier-ignore
  const SIZES = [['at', 'at figures'], ['own', 'at the artwork’s own size'], ['width', 'so wide'], ['height', 'so high'], ['scale', 'at a share of its size'], ['roll', 'as wide as the roll']] as const; // prettier-ignore
  const offered = $derived(
    RECIPE_PARTS.filter((part) => sets[part] !== undefined || (all[part] !== undefined && all[part] !== null))
  );
  function tick(part: RecipePart, on: boolean): void {
    const rest = Object.fromEntries(Object.entries(sets).filter(([name]) => name !== part));
    onchange(on ? { ...rest, [part]: all[part] } : rest);
  }
  const set = (change: RecipeSets) => onchange({ ...sets, ...change });

  const own = $derived(all.size?.is === 'at' ? all.size : undefined);
  function sizeBy(is: SizeRule['is']): void {
    const [widthMm, heightMm] = [own?.widthMm ?? 1000, own?.heightMm ?? 1000];
    const rules: Record<SizeRule['is'], SizeRule> = {
      own: { is: 'own' },
      at: { is: 'at', widthMm, heightMm },
      width: { is: 'width', mm: widthMm },
      height: { is: 'height', mm: heightMm },
      scale: { is: 'scale', percent: 100 },
      roll: { is: 'roll' }
    };
    set({ size: rules[is] });
  }
  const mediaKey = (rule: MediaRule) =>
    rule.is === 'condition' ? `c${rule.conditionId}` : rule.is === 'loaded' ? `l${rule.machineId}` : 'named';
  function mediaBy(key: string): void {
    const id = Number(key.slice(1));
    if (key.startsWith('c')) set({ media: { is: 'condition', conditionId: id } });
    else if (key.startsWith('l')) set({ media: { is: 'loaded', machineId: id } });
  }
  const printers = $derived([
    ...new Map(names.conditions.map(({ machine }) => [machine, names.machines.find(({ name }) => name === machine)])).values()
  ]);
</script>

<ul class="divide-base-300 divide-y">
  {#each offered as part (part)}
    {@const isOn = sets[part] !== undefined}
    <li class="flex gap-3 py-1.5">
      <label class="flex w-64 shrink-0 items-start gap-2"
        ><input
          type="checkbox"
          class="checkbox checkbox-sm mt-0.5"
          checked={isOn}
          disabled={!isOn && all[part] === undefined}
          onchange={(event) => tick(part, event.currentTarget.checked)}
        />{PART_WORDS[part]}</label
      >
      <div class="min-w-0 grow leading-7 {isOn ? '' : 'text-base-content/70'}">
        {#if !isOn}{partWords(part, all, names)}
        {:else if part === 'size' && sets.size}
          <ChoiceBox label="How large" value={sets.size.is} words={SIZES} onchange={sizeBy} />
          {#if sets.size.is === 'at'}
            {@const size = sets.size}
            <LengthBox
              sentence
              label="Width of the recipe"
              unit={names.unit}
              value={size.widthMm}
              min={1}
              onchange={(widthMm) => set({ size: { ...size, widthMm } })}
            /> ×
            <LengthBox
              sentence
              label="Height of the recipe"
              unit={names.unit}
              value={size.heightMm}
              min={1}
              onchange={(heightMm) => set({ size: { ...size, heightMm } })}
            />
            {names.unit}
          {:else if sets.size.is === 'width' || sets.size.is === 'height'}
            {@const size = sets.size}
            <LengthBox
              sentence
              label="So much of it"
              unit={names.unit}
              value={size.mm}
              min={1}
              onchange={(mm) => set({ size: { ...size, mm } })}
            />
            {names.unit}
          {:else if sets.size.is === 'scale'}
            <FigureBox
              sentence
              label="Scale in per cent"
              unit="%"
              decimals={2}
              min={0.1}
              max={50_000}
              value={sets.size.percent}
              onchange={(percent) => set({ size: { is: 'scale', percent } })}
            /> %
          {/if}
        {:else if part === 'viewing' && typeof sets.viewing === 'number'}
          <LengthBox
            sentence
            label="Viewing distance of the recipe"
            unit={names.unit}
            value={sets.viewing}
            min={100}
            max={100_000}
            onchange={(viewing) => set({ viewing })}
          />
          {names.unit}
        {:else if part === 'bleed' && sets.bleed}
          {@const bleed = sets.bleed}
          <LengthBox
            sentence
            label="Bleed of the recipe"
            unit={names.unit}
            value={bleed.mm}
            max={200}
            onchange={(mm) => set({ bleed: { ...bleed, mm } })}
          />
          {names.unit} of bleed
          <ChoiceBox
            label="Where bleed comes from"
            value={bleed.from}
            words={BLEED_FROM}
            onchange={(from) => set({ bleed: { ...bleed, from } })}
          />
          <ChoiceBox
            label="When bleed is made"
            value={bleed.when}
            words={[
              ['always', 'always'],
              ['missing', 'where the file has none']
            ]}
            onchange={(when) => set({ bleed: { ...bleed, when } })}
          />
        {:else if part === 'copies' && sets.copies !== undefined}
          <FigureBox
            label="Copies of the recipe"
            value={sets.copies}
            min={1}
            max={100_000}
            onchange={(copies) => set({ copies })}
          />
        {:else if part === 'media' && sets.media}
          <select
            class="in-sentence max-w-full"
            aria-label="Media of the recipe"
            value={mediaKey(sets.media)}
            onchange={(event) => mediaBy(event.currentTarget.value)}
          >
            {#if sets.media.is === 'named'}<option value="named">{partWords('media', sets, names)}</option>{/if}
            {#if sets.media.is === 'condition' && !names.conditions.some(({ id }) => sets.media?.is === 'condition' && id === sets.media.conditionId)}<option
                value={mediaKey(sets.media)}>a media and print mode that are gone</option
              >{/if}
            {#each names.conditions as { id, machine, media, mode } (id)}<option value="c{id}"
                >{media}, {machine}, {mode.name}</option
              >{/each}
            {#each printers as printer (printer?.id)}{#if printer}<option value="l{printer.id}"
                  >what {printer.name} has loaded</option
                >{/if}{/each}
          </select>
        {:else if part === 'jig' && sets.jig}
          {@const jig = sets.jig}
          <select
            class="in-sentence max-w-full"
            aria-label="Jig of the recipe"
            value={jig.is === 'jig' ? String(jig.id) : ''}
            onchange={(event) => set({ jig: { is: 'jig', id: Number(event.currentTarget.value), lies: jig.lies } })}
          >
            {#if jig.is === 'named'}<option value="">{jig.name}, by its name</option>
            {:else if !names.jigs.some(({ id }) => id === jig.id)}<option value={String(jig.id)}>a jig that is gone</option>{/if}
            {#each names.jigs as { id, name } (id)}<option value={String(id)}>{name}</option>{/each}
          </select>.
          <PocketSentence
            rule={jig.lies}
            unit={names.unit}
            what="It lies"
            onchange={(part) => set({ jig: { ...jig, lies: { ...jig.lies, ...part } } })}
          />
        {:else if part === 'plates' && sets.plates !== undefined}
          <PlatesChoice kept={sets.plates} onchange={(plates) => set({ plates })} />
        {:else if part === 'cut' && sets.cut}
          {@const cut = sets.cut}
          <ChoiceBox
            label="When lines are made"
            value={cut.when}
            words={[
              ['always', 'the same for every file'],
              ['missing', 'lines made where the file has none']
            ]}
            onchange={(when) => set({ cut: { ...cut, when } })}
          />
          <p>{partWords('cut', sets, names)}</p>
        {:else if part === 'priority' && sets.priority}
          <ChoiceBox
            label="Priority of the recipe"
            value={sets.priority}
            words={PRIORITIES.map((priority) => [priority, priority])}
            onchange={(priority) => set({ priority })}
          />
        {:else}{partWords(part, sets, names)}{/if}
      </div>
    </li>
  {/each}
</ul>
