import { defineConfig } from 'vitest/config'
import vue from '@vitejs/plugin-vue'
import vuetify from 'vite-plugin-vuetify'
import { fileURLToPath } from 'node:url'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  // Fonts stay files: the content security policy allows none inside styles.
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { '/api': 'http://127.0.0.1:8080' } },
  test: {
    environment: 'happy-dom',
    environmentOptions: { happyDOM: { url: 'http://lantern.test/' } },
    include: ['src/**/*.test.ts'],
    server: { deps: { inline: ['vuetify'] } },
  },
})
