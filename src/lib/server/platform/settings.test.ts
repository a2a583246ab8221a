import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { SettingsChange } from '$lib/shop-settings';
import { temporaryFolder } from '../../../../tests/harness';
import { openDatabase, type Db } from './db/open';
import { Events } from './events';
import { issueSentence } from './issue-sentence';
import { Settings } from './settings';

let folder: ReturnType<typeof temporaryFolder>;
let db: Db;
beforeEach(() => {
  folder = temporaryFolder();
  db = openDatabase(folder.path);
});
afterEach(() => {
  db.close();
  folder.remove();
});

describe('settings', () => {
  it('that are not given stay, also where two screens change different ones', () => {
    const events = new Events();
    const told: string[] = [];
    events.on('settings changed', ({ before, after }) => told.push(`${before.shopName} → ${after.shopName}`));
    const settings = new Settings(db, events);
    const rules = [{ pattern: 'Foil', role: 'guide' as const }];
    settings.change(SettingsChange.parse({ rules }));
    settings.change(SettingsChange.parse({ shopName: 'Gull & Sons' }));
    expect(settings.current).toMatchObject({ rules, shopName: 'Gull & Sons', unit: 'mm' });
    // The next start has the same.
    expect(new Settings(db, events).current).toEqual(settings.current);
    expect(told.at(-1)).toBe('My sign shop → Gull & Sons');
    // Each change is told from the one before, also after a start.
    expect(settings.kept).toEqual({ ...settings.current, version: 2 });
    expect(new Settings(db, events).kept.version).toBe(2);
  });

  it('are checked one by one', () => {
    expect(SettingsChange.safeParse({ intake: { seconds: 1, megabytes: 500 } }).success).toBe(false);
    expect(SettingsChange.parse({})).toEqual({});
  });

  it('that cannot be are refused in the operator’s words, and not in those of the code', () => {
    const { current } = new Settings(db, new Events());
    const figures = Object.entries(current).flatMap(([name, value]): [string, string | undefined][] =>
      typeof value === 'number'
        ? [[name, undefined]]
        : ['limits', 'intake', 'tolerance'].includes(name)
          ? Object.keys(value as object).map((key): [string, string] => [name, key])
          : []
    );
    expect(figures.length).toBeGreaterThan(18);
    for (const [name, key] of figures)
      for (const wrong of [null, -1e9, 1e12]) {
        const before = current[name as keyof typeof current] as object;
        const change = { [name]: key === undefined ? wrong : { ...before, [key]: wrong } };
        const { error } = SettingsChange.safeParse(change, { error: issueSentence });
        const sentence = error?.issues[0]?.message ?? 'nothing';
        expect(sentence, `${name} ${key}`).toMatch(/^[A-Z][^“”]*\.$/);
      }
    for (const change of [{ currency: '  ' }, { currency: 'pounds' }, { shopName: 'x'.repeat(81) }])
      expect(SettingsChange.safeParse(change).error?.issues[0]?.message).toMatch(/^(A currency|The shop’s name) .*\.$/);
  });
});
