import { StepChoice } from '$lib/calibration';
import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Take a step from the readings of its chart', body: StepChoice }, ({ shop, event, body }) =>
  shop.calibration.take(idOf(event), body)
);
