<script lang="ts">
  import '../app.css';
  import { onMount, type Snippet } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import Keyboard from '@lucide/svelte/icons/keyboard';
  import SunMoon from '@lucide/svelte/icons/sun-moon';
  import { Toaster } from 'svelte-sonner';
  import { live } from '$lib/ui/common/live.svelte';
  import CommandBox from '$lib/ui/frame/CommandBox.svelte';
  import MachineStrip from '$lib/ui/frame/MachineStrip.svelte';
  import { isBehindDialog, isTyping, PLACES, SHORTCUTS } from '$lib/ui/frame/places';
  import type { LayoutData } from './$types';

  let { data, children }: { data: LayoutData; children: Snippet } = $props();

  let commands: CommandBox;
  let help: HTMLDialogElement;
  let dark = $state(false);

  onMount(() => {
    dark = document.documentElement.dataset['theme'] === 'zing-dark';
    window.zingIsThere?.();
    return live.open(data.changes);
  });

  function theme(): void {
    dark = !dark;
    const name = dark ? 'zing-dark' : 'zing-light';
    document.documentElement.dataset['theme'] = name;
    localStorage.setItem('zing-theme', name);
  }

  function keys(event: KeyboardEvent): void {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
      event.preventDefault();
      commands.open();
      return;
    }
    if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey || isBehindDialog()) return;
    const place = PLACES[Number(event.key) - 1];
    if (place) void goto(place.href);
    else if (event.key === '?') help.showModal();
    else if (event.key.toLowerCase() === 'l') theme();
  }

  const isHere = (href: string) => (href === '/' ? page.url.pathname === '/' : page.url.pathname.startsWith(href));

  /** Long work is told by the tab's title too. */
  const working = $derived(
    [...live.tasks.values()].find((task) => task.state === 'working' && (task.kind === 'rip' || task.kind === 'build'))
  );
  /** What the page is about, where it is about one thing: a docket, a run, a media, a cut task. */
  const subject = $derived.by(() => {
    const { docket, run, media: card, cut, condition } = page.data as Partial<Record<string, Record<string, unknown>>>;
    const name =
      docket?.['name'] ?? (card?.['card'] as { name?: string } | undefined)?.name ?? cut?.['code'] ?? condition?.['media'];
    return typeof name === 'string' && page.params['id']
      ? name
      : run && page.params['id']
        ? `Run ${page.params['id']}`
        : undefined;
  });
  const title = $derived(
    [
      working && `${Math.round(working.share * 100)} % ${working.kind === 'rip' ? 'RIP' : 'profile'}`,
      subject ?? PLACES.find(({ href }) => isHere(href))?.name,
      'Zing Mast'
    ]
      .filter(Boolean)
      .join(' – ')
  );
</script>

<svelte:window onkeydown={keys} />
<svelte:head><title>{title}</title></svelte:head>

<div class="bg-base-100 text-base-content flex h-screen min-w-[800px] flex-col">
  <div class="flex min-h-0 grow">
    <nav class="border-base-300 bg-base-200 flex w-20 shrink-0 flex-col border-r pt-2" aria-label="Places">
      {#each PLACES as { name, href, icon: Icon } (href)}
        <a
          {href}
          class="hover:bg-base-300 flex flex-col items-center gap-0.5 border-l-4 py-2 text-xs {isHere(href)
            ? 'border-primary bg-base-100 font-semibold'
            : 'border-transparent'}"
          aria-current={isHere(href) ? 'page' : undefined}
          ><Icon size={22} strokeWidth={1.6} aria-hidden="true" />{name}{#if href === '/colour' && data.due.length > 0}<span
              class="border-warning border-b-2 font-semibold"><span class="sr-only">, </span>{data.due.length} due</span
            >{:else if href === '/artwork' && data.toSee > 0}<span class="border-warning border-b-2 font-semibold"
              ><span class="sr-only">, </span>{data.toSee} to see</span
            >{/if}</a
        >
      {/each}
    </nav>
    <div class="flex min-w-0 grow flex-col">
      <header class="border-base-300 bg-base-200 flex h-11 shrink-0 items-center gap-3 border-b px-4">
        <a href="/" class="font-semibold">{data.settings.shopName}</a>
        <div class="grow"></div>
        <CommandBox bind:this={commands} ontheme={theme} onhelp={() => help.showModal()} />
        <button class="btn btn-sm btn-ghost btn-square" onclick={theme} aria-label={dark ? 'Change to light' : 'Change to dark'}
          ><SunMoon size={18} /></button
        >
        <button class="btn btn-sm btn-ghost btn-square" onclick={() => help.showModal()} aria-label="List the shortcuts"
          ><Keyboard size={18} /></button
        >
      </header>
      <main class="min-h-0 grow overflow-auto">{@render children()}</main>
    </div>
  </div>
  <MachineStrip machines={data.machines.map(live.machine)} prints={data.prints} />
</div>

<dialog bind:this={help} class="modal" aria-label="Shortcuts">
  <div class="modal-box">
    <h2 class="mb-3 text-lg font-semibold">Shortcuts</h2>
    <dl class="grid grid-cols-[10rem_1fr] gap-y-1.5">
      {#each SHORTCUTS as { keys: combination, does } (does)}
        <dt><kbd class="kbd kbd-sm">{combination}</kbd></dt>
        <dd>{does}</dd>
      {/each}
    </dl>
    <form method="dialog" class="modal-action"><button class="btn btn-sm">Close</button></form>
  </div>
  <form method="dialog" class="modal-backdrop"><button>Close</button></form>
</dialog>
<Toaster position="bottom-right" offset="72px" theme={dark ? 'dark' : 'light'} duration={7000} closeButton />
