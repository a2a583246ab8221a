<script lang="ts" generics="T extends string | number">
  /** One of some words, within a sentence. */
  let {
    label,
    value,
    words,
    onchange
  }: { label: string; value: T; words: readonly (readonly [value: T, words: string])[]; onchange: (value: T) => void } = $props();
</script>

<select
  class="in-sentence max-w-full"
  aria-label={label}
  value={String(value)}
  onchange={(event) => {
    const chosen = words.find(([key]) => String(key) === event.currentTarget.value);
    if (chosen) onchange(chosen[0]);
  }}
>
  {#each words as [key, said] (key)}<option value={String(key)}>{said}</option>{/each}
</select>
