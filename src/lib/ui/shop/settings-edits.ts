import type { ShopSettings } from '$lib/model';
import { isAway, send } from '../common/client';
import { Edits } from '../common/history.svelte';
import { sayRefused } from '../common/kept-edits.svelte';
import { isAlike, together } from '../common/together';

/** The shop's settings, saving themselves. What is not changed here is not written over. */
export const settingsEdits = (settings: ShopSettings) =>
  new Edits<ShopSettings>(settings, {
    save: async (next, before) => {
      const changed = Object.entries(next).filter(([name, value]) => !isAlike(value, before[name as keyof ShopSettings]));
      try {
        return { kind: 'saved', now: await send('PUT', '/api/settings', Object.fromEntries(changed)) };
      } catch (error) {
        sayRefused(error);
        if (isAway(error)) throw error;
        return { kind: 'refused', now: await send('GET', '/api/settings') };
      }
    },
    together
  });
