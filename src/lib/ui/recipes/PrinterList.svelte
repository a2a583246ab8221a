<script lang="ts">
  import { toast } from 'svelte-sonner';
  import { counted } from '$core/units/counted';
  import type { NetworkPrinter } from '$lib/network-printer';
  import { WAY_WORDS } from '$lib/recipe-words';
  import type { KeptPrinter } from '$lib/server/automation/printers/network-printers';
  import type { PrinterState } from '$lib/server/automation/printers/printer-doors';
  import { attempt, send } from '$lib/ui/common/client';
  import PrinterForm from './PrinterForm.svelte';

  /** Printers for every program, and how they are. */
  let {
    printers,
    states,
    recipes,
    conditions,
    freePort,
    reachedAt
  }: {
    printers: readonly KeptPrinter[];
    states: readonly PrinterState[];
    recipes: readonly { id: number; name: string }[];
    conditions: readonly { id: number; machine: string; media: string; mode: { name: string } }[];
    freePort: number;
    /** Where other machines reach the server. */
    reachedAt: string;
  } = $props();

  let editing = $state<number | 'new' | null>(null);
  const keepNew = async (printer: NetworkPrinter) => {
    await send('POST', '/api/printers', printer);
    editing = null;
  };
  const keep = (kept: KeptPrinter) => async (printer: NetworkPrinter) => {
    await send('PUT', `/api/printers/${kept.id}`, { version: kept.version, printer });
    editing = null;
  };
  const remove = (kept: KeptPrinter) =>
    attempt(async () => {
      await send('DELETE', `/api/printers/${kept.id}`);
      // Under its name, at its port and with its key it is found again by whoever printed on it.
      const back = () => void attempt(() => send('POST', '/api/printers', kept.printer), `${kept.printer.name} is back.`);
      toast(`${kept.printer.name} is gone; what was printed on it stays in the in-tray.`, {
        duration: 15_000,
        action: { label: 'Bring it back', onClick: back }
      });
    });
  const stateOf = (id: number) => states.find((one) => one.id === id);
  const recipeName = (id: number) => recipes.find((one) => one.id === id)?.name ?? 'a recipe that is gone';
  const address = ({ printer }: KeptPrinter) =>
    `ipp://${printer.isOpen ? reachedAt : '127.0.0.1'}:${printer.port}/ipp/print${printer.key ? `/${printer.key}` : ''}`;
  async function copy(kept: KeptPrinter): Promise<void> {
    try {
      await navigator.clipboard.writeText(address(kept));
      toast.success('The address is copied. Add a network printer by it.');
    } catch {
      toast.error('The browser does not let it be copied. Mark it, and copy it by hand.');
    }
  }
  function who({ isOpen, addresses, key, isAnnounced }: NetworkPrinter): string {
    if (!isOpen) return 'For programs on the server’s own machine.';
    const listed = addresses.length > 0 ? [addresses.join(', ')] : [];
    const keyed = key ? ['whoever has its address'] : [];
    return `For ${[...listed, ...keyed].join(' and ')}${isAnnounced ? '; announced to the machines around' : ''}.`;
  }
</script>

<section class="space-y-3" aria-label="Printers for every program">
  <header class="flex items-center gap-2">
    <h2 class="panel-title grow">Printers for every program</h2>
    {#if editing !== 'new'}<button class="btn btn-xs btn-primary" onclick={() => (editing = 'new')}>Make a printer</button>{/if}
  </header>
  {#if editing === 'new'}<PrinterForm
      printer={null}
      {recipes}
      {conditions}
      port={freePort}
      onkeep={keepNew}
      oncancel={() => (editing = null)}
    />{/if}
  {#each printers as kept (kept.id)}
    {@const { printer } = kept}
    {@const state = stateOf(kept.id)}
    {#if editing === kept.id}
      <PrinterForm {printer} {recipes} {conditions} port={printer.port} onkeep={keep(kept)} oncancel={() => (editing = null)} />
    {:else}
      <article class="border-base-300 border p-3" aria-label={printer.name}>
        <h3 class="font-semibold">{printer.name}</h3>
        <p class="flex items-start gap-2">
          <code class="grow text-xs break-all">{address(kept)}</code><button
            class="btn btn-xs"
            onclick={() => copy(kept)}
            aria-label="Copy the address of {printer.name}">Copy</button
          >
        </p>
        <p class="mt-1">
          Dockets {printer.recipeId === null ? 'as by hand' : `by ${recipeName(printer.recipeId)}`}, {WAY_WORDS[
            printer.way
          ]}{printer.way !== 'make dockets' && printer.despiteLooks ? ', also what is to be looked at' : ''}. {who(printer)}
        </p>
        {#if !printer.isOn}<p class="font-semibold">Switched off.</p>
        {:else if state?.trouble}<p class="text-error" role="alert">{state.trouble}</p>
        {:else if state && state.open > 0}<p role="status">
            {counted(state.open, 'job')} not printed yet.
          </p>{/if}
        <p class="mt-2 flex gap-1">
          <button class="btn btn-xs" onclick={() => (editing = kept.id)} aria-label="Change {printer.name}">Change</button>
          <button
            class="btn btn-xs"
            onclick={() => attempt(() => keep(kept)({ ...printer, isOn: !printer.isOn }))}
            aria-label="{printer.isOn ? 'Switch off' : 'Switch on'} {printer.name}"
            >{printer.isOn ? 'Switch off' : 'Switch on'}</button
          >
          <button class="btn btn-xs" onclick={() => remove(kept)} aria-label="Take {printer.name} away">Take away</button>
        </p>
      </article>
    {/if}
  {:else}
    {#if editing !== 'new'}<p class="text-sm leading-5">
        A recipe that other programs print on, as on any printer of the network. What they print becomes dockets.
      </p>{/if}
  {/each}
</section>
