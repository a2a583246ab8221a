import { z } from 'zod';
import { call, WITH_OUTLINES } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Take in a recipe from a file', body: z.unknown(), most: WITH_OUTLINES }, ({ shop, body }) =>
  shop.recipeFiles.bring(body)
);
