import { call } from '$lib/server/api';

export const GET = call({ summary: 'The hull of sRGB, to compare gamuts with' }, ({ shop }) => shop.calibration.hull('srgb'));
