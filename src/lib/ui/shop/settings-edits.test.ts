import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { DEFAULT_LIMITS } from '$core/checks/check';
import type { ShopSettings } from '$lib/shop-settings';
import type { KeptSettings } from '$lib/server/platform/settings';
import { SettingsEdits } from './settings-edits';

const said: string[] = [];
vi.mock('svelte-sonner', () => ({ toast: { error: (text: string) => said.push(text) } }));

let settings: KeptSettings;
let sent: string[];
let isAway: boolean;
beforeEach(() => {
  vi.useFakeTimers();
  [sent, said.length, isAway] = [[], 0, false];
  settings = {
    version: 3,
    shopName: 'Gullway',
    unit: 'mm',
    limits: DEFAULT_LIMITS,
    intake: { seconds: 20, megabytes: 1000 }
  } as KeptSettings;
  vi.stubGlobal('fetch', (path: string, { method, body }: RequestInit) => {
    expect(path).toBe('/api/settings');
    if (isAway) return Promise.reject(new TypeError('fetch failed'));
    const change = method === 'PUT' ? (JSON.parse(body as string) as Partial<ShopSettings>) : {};
    sent.push(Object.keys(change).join());
    if (change.intake && change.intake.seconds < 5)
      return Promise.resolve(new Response('{"error":"A look takes 5 s at least."}', { status: 422 }));
    settings = { ...settings, ...change, version: settings.version + (method === 'PUT' ? 1 : 0) };
    return Promise.resolve(new Response(JSON.stringify(settings)));
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const pass = (ms = 1000) => vi.advanceTimersByTimeAsync(ms);

describe('settings of the shop that save themselves', () => {
  it('send what was changed alone, and take what another window changed', async () => {
    const { edits } = new SettingsEdits(settings);
    settings = { ...settings, unit: 'in' };
    edits.change({ ...edits.current, shopName: 'Gullway Signs' });
    await pass();
    expect([sent, edits.current.unit, settings.shopName]).toEqual([['shopName'], 'in', 'Gullway Signs']);
    edits.undo();
    await pass();
    expect(settings).toMatchObject({ shopName: 'Gullway', unit: 'in' });
  });

  it('leave out what is refused, keep what was changed beside it, and wait for the server', async () => {
    const { edits } = new SettingsEdits(settings);
    edits.change({ ...edits.current, intake: { ...edits.current.intake, seconds: 1 } });
    edits.change({ ...edits.current, intake: { ...edits.current.intake, megabytes: 2000 } });
    edits.change({ ...edits.current, unit: 'cm' });
    await pass();
    expect(settings).toMatchObject({ unit: 'cm', intake: { seconds: 20, megabytes: 2000 } });
    const { version: _, ...shop } = settings;
    void _;
    expect([edits.current, edits.pending, said.at(-1)]).toEqual([shop, false, 'A look takes 5 s at least.']);
    isAway = true;
    edits.change({ ...edits.current, limits: { ...DEFAULT_LIMITS, nodes: 900 } });
    await pass(5000);
    expect(edits.pending).toBe(true);
    isAway = false;
    await pass(3000);
    expect([settings.limits.nodes, edits.pending]).toEqual([900, false]);
  });

  it('are not what the page had begun to load before they were saved', async () => {
    const kept = new SettingsEdits(settings);
    const { edits } = kept;
    const before = settings;
    edits.change({ ...edits.current, unit: 'cm' });
    await pass();
    kept.adopt(before);
    expect(edits.current.unit).toBe('cm');
    // What another window made of it since comes.
    settings = { ...settings, shopName: 'Gullway Signs', version: settings.version + 1 };
    kept.adopt(settings);
    expect(edits.current).toMatchObject({ unit: 'cm', shopName: 'Gullway Signs' });
    expect('version' in edits.current).toBe(false);
  });
});
