import { svelte } from '@sveltejs/vite-plugin-svelte';
import { defineConfig } from 'vitest/config';
import { carbonStyles } from './carbon-styles.ts';

export default defineConfig({
  base: '/static/',
  plugins: [
    svelte({
      configFile: false,
      // Carbon is written in the older syntax; only our own components are runes components.
      compilerOptions: { runes: ({ filename }) => (filename.includes('/node_modules/') ? undefined : true) },
    }),
    carbonStyles(),
  ],
  build: { target: 'es2023', chunkSizeWarningLimit: 1200, rolldownOptions: { input: { index: 'index.html', guest: 'guest.html' } } },
  server: { proxy: { '/api': 'http://localhost:8321', '/events': 'http://localhost:8321', '/guest': 'http://localhost:8321' } },
  resolve: process.env['VITEST'] ? { conditions: ['browser'] } : {},
  // See src/test/setup.ts: files share processes.
  test: { environment: 'jsdom', isolate: false, testTimeout: 30_000, include: ['src/**/*.test.ts'], setupFiles: ['src/test/setup.ts'] },
});
