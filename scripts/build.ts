// Builds the server's entries into dist/server; packages stay in node_modules. With --watch again after every change.
import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { dirname } from 'node:path'
import { context, type Plugin } from 'esbuild'

/** Writes what has changed, of a build without a fault: servers that run go on with the last one that was whole. */
const writing: Plugin = {
  name: 'writing',
  setup: (builder) =>
    builder.onEnd(async ({ errors, outputFiles = [] }) => {
      if (errors.length) return
      for (const { path, contents } of outputFiles) {
        const there = await readFile(path).catch(() => null)
        if (there?.equals(contents)) continue
        await mkdir(dirname(path), { recursive: true })
        await writeFile(path, contents)
      }
    }),
}

const building = await context({
  entryPoints: {
    web: 'server/web.ts',
    worker: 'server/worker.ts',
    migrate: 'server/migrate.ts',
    supervisor: 'server/supervisor.ts',
    thread: 'server/worker-pools/thread.ts',
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
  write: false,
  plugins: [writing],
  bundle: true,
  splitting: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  packages: 'external',
  sourcemap: 'linked',
  logLevel: 'warning',
})
await building.rebuild()
if (process.argv.includes('--watch')) await building.watch()
else await building.dispose()
