import type { ShopSettings } from '$lib/shop-settings';
import { send } from '../common/client';

let before: Promise<unknown> = Promise.resolve();

/**
 * Changes some of the shop's settings from a page that does not show them all. What is changed is what they are now: another window,
 * or a press just before, may have changed them since the page was loaded.
 *
 * @throws Refusal
 */
export function changeSettings(change: (now: ShopSettings) => Partial<ShopSettings>): Promise<void> {
  const done = before.then(async () => {
    await send('PUT', '/api/settings', change(await send<ShopSettings>('GET', '/api/settings')));
  });
  before = done.catch(() => undefined);
  return done;
}
