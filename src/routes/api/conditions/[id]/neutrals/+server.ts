import { BlackSetting } from '$lib/calibration';
import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call(
  { summary: 'How greys come out of inks with a choice of black', body: BlackSetting },
  ({ shop, event, body }) => shop.calibration.neutrals(idOf(event), body)
);
