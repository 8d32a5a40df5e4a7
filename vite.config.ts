import tailwind from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig, runnerImport } from 'vite'
import type { Plugin } from 'vite'
import type { Route } from './contract/route.ts'
import type { CalledRoute } from './web/api/routes.ts'

const ROUTES = 'virtual:routes'

/** What a page needs of each route to call it. The schemas behind them would be half of what a signer's phone loads. */
const calledRoutes: Plugin = {
  name: 'called-routes',
  resolveId: (asked) => (asked === ROUTES ? `\0${ROUTES}` : undefined),
  async load(asked) {
    if (asked !== `\0${ROUTES}`) return undefined
    const { module, dependencies } = await runnerImport<{ api: Record<string, Route> }>('./contract/api.ts')
    for (const file of dependencies) this.addWatchFile(file)
    const called = Object.entries(module.api).map(([name, { method, path, renews, answer }]) => {
      const route: CalledRoute = { method, path, renews, answersFile: typeof answer === 'string' }
      return [name, route] as const
    })
    return `export const routes = ${JSON.stringify(Object.fromEntries(called))}`
  },
}

export default defineConfig({
  plugins: [react(), tailwind(), calledRoutes],
  build: { outDir: 'dist/web', emptyOutDir: true, target: 'es2023', chunkSizeWarningLimit: 1500 },
  server: {
    port: 4381,
    strictPort: true,
    proxy: { '/api': { target: `http://127.0.0.1:${process.env['BREVAN_PORT'] ?? 4380}` } },
  },
})
