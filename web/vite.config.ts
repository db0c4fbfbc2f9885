import { defineConfig } from 'vitest/config'
import vue from '@vitejs/plugin-vue'
import vuetify from 'vite-plugin-vuetify'
import { fileURLToPath } from 'node:url'
import { fontManifest } from './fontManifest.ts'

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url))

export default defineConfig({
  plugins: [
    vue(),
    vuetify({ autoImport: true }),
    fontManifest({
      'noto-sans': 'Noto Sans Variable',
      'noto-sans-arabic': 'Noto Sans Arabic Variable',
      'noto-sans-sc': 'Noto Sans SC Variable',
    }),
  ],
  resolve: { alias: { '@': here('./src') } },
  build: {
    // Fonts stay files: the content security policy allows none inside styles.
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    manifest: true, // what the size check reads
    // The pages behind personal links are entries of their own: they open on a phone, and need little.
    rollupOptions: {
      input: Object.fromEntries(['index', 'own', 'reading'].map((name) => [name, here(`./${name}.html`)])),
    },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8080' } },
  test: {
    environment: 'happy-dom',
    environmentOptions: { happyDOM: { url: 'http://lantern.test/' } },
    include: ['src/**/*.test.ts'],
    setupFiles: ['src/testkit/controls.ts'],
    server: { deps: { inline: ['vuetify'] } },
  },
})
