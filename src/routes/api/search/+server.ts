import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';

export const GET = call(
  { summary: 'Find dockets, artwork, runs, media and conditions by their names', query: z.object({ q: z.string().max(100) }) },
  ({ shop, query }) => {
    const words = query.q.toLowerCase().split(/\s+/).filter(Boolean);
    const fits = (text: string) => words.every((word) => text.toLowerCase().includes(word));
    return [
      ...shop.dockets
        .list()
        .filter((d) => fits(`docket ${d.id} ${d.name} ${d.customer}`))
        .map((d) => ({ kind: 'Docket', title: d.name, detail: d.customer, href: `/dockets/${d.id}` })),
      ...shop.runs
        .list()
        .filter((r) => fits(`run ${r.id} ${r.condition.media} ${r.dockets.map((d) => d.name).join(' ')}`))
        .map((r) => ({ kind: 'Run', title: `Run ${r.id}`, detail: `${r.condition.media}, ${r.state}`, href: `/runs/${r.id}` })),
      ...shop.artworks
        .list()
        .filter((a) => fits(`artwork ${a.name}`))
        .map((a) => ({ kind: 'Artwork', title: a.name, detail: a.facts?.format ?? '', href: `/artwork#artwork-${a.id}` })),
      ...shop.cuts
        .list()
        .filter((c) => fits(`cut ${c.code} ${c.names.join(' ')}`))
        .map((c) => ({ kind: 'Cut', title: c.code, detail: c.names.join(', '), href: `/cutting/${c.id}` })),
      ...shop.conditions
        .list()
        .filter((c) => fits(`condition colour ${c.media} ${c.machine} ${c.mode.name}`))
        .map((c) => ({ kind: 'Condition', title: c.media, detail: `${c.machine}, ${c.mode.name}`, href: `/colour/${c.id}` })),
      ...shop.media
        .list()
        .filter(({ card }) => fits(`media ${card.name} ${card.maker} ${card.family}`))
        .map(({ id, card }) => ({ kind: 'Media', title: card.name, detail: card.maker, href: `/media/${id}` }))
    ].slice(0, 12);
  }
);
