<script lang="ts">
  import { ALONG, DOWN, type PictureField } from '$core/records/field';

  interface Props {
    field: PictureField;
    onchange: (change: Partial<PictureField>) => void;
  }
  let { field, onchange }: Props = $props();
</script>

<p>
  The picture of this name
  <select
    class="in-sentence"
    aria-label="How it lies"
    value={field.fit}
    onchange={(event) => onchange({ fit: event.currentTarget.value as PictureField['fit'] })}
    ><option value="filled">fills its place</option><option value="whole">is seen whole</option></select
  >,
  {field.fit === 'filled' ? 'what is kept:' : 'it lies'}
  <select
    class="in-sentence"
    aria-label="Across"
    value={field.along}
    onchange={(event) => onchange({ along: event.currentTarget.value as PictureField['along'] })}
    >{#each ALONG as along (along)}<option>{along}</option>{/each}</select
  >,
  <select
    class="in-sentence"
    aria-label="Down"
    value={field.down}
    onchange={(event) => onchange({ down: event.currentTarget.value as PictureField['down'] })}
    >{#each DOWN as down (down)}<option>{down}</option>{/each}</select
  >;
  <label
    ><input
      type="checkbox"
      class="checkbox checkbox-xs"
      checked={field.without}
      onchange={(event) => onchange({ without: event.currentTarget.checked })}
    /> records that have none are printed without</label
  >.
</p>
