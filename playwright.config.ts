import { defineConfig } from '@playwright/test';
import { CHROMIUM, CHROMIUM_ARGS } from './scripts/chromium.mjs';

export default defineConfig({
  testDir: 'tests/e2e',
  outputDir: 'test-results',
  timeout: 120_000,
  expect: { timeout: 20_000 },
  workers: 1,
  reporter: 'list',
  use: { viewport: { width: 1280, height: 800 }, launchOptions: { executablePath: CHROMIUM, args: CHROMIUM_ARGS } }
});
