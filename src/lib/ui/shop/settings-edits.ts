import type { ShopSettings } from '$lib/shop-settings';
import type { KeptSettings } from '$lib/server/platform/settings';
import { send } from '../common/client';
import type { Edits } from '../common/history.svelte';
import { partEdits } from '../common/kept-edits.svelte';

/** The shop's settings, saving themselves. */
export class SettingsEdits {
  readonly edits: Edits<ShopSettings>;
  #version = 0;

  constructor(kept: KeptSettings) {
    this.edits = partEdits<ShopSettings>(
      this.#known(kept),
      async (changed) => this.#known(await send<KeptSettings>('PUT', '/api/settings', changed)),
      async () => this.#known(await send<KeptSettings>('GET', '/api/settings'))
    );
  }

  /** Takes them as the page has them loaded, unless that was before what is known. */
  adopt(kept: KeptSettings): void {
    if (!this.edits.saving && kept.version >= this.#version) this.edits.adopt(this.#known(kept));
  }

  #known({ version, ...settings }: KeptSettings): ShopSettings {
    this.#version = Math.max(this.#version, version);
    return settings;
  }
}
