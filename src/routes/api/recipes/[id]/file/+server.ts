import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'A recipe as a file', answers: 'application/json' }, ({ shop, event }) => {
  const file = shop.recipeFiles.write(idOf(event));
  const name = encodeURIComponent(`${file.name}.recipe.json`);
  return new Response(JSON.stringify(file, null, 1), {
    headers: { 'content-type': 'application/json', 'content-disposition': `attachment; filename*=UTF-8''${name}` }
  });
});
