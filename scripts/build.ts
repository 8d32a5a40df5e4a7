// Builds the server's entries into dist/server; packages stay in node_modules.
import { build } from 'esbuild'

await build({
  entryPoints: {
    web: 'server/web.ts',
    worker: 'server/worker.ts',
    migrate: 'server/migrate.ts',
    supervisor: 'server/supervisor.ts',
    thread: 'server/lanes/thread.ts',
    'draw-pages': 'server/convert/scan/draw-pages.ts',
    'paper-marks': 'server/convert/scan/paper-marks.ts',
    'read-pages': 'server/convert/pages/read-pages.ts',
    verify: 'server/verify.ts',
    secrets: 'server/secrets.ts',
    demo: 'demo/main.ts',
    story: 'demo/story-main.ts',
    customers: 'demo/customer-system/main.ts',
  },
  outdir: 'dist/server',
  bundle: true,
  splitting: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  packages: 'external',
  sourcemap: 'linked',
  logLevel: 'warning',
})
