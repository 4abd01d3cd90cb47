import { defineConfig } from 'vite'
import react from '@vitejs/plugin-react'

export default defineConfig({
  plugins: [react()],
  server: {
    proxy: {
      '/api': 'http://127.0.0.1:5180',
      '/hub': { target: 'http://127.0.0.1:5180', ws: true },
    },
  },
  build: {
    outDir: 'dist',
    // The content policy allows no inline scripts, and data: fonts would not be cached.
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
  },
})
