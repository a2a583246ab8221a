import { Recipe } from '$lib/recipes';
import { call, WITH_OUTLINES } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'Recipes: saved sets of docket choices' }, ({ shop }) => shop.recipes.list());
export const POST = call({ summary: 'Keep a recipe', body: Recipe, most: WITH_OUTLINES }, ({ shop, body }) =>
  shop.recipes.add(body)
);
