<script lang="ts">
  import type { ColourFileLook } from '$lib/named-colours';
  import { attempt, Refusal, send } from '$lib/ui/common/client';
  import { early } from '$lib/ui/common/early';
  import { showLab } from '$core/colour/named-colour';
  import Swatches from './Swatches.svelte';

  /** A file of colours on its way in: what it would bring, and which of two colours a name is to mean. */
  let look = $state<(ColourFileLook & { file: string }) | undefined>();
  let chosen = $state<Record<string, number>>({});
  let collection = $state('');
  let reading = $state('');
  let dialog: HTMLDialogElement;

  async function read(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const { currentTarget: input } = event;
    const file = input.files?.[0];
    if (!file) return;
    reading = file.name;
    await attempt(async () => {
      const reply = await fetch('/api/colours/file', { method: 'POST', body: file });
      const answer = (await reply.json()) as ColourFileLook & { error?: string };
      if (!reply.ok) throw new Refusal(reply.status, answer.error ?? 'The file could not be read.', {});
      look = { ...answer, file: file.name };
      chosen = {};
      collection = file.name.replace(/\.[^.]*$/, '').slice(0, 80);
      dialog.showModal();
    });
    reading = '';
    input.value = '';
  }
  const chooseAll = (where: 'here' | 'file') => {
    chosen = Object.fromEntries(
      (look?.twice ?? []).map(({ plain, choices }) => [
        plain,
        Math.max(
          0,
          choices.findIndex((one) => one.where === where)
        )
      ])
    );
  };
  const take = () =>
    attempt(async () => {
      if (!look) return;
      await send('POST', '/api/colours/taken', { hash: look.hash, chosen, collection });
      dialog.close();
    }, 'The colours are taken.');
  const changes = $derived(
    look ? look.twice.filter(({ plain, choices }) => choices[chosen[plain] ?? 0]?.where === 'file').length : 0
  );
</script>

<label class="btn btn-sm" aria-busy={reading !== ''}
  >{reading === '' ? 'Take a file' : `Reading ${reading}…`}<input
    type="file"
    {@attach early}
    class="sr-only"
    accept=".csv,.txt,.tsv,.cgats,.it8,.cxf,.xml,text/csv,text/plain,application/xml"
    onchange={read}
  /></label
>
<dialog bind:this={dialog} class="modal" aria-label="Colours of a file">
  <div class="modal-box max-w-3xl">
    {#if look}
      <h2 class="text-lg font-semibold">{look.file}</h2>
      <p>
        {look.kind}: <span class="measure">{look.fresh}</span> new, {look.same} as here already{#if look.twice.length > 0}, {look
            .twice.length} with two colours for one name{/if}{#if look.refused.length > 0}, {look.refused.length} not taken{/if}.
      </p>
      {#if look.fresh > 0}
        <label class="mt-2 block text-sm"
          >Collection of those that say none<input class="input input-sm w-full" maxlength="80" bind:value={collection} /></label
        >
      {/if}
      {#if look.twice.length > 0}
        <h3 class="panel-title mt-4">A name means one colour: which?</h3>
        <p class="flex gap-2 text-sm">
          <button class="btn btn-xs" onclick={() => chooseAll('here')}>All as here</button>
          <button class="btn btn-xs" onclick={() => chooseAll('file')}>All as in the file</button>
        </p>
        <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
        <div class="max-h-72 overflow-y-auto" tabindex="0" role="region" aria-label="Names with two colours">
          {#each look.twice as { plain, name, choices } (plain)}
            <fieldset class="border-base-300 flex flex-wrap items-center gap-x-4 gap-y-1 border-b py-1">
              <legend class="sr-only">{name}</legend>
              <span class="w-40 truncate font-semibold" title={name}>{name}</span>
              {#each choices as choice, i (i)}
                <label class="flex items-center gap-2 text-sm"
                  ><input
                    type="radio"
                    class="radio radio-xs"
                    name={plain}
                    checked={(chosen[plain] ?? 0) === i}
                    onchange={() => (chosen[plain] = i)}
                  /><Swatches asked={choice.lab} />{choice.where === 'here' ? 'here' : 'file'}: {showLab(choice.lab)}</label
                >
              {/each}
            </fieldset>
          {/each}
        </div>
      {/if}
      {#if look.refused.length > 0}
        <details class="mt-3 text-sm">
          <summary>Not taken: {look.refused.length}</summary>
          <ul class="max-h-40 overflow-y-auto">
            {#each look.refused.slice(0, 200) as { name, why }, i (i)}<li>
                <span class="font-semibold">{name}</span>
                {why}
              </li>{/each}
          </ul>
        </details>
      {/if}
    {/if}
    <div class="modal-action">
      <button class="btn btn-sm" onclick={() => dialog.close()}>Leave it</button>
      <button class="btn btn-primary btn-sm" disabled={!look || look.fresh + changes === 0} onclick={take}
        >{look && look.fresh + changes > 0 ? `Take ${look.fresh + changes}` : 'Nothing to take'}</button
      >
    </div>
  </div>
</dialog>
