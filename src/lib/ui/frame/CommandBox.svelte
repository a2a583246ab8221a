<script lang="ts">
  import { goto } from '$app/navigation';
  import Search from '@lucide/svelte/icons/search';
  import { send } from '$lib/ui/common/client';
  import { PLACES } from './places';

  interface Found {
    kind: string;
    title: string;
    detail: string;
    href: string;
  }
  let { ontheme, onhelp }: { ontheme: () => void; onhelp: () => void } = $props();

  let dialog: HTMLDialogElement;
  let box: HTMLInputElement;
  let words = $state('');
  let found = $state<Found[]>([]);
  let at = $state(0);

  const actions = $derived(
    [
      ...PLACES.map(({ name, href }) => ({ kind: 'Go to', title: name, detail: '', run: () => goto(href) })),
      { kind: 'Do', title: 'Take in artwork', detail: 'choose files', run: () => goto('/artwork?take') },
      { kind: 'Do', title: 'Change between light and dark', detail: '', run: () => Promise.resolve(ontheme()) },
      { kind: 'Do', title: 'List the shortcuts', detail: '', run: () => Promise.resolve(onhelp()) }
    ].filter(({ kind, title }) =>
      words.split(/\s+/).every((word) => `${kind} ${title}`.toLowerCase().includes(word.toLowerCase()))
    )
  );
  const all = $derived([...found.map((item) => ({ ...item, run: () => goto(item.href) })), ...actions]);

  export function open(): void {
    words = '';
    found = [];
    at = 0;
    dialog.showModal();
    // Not by the autofocus attribute: SvelteKit would give it the focus after every page change.
    box.focus();
  }

  let asked = 0;
  /** Ends when what is listed is what the words find. */
  let looking = Promise.resolve();
  async function look(): Promise<void> {
    at = 0;
    const mine = ++asked;
    const list = words.trim()
      ? await send<Found[]>('GET', `/api/search?q=${encodeURIComponent(words.trim().slice(0, 100))}`).catch(() => [])
      : [];
    if (mine === asked) found = list;
  }

  function choose(index: number): void {
    dialog.close();
    void all[index]?.run();
  }
</script>

<button class="input input-sm text-base-content/70 w-96 cursor-text justify-between" onclick={open}>
  <span class="flex items-center gap-2"><Search size={16} aria-hidden="true" />Find a docket, run, media or action</span><kbd
    class="kbd kbd-xs">Ctrl K</kbd
  >
</button>

<dialog bind:this={dialog} class="modal modal-top" aria-label="Find or do">
  <div class="modal-box border-base-300 mx-auto mt-12 w-[40rem] border p-0">
    <input
      class="input w-full border-0 border-b text-lg"
      placeholder="Type a name or an action"
      aria-label="Find or do"
      role="combobox"
      aria-expanded="true"
      aria-controls="found"
      aria-activedescendant="found-{at}"
      bind:this={box}
      bind:value={words}
      oninput={() => (looking = look())}
      onkeydown={(event) => {
        if (event.key === 'ArrowDown') at = Math.min(all.length - 1, at + 1);
        else if (event.key === 'ArrowUp') at = Math.max(0, at - 1);
        else if (event.key === 'Enter') void looking.then(() => choose(at));
        else return;
        event.preventDefault();
      }}
    />
    <ul id="found" role="listbox" aria-label="Found" class="max-h-96 overflow-auto py-1">
      {#each all as item, i (`${item.kind}/${item.title}/${i}`)}
        <li id="found-{i}" role="option" aria-selected={i === at}>
          <button
            class="flex w-full gap-3 px-3 py-1.5 text-left"
            class:bg-base-300={i === at}
            tabindex="-1"
            onclick={() => choose(i)}
            onmousemove={() => (at = i)}
          >
            <span class="text-base-content/70 w-16 shrink-0">{item.kind}</span><span class="font-semibold">{item.title}</span
            ><span class="text-base-content/70">{item.detail}</span>
          </button>
        </li>
      {:else}
        <li class="px-3 py-2">Nothing is called that.</li>
      {/each}
    </ul>
  </div>
  <form method="dialog" class="modal-backdrop"><button>Close</button></form>
</dialog>
