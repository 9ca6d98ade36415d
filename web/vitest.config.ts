import { svelte } from '@sveltejs/vite-plugin-svelte'
import { defineConfig } from 'vitest/config'

// The console's state against the real core. What only a browser shows is tested in Chromium.
export default defineConfig({
  plugins: [svelte()],
  test: { include: ['src/**/*.test.ts'], setupFiles: ['test/browser.ts'], testTimeout: 60_000, hookTimeout: 60_000 },
})
