import { fileURLToPath } from 'node:url';
import { svelte } from '@sveltejs/vite-plugin-svelte';
import { defineConfig } from 'vitest/config';

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  // What of a screen is state without markup is tested on its own.
  plugins: [svelte()],
  resolve: { alias: { $core: at('core'), $lib: at('src/lib'), $standins: at('standins'), $protocol: at('protocol') } },
  test: {
    include: [
      'core/**/*.test.ts',
      'standins/**/*.test.ts',
      'protocol/**/*.test.ts',
      'src/**/*.test.ts',
      'tests/machines/**/*.test.ts'
    ],
    // Its own choice leaves one processor idle, and much here waits for machines.
    maxWorkers: '100%',
    env: { ZING_SILENCE_MS: '6000', ZING_LOG: 'fatal' },
    // Only what hangs is ended by it: machines differ.
    testTimeout: 600_000,
    hookTimeout: 600_000
  }
});
