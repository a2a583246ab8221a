import { error, redirect } from '@sveltejs/kit';
import type { LaidInk } from '$core/inks/laid-ink';
import { pricesOf } from '$core/inks/ink-prices';
import { layersTogether } from '$core/inks/stack';
import type { CameInPart } from '$lib/server/printing/came-in-part';
import { waitsFor } from '$lib/server/printing/releasing';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

/** Of a print that broke off, how many copies came out whole, and how many did not. */
const countsOf = (part: CameInPart | undefined) => part && { whole: part.whole.length, missing: part.missing.length };

export const load: PageServerLoad = ({ locals, params, depends }) => {
  const { shop } = locals;
  try {
    const run = shop.runs.get(Number(params.id));
    // Whether another machine could print it depends on what prints there, and what is on its heads.
    depends(`zing:runs/${run.id}`, 'zing:machines', 'zing:conditions', 'zing:cuts', 'zing:jigs');
    if (shop.runs.chartOf(run.id) !== null) redirect(307, `/colour/${run.condition.id}`);
    return {
      run,
      layers: layersTogether(run.dockets.map((docket) => shop.preparedDockets.layers(docket).stack)).layers,
      inkPrices: pricesOf(shop.conditions.inks(run.condition.id), shop.machines.inkPrices(run.condition.machineId)),
      // Drawing takes seconds the first time: the page does not wait for it.
      later: {
        inks: Promise.all(
          run.dockets.map(async ({ id }): Promise<[number, LaidInk[]]> => {
            const measured = run.condition.hasProfile ? await shop.pictures.measured(id).catch(() => null) : null;
            return [id, measured?.layers ?? []];
          })
        ).then((list) => Object.fromEntries(list) as Record<number, LaidInk[]>)
      },
      waits: run.releasedAt === null ? '' : (waitsFor(shop.printing, run, shop.machines.get(run.condition.machineId)) ?? ''),
      batches: shop.printing.batches(run, shop.machines.get(run.condition.machineId)) ?? null,
      prints: shop.prints.list(run.id).map((print) => ({
        ...print,
        restFrom: shop.printing.restFrom(print) ?? null,
        inPart: countsOf(shop.partPrints.look(print)),
        silent: shop.printing.isSilent(print.id)
      })),
      hindrances: Object.fromEntries(
        shop.machines
          .list()
          .filter((machine) => machine.kind === 'printer')
          .map((machine) => [machine.id, shop.printing.hindrance(run, machine, 1) ?? ''])
      ),
      nextLoad: shop.runs.nextLoad(run) ?? null,
      cuts: shop.cuts.ofRun(run.id),
      jigs: shop.jigs.names()
    };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
