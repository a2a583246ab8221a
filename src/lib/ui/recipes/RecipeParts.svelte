<script lang="ts">
  import { partWords, type RecipeNames } from '$lib/recipe-words';
  import { PART_WORDS, RECIPE_PARTS, type MediaRule, type RecipePart, type RecipeSets, type SizeRule } from '$lib/recipes';
  import { PRIORITIES } from '$lib/model';
  import CountBox from '$lib/ui/common/CountBox.svelte';
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
          <select
            class="in-sentence"
            aria-label="How large"
            value={sets.size.is}
            onchange={(event) => sizeBy(event.currentTarget.value as SizeRule['is'])}
          >
            <option value="at">at figures</option><option value="own">at the artwork’s own size</option>
            <option value="width">so wide</option><option value="height">so high</option>
            <option value="scale">at a share of its size</option><option value="roll">as wide as the roll</option>
          </select>
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
          {:else if sets.size.is === 'scale'}
            <input
              class="in-sentence w-16"
              type="number"
              min="0.1"
              max="50000"
              step="any"
              aria-label="Scale in per cent"
              value={sets.size.percent}
              onchange={(event) => {
                const percent = Number(event.currentTarget.value);
                if (percent >= 0.1 && percent <= 50_000) set({ size: { is: 'scale', percent } });
                else if (sets.size?.is === 'scale') event.currentTarget.value = String(sets.size.percent);
              }}
            /> %
          {/if}
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
          <select
            class="in-sentence"
            aria-label="Where bleed comes from"
            value={bleed.from}
            onchange={(event) => set({ bleed: { ...bleed, from: event.currentTarget.value as typeof bleed.from } })}
          >
            <option value="page">from the page</option><option value="mirror">by mirroring the edge</option>
            <option value="stretch">by stretching the edge</option><option value="colour">in one colour</option>
          </select>
          <select
            class="in-sentence"
            aria-label="When bleed is made"
            value={bleed.when}
            onchange={(event) => set({ bleed: { ...bleed, when: event.currentTarget.value as typeof bleed.when } })}
          >
            <option value="always">always</option><option value="missing">where the file has none</option>
          </select>
        {:else if part === 'copies' && sets.copies !== undefined}
          <CountBox
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
          </select>
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
          <select
            class="in-sentence"
            aria-label="When lines are made"
            value={cut.when}
            onchange={(event) => set({ cut: { ...cut, when: event.currentTarget.value as typeof cut.when } })}
          >
            <option value="always">the same for every file</option><option value="missing"
              >lines made where the file has none</option
            >
          </select>
          <p>{partWords('cut', sets, names)}</p>
        {:else if part === 'priority' && sets.priority}
          <select
            class="in-sentence"
            aria-label="Priority of the recipe"
            value={sets.priority}
            onchange={(event) => set({ priority: event.currentTarget.value as (typeof PRIORITIES)[number] })}
          >
            {#each PRIORITIES as priority (priority)}<option value={priority}>{priority}</option>{/each}
          </select>
        {:else}{partWords(part, sets, names)}{/if}
      </div>
    </li>
  {/each}
</ul>
