import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = ({ locals, depends }) => {
  depends('zing:machines', 'zing:settings', 'zing:conditions', 'zing:arrivals');
  const { shop } = locals;
  return {
    changes: shop.events.changes,
    machines: shop.machines.list(),
    settings: shop.settings.current,
    conditions: shop.conditions.list(),
    due: shop.reminders.due(),
    toSee: shop.arrivalStore.toSee(),
    openTasks: shop.tasks.open(),
    prints: shop.printing.underWay()
  };
};
