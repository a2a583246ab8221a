<script lang="ts">
  import Trash from '@lucide/svelte/icons/trash-2';
  import { attempt, send } from '$lib/ui/common/client';
  import { early } from '$lib/ui/common/early';
  import { sendFiles } from './send-files';

  let { fonts }: { fonts: readonly { id: number; family: string; style: string; licence: string }[] } = $props();

  const removeFont = (id: number, family: string) => attempt(() => send('DELETE', `/api/fonts/${id}`), `${family} is removed.`);
</script>

<section aria-label="Fonts" class="space-y-2">
  <h2 class="text-lg font-semibold">Fonts</h2>
  <p class="text-base-content/70 text-sm">
    For fields of records, and for SVG lettering that comes without its font. Where a font is not here either, Arimo, Tinos or
    Cousine stands in, and a check says so.
  </p>
  <ul class="text-sm">
    {#each fonts as font (font.id)}
      <li class="border-base-300 flex items-center justify-between border-b">
        <span class="min-w-0"
          >{font.family}
          {font.style}{#if font.licence}<span class="text-base-content/70 block truncate text-xs" title={font.licence}
              >{font.licence}</span
            >{/if}</span
        ><button
          class="btn btn-sm btn-ghost btn-square"
          aria-label="Remove the font {font.family} {font.style}"
          onclick={() => removeFont(font.id, font.family)}><Trash size={15} /></button
        >
      </li>
    {/each}
  </ul>
  <label class="btn btn-sm"
    >Add fonts<input
      type="file"
      {@attach early}
      class="sr-only"
      accept=".ttf,.otf,.ttc,.woff,.woff2"
      multiple
      onchange={(event) => sendFiles(event, '/api/fonts', (name) => `${name} is used from now on.`)}
    /></label
  >
</section>
