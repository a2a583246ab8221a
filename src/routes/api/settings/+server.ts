import { SettingsChange } from '$lib/shop-settings';
import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'The shop’s settings' }, ({ shop }) => shop.settings.kept);
export const PUT = call(
  { summary: 'Change settings of the shop; what is not given stays', body: SettingsChange },
  ({ shop, body }) => {
    shop.settings.change(body);
    return shop.settings.kept;
  }
);
