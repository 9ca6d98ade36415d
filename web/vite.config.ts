import { constants } from 'node:zlib'
import { svelte } from '@sveltejs/vite-plugin-svelte'
import tailwindcss from '@tailwindcss/vite'
import { defineConfig } from 'vite'
import { compression, defineAlgorithm } from 'vite-plugin-compression2'

const compressed = (include: RegExp, quality: number) =>
  compression({
    include,
    algorithms: [
      defineAlgorithm('gzip', { level: 9 }),
      defineAlgorithm('brotliCompress', { params: { [constants.BROTLI_PARAM_QUALITY]: quality } }),
    ],
  })

export default defineConfig({
  plugins: [
    tailwindcss(),
    svelte(),
    // Beside each file its compressed forms, for web.go to choose from. The whole core is large: the last percents of it would take minutes.
    compressed(/(\.(js|css)|editor.*\.wasm)$/, 11),
    compressed(/celandine.*\.wasm$/, 9),
  ],
  build: {
    outDir: 'dist',
    emptyOutDir: true,
    chunkSizeWarningLimit: 900,
    assetsInlineLimit: 0, // the content policy lets no font come out of a data: address
    rolldownOptions: { checks: { pluginTimings: false } },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8460' } },
})
