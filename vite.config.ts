import tailwind from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [react(), tailwind()],
  build: { outDir: 'dist/web', emptyOutDir: true, target: 'es2023', chunkSizeWarningLimit: 1500 },
  server: {
    port: 4381,
    strictPort: true,
    proxy: { '/api': { target: `http://127.0.0.1:${process.env['BREVAN_PORT'] ?? 4380}` } },
  },
})
