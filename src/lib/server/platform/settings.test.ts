import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { SettingsChange } from '$lib/model';
import { temporaryFolder } from '../../../../tests/harness';
import { openDatabase, type Db } from './db/open';
import { Events } from './events';
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
  });

  it('are checked one by one', () => {
    expect(SettingsChange.safeParse({ intake: { seconds: 1, megabytes: 500 } }).success).toBe(false);
    expect(SettingsChange.parse({})).toEqual({});
  });
});
