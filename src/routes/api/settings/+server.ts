import { ShopSettings } from '$lib/model';
import { call } from '$lib/server/api';

export const GET = call({ summary: 'The shop’s settings' }, ({ shop }) => shop.settings);
export const PUT = call({ summary: 'Keep the shop’s settings', body: ShopSettings }, ({ shop, body }) => {
  shop.changeSettings(body);
  return shop.settings;
});
