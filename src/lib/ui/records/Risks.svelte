<script lang="ts">
  import type { RecordChoices } from '$core/records/choices';
  import { mendsOf, RISKS, type Risk, type RiskMend } from '$core/records/risks';
  import { counted } from '$core/units/counted';
  import { MM_PER_POINT } from '$core/units/length';
  import type { RecordsLooked } from '$lib/server/records/workers/records';
  import LevelIcon from '$lib/ui/common/LevelIcon.svelte';

  interface Props {
    looked: RecordsLooked | null;
    /** Why they were not looked at. */
    failed: string;
    busy: boolean;
    /** Of what is being looked at, 0…1. */
    share: number;
    /** How many records there are. */
    count: number;
    records: RecordChoices;
    faces: readonly string[];
    /** The record that is shown. */
    record: number | null;
    onshow: (record: number, field: number | undefined) => void;
    /** Only some records are shown in the table. */
    onfilter: (records: readonly number[]) => void;
    onmend: (mend: RiskMend) => void;
  }
  let { looked, failed, busy, share, count, records, faces, record, onshow, onfilter, onmend }: Props = $props();

  const TITLES: Record<Risk['kind'], string> = {
    'does not fit': 'Do not fit',
    small: 'Very small lettering',
    'missing letters': 'Letters that the font does not have',
    empty: 'Empty values',
    'other form': 'No number or date',
    'no code': 'No code',
    'no picture': 'No picture',
    'coarse picture': 'Coarse pictures',
    double: 'There twice'
  };
  /** These are printed wrong, or not at all. */
  const STOPS = new Set<Risk['kind']>(['does not fit', 'missing letters', 'no code', 'no picture']);
  const groups = $derived(
    RISKS.map((kind) => ({
      kind,
      risks: looked?.risks.filter((risk) => risk.kind === kind) ?? [],
      count: looked?.counts[kind] ?? 0
    })).filter(({ count }) => count > 0)
  );
  const nameOf = (id: number) => records.fields.find((field) => field.id === id)?.name ?? '';
  const isFixed = (id: number) =>
    records.fields.some((field) => field.id === id && field.is === 'text' && field.size.is === 'fixed');
  const points = (mm: number) => (mm / MM_PER_POINT).toFixed(1);
  const SHOWN = 5;
  let all = $state<Record<string, boolean>>({});
</script>

<section aria-label="At risk" class="space-y-2">
  <h2 class="panel-title flex items-center gap-2">
    At risk
    {#if busy}<span class="loading loading-spinner loading-xs" role="status" aria-label="Records are looked at"></span>{/if}
  </h2>
  {#if busy && count > 2000}<p class="flex items-center gap-2 text-sm">
      {counted(count, 'record is', 'records are')} looked at
      <progress class="progress w-24" value={share} max="1" aria-label="How much of it is done"></progress>
    </p>{/if}
  {#if failed}<p class="text-error text-sm" role="alert">{failed}</p>{/if}
  {#if looked && !failed}
    {#if groups.length === 0}
      <p class="flex items-center gap-1 text-sm">
        <LevelIcon level="fine" />{looked.count === 1
          ? 'The one record fits, and has all its values.'
          : `All ${looked.count.toLocaleString('en-GB')} records fit, and have all their values.`}
      </p>
    {/if}
    {#each groups as { kind, risks, count } (kind)}
      <div>
        <h3 class="flex items-center gap-1 text-sm font-semibold">
          <LevelIcon level={STOPS.has(kind) ? 'stop' : 'look'} />{TITLES[kind]}: {count.toLocaleString('en-GB')}
          <button class="btn btn-xs btn-ghost ml-auto" onclick={() => onfilter([...new Set(risks.map((risk) => risk.record))])}
            >In the table</button
          >
        </h3>
        <ul class="text-sm">
          {#each all[kind] ? risks : risks.slice(0, SHOWN) as risk, i (i)}
            <li class="border-base-300 border-b py-1 {risk.record === record ? 'bg-base-200' : ''}">
              <button class="w-full text-left hover:underline" onclick={() => onshow(risk.record, risk.field)}
                ><span class="font-semibold">{risk.record}</span> {risk.sentence}</button
              >
              {#if risk.record === record}
                <p class="flex flex-wrap gap-1 pt-1">
                  {#each mendsOf(risk, risks, records, faces) as mend (mend.label)}
                    <button class="btn btn-xs" onclick={() => onmend(mend)}>{mend.label}</button>
                  {/each}
                </p>
              {/if}
            </li>
          {/each}
        </ul>
        {#if risks.length > SHOWN && !all[kind]}
          <button class="btn btn-xs btn-ghost" onclick={() => (all = { ...all, [kind]: true })}
            >Show {risks.length === count ? 'all' : 'the first'} {risks.length}</button
          >
        {/if}
      </div>
    {/each}
    {#each looked.fields as { id, longest, smallest, sizeMm } (id)}
      {#if longest && longest.text !== ''}
        <p class="text-sm">
          {nameOf(id)}: the longest is
          <button class="link" onclick={() => onshow(longest.record, id)}>{longest.record}</button>{#if sizeMm !== null}; all have {points(
              sizeMm
            )} pt{:else if smallest && !isFixed(id)}; the smallest is
            <button class="link" onclick={() => onshow(smallest.record, id)}>{smallest.record}</button>, with {points(
              smallest.sizeMm
            )} pt{/if}.
        </p>
      {/if}
    {/each}
  {/if}
</section>
