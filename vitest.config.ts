import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  resolve: { alias: { $core: at('core'), $lib: at('src/lib'), $machines: at('machines') } },
  test: {
    include: ['core/**/*.test.ts', 'machines/**/*.test.ts', 'src/**/*.test.ts', 'tests/machines/**/*.test.ts'],
    // A file that hangs is given up early, so that the test of it is short.
    env: { ZING_FACTS_SECONDS: '10', ZING_SILENCE_MS: '6000', ZING_LOG: 'fatal' },
    testTimeout: 30_000
  }
});
