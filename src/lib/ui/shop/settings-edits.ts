import type { ShopSettings } from '$lib/model';
import { send } from '../common/client';
import { partEdits } from '../common/kept-edits.svelte';

/** The shop's settings, saving themselves. */
export const settingsEdits = (settings: ShopSettings) =>
  partEdits<ShopSettings>(
    settings,
    (changed) => send('PUT', '/api/settings', changed),
    () => send('GET', '/api/settings')
  );
