<script lang="ts">
  import { parseContent } from '$core/records/content';
  import type { Field } from '$core/records/field';
  import { askFor } from '$core/records/new-field';

  interface Props {
    field: Field;
    columns: readonly string[];
    /** What it says of the record that is shown. */
    example: string;
    onchange: (content: string) => void;
  }
  let { field, columns, example, onchange }: Props = $props();

  const id = $props.id();
  let box = $state<HTMLTextAreaElement>();

  /** What is wrong with the text, as it is typed. */
  let typed = $state<string | null>(null);
  const wrong = $derived.by(() => {
    try {
      parseContent(typed ?? field.content);
      return '';
    } catch (error) {
      return error instanceof Error ? error.message : String(error);
    }
  });
  function type(value: string): void {
    typed = value;
    if (!wrong) onchange(value);
  }
  /** Puts a column where the caret is. */
  function insert(column: string): void {
    const now = typed ?? field.content;
    const [from, to] = [box?.selectionStart ?? now.length, box?.selectionEnd ?? now.length];
    type(now.slice(0, from) + askFor(column) + now.slice(to));
    box?.focus();
  }
</script>

<div>
  <label for="{id}-says">Says</label>
  <textarea
    id="{id}-says"
    bind:this={box}
    class="textarea textarea-sm w-full font-mono"
    rows="2"
    maxlength="2000"
    aria-invalid={wrong !== ''}
    aria-describedby="{id}-example"
    value={typed ?? field.content}
    oninput={(event) => type(event.currentTarget.value)}
    onblur={() => !wrong && (typed = null)}></textarea>
  <p id="{id}-example" class={wrong ? 'text-error' : 'text-base-content/70'} aria-live="polite">
    {#if wrong}{wrong}{:else if example}e.g. “{example}”{/if}
  </p>
  {#if columns.length > 0}
    <p class="flex flex-wrap gap-1">
      {#each columns.slice(0, 12) as column (column)}
        <button
          class="btn btn-xs max-w-40 font-normal"
          title="Put the column {column} into the text"
          onclick={() => insert(column)}><span class="truncate">{column}</span></button
        >
      {/each}
    </p>
  {/if}
  <details class="text-base-content/80 text-xs">
    <summary class="cursor-pointer py-1">How it is written</summary>
    <p><code>{'{name, upper case}'}</code> in capitals; also lower case, each word.</p>
    <p><code>{'{number, like 0042}'}</code>, <code>{'{day, like 31.12.2026}'}</code> in the form of an example.</p>
    <p><code>{'{count, from 10, step 5}'}</code> counts. <code>{'[c/o {contact}]'}</code> goes where a value is empty.</p>
  </details>
</div>
