import * as mupdf from '$core/interpreter/interpreter';
import { describe, expect, it } from 'vitest';
import type { StepResult } from '$lib/calibration';
import type { Condition } from '../conditions/condition';
import { verificationReport } from './report';

const mode = { name: '720 × 720', inkSet: 'Harbour', quality: 'quality' } as Condition['mode'];
const condition = { media: 'Плёнка, Łódź', machine: 'Petrel 13', mode } as Condition;

const verified = (patches: number): StepResult<'verify'> => ({
  id: 1,
  step: 'verify',
  chartId: 3,
  madeAt: Date.UTC(2026, 4, 1),
  restsOn: {},
  stale: false,
  document: {
    mean: 0.61,
    p95: 1.4,
    worst: 2.25,
    tolerance: { mean: 1, p95: 2 },
    pass: true,
    patches: Array.from({ length: patches }, (_, i) => ({
      id: `V${i + 1}`,
      inks: [0, 0, 0, 1],
      asked: [50, 1, 2],
      lab: [50, 1, 2],
      deltaE: i / 100
    }))
  }
});

async function pagesOf(patches: number): Promise<string[]> {
  const bytes = await verificationReport('Gullway Signs, Reykjavík', condition, verified(patches), undefined, null);
  const document = mupdf.Document.openDocument(bytes, 'application/pdf');
  return Array.from({ length: document.countPages() }, (_, i) =>
    document.loadPage(i).toStructuredText('preserve-whitespace').asText()
  );
}

describe('the report of a verification', () => {
  it('has the names as they are written, in any script of Europe', async () => {
    const [page] = await pagesOf(3);
    for (const words of ['Gullway Signs, Reykjavík', 'Verification: Плёнка, Łódź', '720 × 720', 'Passed', '0.61, at most 1'])
      expect(page).toContain(words);
  });

  it('has every patch, the worst first, on as many pages as that takes', async () => {
    const pages = await pagesOf(200);
    expect(pages.length).toBeGreaterThan(3);
    for (const page of pages) expect(page).toContain('asked L* a* b*');
    const named = [...pages.join('\n').matchAll(/\bV(\d+)\b/g)].map(([, n]) => Number(n));
    expect(named).toEqual(Array.from({ length: 200 }, (_, i) => 200 - i));
  });
});
