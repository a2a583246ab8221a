<script lang="ts">
  import { completionsAt, type Completion } from '$core/records/completion';
  import { parseContent } from '$core/records/content';
  import type { Field } from '$core/records/field';
  import { askFor } from '$core/records/new-field';
  import { tick } from 'svelte';

  interface Props {
    field: Field;
    columns: readonly string[];
    /** Names of the shop's lists. */
    lists: readonly string[];
    /** What it says of the record that is shown. */
    example: string;
    onchange: (content: string) => void;
  }
  let { field, columns, lists, example, onchange }: Props = $props();

  const id = $props.id();
  let box = $state<HTMLTextAreaElement>();

  /** What is wrong with the text, as it is typed. */
  let typed = $state<string | null>(null);
  const now = $derived(typed ?? field.content);
  const wrong = $derived.by(() => {
    try {
      parseContent(now);
      return '';
    } catch (error) {
      return error instanceof Error ? error.message : String(error);
    }
  });
  function type(value: string): void {
    typed = value;
    if (!wrong) onchange(value);
  }

  // What may be meant is offered while a brace is open.
  let caret = $state<number | null>(null);
  let chosen = $state(0);
  const offered = $derived(caret === null ? undefined : completionsAt(now, caret, columns, lists));
  const look = () => {
    const { selectionStart: from, selectionEnd: to } = box ?? {};
    caret = from !== undefined && from === to ? from : null;
    chosen = 0;
  };
  async function accept({ put }: Completion): Promise<void> {
    if (!offered) return;
    await replace(offered.from, offered.to, put);
    caret = null;
  }
  /** Puts a text in the place of another, and the caret behind it. */
  async function replace(from: number, to: number, put: string): Promise<void> {
    type(now.slice(0, from) + put + now.slice(to));
    await tick();
    box?.focus();
    box?.setSelectionRange(from + put.length, from + put.length);
  }
  const insert = (column: string) => replace(box?.selectionStart ?? now.length, box?.selectionEnd ?? now.length, askFor(column));
  function keys(event: KeyboardEvent): void {
    if (!offered) return;
    const { options } = offered;
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp')
      chosen = (chosen + (event.key === 'ArrowDown' ? 1 : options.length - 1)) % options.length;
    else if (event.key === 'Enter' || event.key === 'Tab') void accept(options[chosen]!);
    else if (event.key === 'Escape') caret = null;
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<div>
  <label for="{id}-says">Says</label>
  <div class="relative">
    <textarea
      id="{id}-says"
      bind:this={box}
      class="textarea textarea-sm w-full font-mono"
      rows="2"
      maxlength="2000"
      role="combobox"
      aria-haspopup="listbox"
      aria-expanded={offered !== undefined}
      aria-controls="{id}-offered"
      aria-activedescendant={offered ? `${id}-${chosen}` : undefined}
      aria-autocomplete="list"
      aria-invalid={wrong !== ''}
      aria-describedby="{id}-example"
      value={now}
      oninput={(event) => {
        type(event.currentTarget.value);
        look();
      }}
      onclick={look}
      onkeydown={keys}
      onblur={() => {
        caret = null;
        if (!wrong) typed = null;
      }}></textarea>
    <ul
      id="{id}-offered"
      role="listbox"
      aria-label="What may be meant"
      class="bg-base-100 border-base-300 absolute z-20 w-full border {offered ? '' : 'hidden'}"
    >
      {#each offered?.options ?? [] as option, i (option.put)}
        <!-- The text box has the keys. -->
        <!-- svelte-ignore a11y_click_events_have_key_events -->
        <li
          id="{id}-{i}"
          role="option"
          aria-selected={i === chosen}
          class="flex cursor-pointer justify-between gap-2 px-2 py-1 {i === chosen ? 'bg-base-300' : ''}"
          onmousedown={(event) => event.preventDefault()}
          onclick={() => void accept(option)}
        >
          <span class="truncate">{option.label}</span><code class="text-base-content/70 truncate text-xs">{option.put}</code>
        </li>
      {/each}
    </ul>
  </div>
  <p id="{id}-example" class={wrong && !offered ? 'text-error' : 'text-base-content/70'} aria-live="polite">
    {#if wrong && !offered}{wrong}{:else if example}e.g. “{example}”{/if}
  </p>
  {#if columns.length > 0}
    <p class="flex flex-wrap gap-1">
      {#each columns.slice(0, 12) as column (column)}
        <button
          class="btn btn-xs max-w-40 font-normal"
          title="Put the column {column} into the text"
          onclick={() => void insert(column)}><span class="truncate">{column}</span></button
        >
      {/each}
    </p>
  {/if}
  <details class="text-base-content/80 text-xs">
    <summary class="cursor-pointer py-1">How it is written</summary>
    <p>Between braces stands a column; what may be meant is offered as it is typed.</p>
    <p><code>{'{name, upper case}'}</code> in capitals; also lower case, each word.</p>
    <p><code>{'{member, ticked}'}</code> is a tick where the table says yes, x or 1.</p>
    <p><code>{'{number, like 0042}'}</code>, <code>{'{day, like 31.12.2026}'}</code> in the form of an example.</p>
    <p><code>{'{duty, in Duties}'}</code> says what a list under Shop has for it.</p>
    <p><code>{'{count, from 10, step 5}'}</code> counts. <code>{'[c/o {contact}]'}</code> goes where a value is empty.</p>
  </details>
</div>
