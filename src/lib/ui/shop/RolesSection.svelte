<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { ROLES, type Role, type RoleRule } from '$core/artwork/roles';
  import type { ShopSettings } from '$lib/shop-settings';

  let { settings, onchange }: { settings: ShopSettings; onchange: (part: Partial<ShopSettings>) => void } = $props();

  const set = (place: number, part: Partial<RoleRule>) =>
    onchange({ rules: settings.rules.map((rule, i) => (i === place ? { ...rule, ...part } : rule)) });
</script>

<section aria-label="Roles by name" class="space-y-2">
  <h2 class="text-lg font-semibold">Roles by name</h2>
  <p class="text-base-content/70 text-sm">
    What spot colours and layers of these names are for; the first that fits counts. * stands for anything. Case, spaces, hyphens
    and accents do not matter. A docket may say otherwise.
  </p>
  <ol class="space-y-1">
    {#each settings.rules as rule, i (i)}
      <li class="flex items-center gap-2">
        <input
          class="input input-sm w-44"
          aria-label="Pattern {i + 1}"
          maxlength="60"
          value={rule.pattern}
          onchange={(event) => set(i, { pattern: event.currentTarget.value })}
        />
        <select
          class="select select-sm w-36"
          aria-label="Role {i + 1}"
          value={rule.role}
          onchange={(event) => set(i, { role: event.currentTarget.value as Role })}
        >
          {#each ROLES as role (role)}<option value={role}>{role}</option>{/each}
        </select>
        <button
          class="btn btn-sm btn-ghost btn-square"
          aria-label="Remove the rule {rule.pattern}"
          onclick={() => onchange({ rules: settings.rules.filter((_, k) => k !== i) })}><Trash size={15} /></button
        >
      </li>
    {/each}
  </ol>
  <button class="btn btn-sm" onclick={() => onchange({ rules: [...settings.rules, { pattern: 'new name', role: 'prints' }] })}
    ><Plus size={15} aria-hidden="true" />Add a rule</button
  >
</section>
