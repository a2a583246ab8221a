<script lang="ts">
  import { page } from '$app/state';

  /** What there is of colour, beside one another. */
  const SECTIONS = [
    ['/colour', 'Conditions'],
    ['/colour/named', 'Named colours'],
    ['/colour/modes', 'Print modes']
  ] as const;
</script>

<nav aria-label="Colour" class="border-base-300 flex gap-1 border-b px-3 pt-2">
  {#each SECTIONS as [href, name] (href)}
    {@const here = page.url.pathname === href}
    <a
      {href}
      aria-current={here ? 'page' : undefined}
      class="-mb-px min-h-8 border-b-2 px-3 py-1 {here
        ? 'border-base-content font-semibold'
        : 'hover:bg-base-200 border-transparent'}">{name}</a
    >
  {/each}
</nav>
