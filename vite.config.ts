import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [tailwindcss(), sveltekit()],
  server: { watch: { ignored: ['**/dist-node/**', '**/.data/**', '**/build/**'] } },
  build: { chunkSizeWarningLimit: 1000 }
});
