<script lang="ts">
  import { goto } from '$app/navigation';
  import { toast } from 'svelte-sonner';
  import type { JigLine, KeptJig } from '$lib/server/machines/jigs';
  import { attempt, send } from '$lib/ui/common/client';
  import { once } from '$lib/ui/common/once';
  import { early } from '$lib/ui/common/early';
  import { chosenJson } from '$lib/ui/common/json-file';
  import type { PageProps } from './$types';
  import { sizeOf } from '$lib/ui/common/shop-unit';

  let { data }: PageProps = $props();

  const open = (of: KeptJig) => goto(`/shop/jigs/${of.id}`);
  const make = once(() => attempt(async () => open(await send<KeptJig>('POST', '/api/jigs', {}))));
  const copy = once((id: number) => attempt(async () => open(await send<KeptJig>('POST', `/api/jigs/${id}/copy`))));
  const remove = once((line: JigLine) =>
    attempt(async () => {
      await send('DELETE', `/api/jigs/${line.id}`);
      const back = () => void attempt(() => send('POST', `/api/jigs/${line.id}/back`), `${line.name} is back.`);
      toast(`${line.name} is deleted.`, { duration: 15_000, action: { label: 'Bring it back', onClick: back } });
    })
  );
  const load = ({ currentTarget: input }: Event & { currentTarget: HTMLInputElement }) =>
    attempt(async () => {
      const file = await chosenJson(input, 'jig');
      if (file !== undefined) await open(await send<KeptJig>('POST', '/api/jigs', { file }));
    });
</script>

<svelte:head><title>Jigs</title></svelte:head>
<div class="max-w-5xl space-y-5 p-6">
  <header class="flex flex-wrap items-center gap-2">
    <h1 class="text-lg font-semibold">Jigs</h1>
    <div class="grow"></div>
    <label class="btn btn-sm"
      >From a file<input type="file" {@attach early} class="sr-only" accept=".json,application/json" onchange={load} /></label
    >
    <button class="btn btn-primary btn-sm" onclick={make}>New jig</button>
  </header>
  {#if data.jigs.length === 0}
    <p class="max-w-prose">
      A jig holds things in their places on a flatbed: tags, pens, boards. Say once what it looks like, and from then on artwork
      falls into its pockets, straight and in the right number. A run on a flatbed is placed in it with one choice.
    </p>
  {:else}
    <table class="table-sm table">
      <thead
        ><tr
          ><th><span class="sr-only">Picture</span></th><th>Name</th><th class="text-right">Pockets</th><th class="text-right"
            >Thing</th
          ><th class="text-right">Bed</th><th>Runs</th><th></th></tr
        ></thead
      >
      <tbody>
        {#each data.jigs as line (line.id)}
          <tr>
            <td class="w-28"
              ><a href="/shop/jigs/{line.id}" tabindex="-1" aria-hidden="true"
                ><img
                  class="border-base-300 h-16 w-24 border bg-white object-contain"
                  src="/api/jigs/{line.id}/file?as=svg&weightMm={Math.max(line.bed.widthMm, line.bed.lengthMm) /
                    120}&v={line.version}"
                  alt=""
                  loading="lazy"
                /></a
              ></td
            >
            <td
              ><a class="link font-semibold" href="/shop/jigs/{line.id}">{line.name}</a>{#if line.faults > 0}<span
                  class="text-error ml-2">✕ not to be printed as it is</span
                >{/if}</td
            >
            <td class="text-right">{line.pockets}</td>
            <td class="text-right">{sizeOf(line.thing.widthMm, line.thing.heightMm)}</td>
            <td class="text-right">{sizeOf(line.bed.widthMm, line.bed.lengthMm)}</td>
            <td>{line.runs > 0 ? `${line.runs} placed in it` : ''}</td>
            <td class="text-right whitespace-nowrap"
              ><button class="btn btn-xs" onclick={() => copy(line.id)} aria-label="Copy {line.name}">Copy</button>
              <button
                class="btn btn-xs"
                onclick={() => remove(line)}
                disabled={line.runs > 0}
                title={line.runs > 0 ? 'Runs are placed in it' : undefined}
                aria-label="Delete {line.name}">Delete</button
              ></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</div>
