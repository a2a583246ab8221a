import { appendFileSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../../tests/harness';
import { Journal } from './journal';

let folder: ReturnType<typeof temporaryFolder>;
beforeEach(() => (folder = temporaryFolder()));
afterEach(() => folder.remove());
const journal = () => new Journal<{ leftMm: number }, { id: number; printedMm: number }>(folder.path);

describe('what a machine remembers', () => {
  it('is nothing before it was ever switched on', () => {
    expect(journal().read()).toBeUndefined();
  });

  it('is the last that happened, of the roll and of each job; a line that was cut off did not happen', () => {
    const one = journal();
    one.write({ leftMm: 100 }, [{ id: 1, printedMm: 0 }]);
    one.write({ leftMm: 90 }, [{ id: 1, printedMm: 10 }]);
    // Another job comes while the first prints: both are written down with the roll.
    one.write({ leftMm: 80 }, [
      { id: 1, printedMm: 20 },
      { id: 2, printedMm: 0 }
    ]);
    appendFileSync(join(folder.path, 'journal.jsonl'), '{"state":{"leftMm":70},"jobs":[{"id":1,"prin');
    const kept = journal().read()!;
    expect(kept).toEqual({
      state: { leftMm: 80 },
      jobs: [
        { id: 1, printedMm: 20 },
        { id: 2, printedMm: 0 }
      ]
    });
    // It is short again, and says the same.
    expect(readFileSync(join(folder.path, 'journal.jsonl'), 'utf8').trim().split('\n')).toHaveLength(1);
    expect(journal().read()).toEqual(kept);
  });
});
