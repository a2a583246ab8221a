import { call, idOf } from '$lib/server/platform/http/call';
import { WatchAct } from '$lib/watch';

export const GET = call(
  { summary: 'A condition’s baseline, what was read against it, and what was noted of its machine' },
  ({ shop, event }) => shop.watch.state(idOf(event))
);
export const POST = call(
  { summary: 'Keep a baseline, compare with it, bring the condition back, or note what was done to its machine', body: WatchAct },
  ({ shop, event, body }) => {
    const id = idOf(event);
    switch (body.act) {
      case 'keep baseline':
        return shop.watch.keepBaseline(id, body.chartId);
      case 'adopt baseline':
        return shop.watch.adopt(id, body.from);
      case 'compare':
        return shop.watch.compare(id, body.chartId);
      case 'correct':
        return shop.watch.correct(id, body.driftId);
      case 'note':
        return shop.watch.note(id, body.what);
      case 'take out note':
        return shop.watch.takeOutNote(id, body.noteId);
    }
  }
);
