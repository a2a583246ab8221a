import { ShopSettings } from '$lib/model';
import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'The shop’s settings' }, ({ shop }) => shop.settings.current);
export const PUT = call({ summary: 'Keep the shop’s settings', body: ShopSettings }, ({ shop, body }) => {
  shop.settings.change(body);
  return shop.settings.current;
});
