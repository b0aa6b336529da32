import tailwindcss from '@tailwindcss/vite'
import vue from '@vitejs/plugin-vue'
import { fileURLToPath, URL } from 'node:url'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [vue(), tailwindcss()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: {
    outDir: '../src/izmet/web/static',
    emptyOutDir: true,
    chunkSizeWarningLimit: 700,
    assetsInlineLimit: 0,
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8477' } },
})
