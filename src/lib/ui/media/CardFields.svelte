<script lang="ts">
  import { BLACKS, BODIES, FAMILIES, MediaCard, SURFACES } from '$core/media/card';
  import { boundsOf } from '$core/units/bounds';
  import { areaUnit } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { shopUnit } from '$lib/ui/common/shop-unit';

  /** What a media is, as its card says. */
  let {
    card,
    locked,
    currency,
    onchange
  }: { card: MediaCard; locked: boolean; currency: string; onchange: (part: Partial<MediaCard>) => void } = $props();

  const unit = $derived(shopUnit());
  const area = $derived(areaUnit(unit));
  const costLabel = $derived(`Cost a ${area.name}, ${currency}`);
  const costBounds = boundsOf(MediaCard.shape.costPerM2);
</script>

<fieldset disabled={locked} class="space-y-2">
  <label class="block"
    >Name<input
      class="input input-sm flex w-full"
      maxlength="80"
      value={card.name}
      onchange={(event) => onchange({ name: event.currentTarget.value })}
    /></label
  >
  <label class="block"
    >Maker<input
      class="input input-sm flex w-full"
      maxlength="80"
      value={card.maker}
      onchange={(event) => onchange({ maker: event.currentTarget.value })}
    /></label
  >
  <div class="grid grid-cols-2 gap-2">
    <label
      >Family<select
        class="select select-sm flex w-full"
        value={card.family}
        onchange={(event) => onchange({ family: event.currentTarget.value as MediaCard['family'] })}
        >{#each FAMILIES as one (one)}<option>{one}</option>{/each}</select
      ></label
    >
    <label
      >Surface<select
        class="select select-sm flex w-full"
        value={card.surface}
        onchange={(event) => onchange({ surface: event.currentTarget.value as MediaCard['surface'] })}
        >{#each SURFACES as one (one)}<option>{one}</option>{/each}</select
      ></label
    >
    <label
      >Body<select
        class="select select-sm flex w-full"
        value={card.body}
        onchange={(event) => onchange({ body: event.currentTarget.value as MediaCard['body'] })}
        >{#each BODIES as one (one)}<option>{one}</option>{/each}</select
      ></label
    >
    <label
      >Printed on its<select
        class="select select-sm flex w-full"
        value={card.printedSide}
        onchange={(event) => onchange({ printedSide: event.currentTarget.value as MediaCard['printedSide'] })}
        ><option value="face">face</option><option value="back">back, seen through it</option></select
      ></label
    >
    <label class="flex items-center gap-2"
      >Colour<input
        type="color"
        class="h-6 w-10 cursor-pointer"
        aria-label="Colour of the media"
        value={card.colour}
        onchange={(event) => onchange({ colour: event.currentTarget.value })}
      /></label
    >
    <label
      >Black ink<select
        class="select select-sm flex w-full"
        value={card.black}
        onchange={(event) => onchange({ black: event.currentTarget.value as MediaCard['black'] })}
        >{#each BLACKS as one (one)}<option>{one}</option>{/each}</select
      ></label
    >
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="checkbox checkbox-sm"
        checked={card.primer}
        onchange={(event) => onchange({ primer: event.currentTarget.checked })}
      />Needs primer</label
    >
  </div>
  <div class="grid grid-cols-3 gap-2">
    <label
      >Width, {unit}<LengthBox
        block
        class="input input-sm w-full text-right"
        late
        label="Width, {unit}"
        {unit}
        {...boundsOf(MediaCard.shape.widthMm)}
        value={card.widthMm}
        disabled={locked}
        onchange={(widthMm) => onchange({ widthMm })}
      /></label
    >
    <label
      >Thickness, mm<FigureBox
        block
        class="input input-sm w-full text-right"
        late
        label="Thickness, mm"
        unit="mm"
        decimals={4}
        {...boundsOf(MediaCard.shape.thicknessMm)}
        step={0.01}
        value={card.thicknessMm}
        disabled={locked}
        onchange={(thicknessMm) => onchange({ thicknessMm })}
      /></label
    >
    <label
      >{costLabel}<FigureBox
        block
        class="input input-sm w-full text-right"
        late
        label={costLabel}
        decimals={4}
        min={costBounds.min * area.m2}
        max={costBounds.max * area.m2}
        step={0.05}
        value={card.costPerM2 * area.m2}
        disabled={locked}
        onchange={(cost) => onchange({ costPerM2: cost / area.m2 })}
      /></label
    >
  </div>
  <label class="block"
    >Note<textarea
      class="textarea textarea-sm flex w-full"
      rows="2"
      value={card.note}
      onchange={(event) => onchange({ note: event.currentTarget.value })}></textarea></label
  >
</fieldset>
