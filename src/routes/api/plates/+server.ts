import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'What plates take on the disk, bytes' }, ({ shop }) => shop.plateKeeping.room());
export const DELETE = call({ summary: 'Delete the plates of runs that are printed' }, ({ shop }) => shop.plateKeeping.clear());
