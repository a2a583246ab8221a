import { defineConfig } from '@playwright/test';
import { CHROMIUM, CHROMIUM_ARGS } from './scripts/chromium.mjs';

export default defineConfig({
  testDir: 'tests/e2e',
  outputDir: 'test-results',
  // Only what hangs is ended by it: machines differ.
  timeout: 600_000,
  expect: { timeout: 60_000 },
  // A browser waits for its server much of the time: two share the processors well.
  workers: 2,
  reporter: 'list',
  use: { viewport: { width: 1280, height: 800 }, launchOptions: { executablePath: CHROMIUM, args: CHROMIUM_ARGS } }
});
