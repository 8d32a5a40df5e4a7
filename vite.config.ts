import tailwind from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig, runnerImport } from 'vite'
import type { Plugin } from 'vite'

const ROUTES = '/web/api/routes.ts'

/** Puts what a module comes to in its place, so that what it is made from is not loaded by the page. */
const calledRoutes: Plugin = {
  name: 'called-routes',
  enforce: 'pre',
  async load(file) {
    if (!file.endsWith(ROUTES)) return undefined
    const { module, dependencies } = await runnerImport<{ routes: unknown }>(`.${ROUTES}`)
    for (const each of dependencies) this.addWatchFile(each)
    return `export const routes = ${JSON.stringify(module.routes)}`
  },
}

/** The signing page has a document of its own, in development too. */
const signingPage: Plugin = {
  name: 'signing-page',
  configureServer: (server) => {
    server.middlewares.use((request, _response, next) => {
      if (request.url?.startsWith('/sign/')) request.url = '/sign.html'
      next()
    })
  },
}

export default defineConfig({
  plugins: [react(), tailwind(), calledRoutes, signingPage],
  build: {
    outDir: 'dist/web',
    emptyOutDir: true,
    target: 'es2023',
    chunkSizeWarningLimit: 1500,
    rolldownOptions: { input: ['index.html', 'sign.html'] },
  },
  server: {
    port: 4381,
    strictPort: true,
    proxy: { '/api': { target: `http://127.0.0.1:${process.env['BREVAN_PORT'] ?? 4380}` } },
  },
})
