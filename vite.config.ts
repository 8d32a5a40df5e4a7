import tailwind from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { readdirSync, readFileSync } from 'node:fs'
import { readFile, writeFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { basename, dirname, join } from 'node:path'
import { promisify } from 'node:util'
import { brotliCompress, constants, gzip } from 'node:zlib'
import { defineConfig, type Plugin, runnerImport } from 'vite'

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

/** The pages for people outside have documents of their own, in development too. */
const outsidePages: Plugin = {
  name: 'outside-pages',
  configureServer: (server) => {
    server.middlewares.use((request, _response, next) => {
      if (request.url?.startsWith('/sign/')) request.url = '/sign.html'
      if (request.url?.startsWith('/form/')) request.url = '/form.html'
      next()
    })
  },
}

/** A square, a line and a circle: the thread of an agreement. */
const ICON =
  "data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 16 16'%3E%3Crect x='1' y='5.5' width='5' height='5' fill='%23155E6B'/%3E%3Cpath d='M6 8h4' stroke='%23155E6B'/%3E%3Ccircle cx='12.5' cy='8' r='2.7' fill='none' stroke='%23155E6B' stroke-width='1.2'/%3E%3C/svg%3E"

const PRELOADED = ['source-sans-3-latin-400', 'source-sans-3-latin-600', 'source-serif-4-latin-600'] as const

/** What all documents have in their head: written once. Outside pages ask for their script before the fonts. */
const sharedHead: Plugin = {
  name: 'shared-head',
  transformIndexHtml: {
    order: 'pre',
    handler: (_html, { path }) => [
      { tag: 'meta', attrs: { charset: 'utf-8' } },
      { tag: 'meta', attrs: { name: 'viewport', content: 'width=device-width, initial-scale=1' } },
      { tag: 'meta', attrs: { name: 'color-scheme', content: 'light dark' } },
      { tag: 'link', attrs: { rel: 'icon', href: ICON } },
      ...PRELOADED.map((face) => ({
        tag: 'link',
        attrs: {
          rel: 'preload',
          as: 'font',
          type: 'font/woff2',
          crossorigin: true,
          href: `/node_modules/@fontsource/${face.split('-latin')[0]}/files/${face}-normal.woff2`,
        },
        injectTo: path.endsWith('index.html') ? ('head' as const) : ('body' as const),
      })),
    ],
  },
}

const READER_FILES = ['standard_fonts', 'cmaps', 'wasm', 'iccs'] as const

/**
 * Faces, character maps and decoders that the reader of PDF files asks for: pages from elsewhere name fonts without carrying
 * them, and are compressed in ways of their own.
 */
const readerFiles = (): Plugin => {
  const root = dirname(createRequire(import.meta.url).resolve('pdfjs-dist/package.json'))
  const { version } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')) as { version: string }
  const address = `assets/pdfjs-${version}`
  return {
    name: 'reader-files',
    generateBundle() {
      for (const folder of READER_FILES)
        for (const file of readdirSync(join(root, folder)))
          this.emitFile({
            type: 'asset',
            fileName: `${address}/${folder}/${file}`,
            source: readFileSync(join(root, folder, file)),
          })
    },
    configureServer: (server) => {
      server.middlewares.use(`/${address}`, (request, response, next) => {
        const [folder = '', file = ''] = (request.url ?? '')
          .slice(1)
          .split('/')
          .map((part) => basename(part))
        if (!(READER_FILES as readonly string[]).includes(folder)) return next()
        try {
          response.end(readFileSync(join(root, folder, file)))
        } catch {
          next()
        }
      })
    },
  }
}

const [squeezed, zipped] = [promisify(brotliCompress), promisify(gzip)]

/** Every text beside itself compressed: squeezing fifty scripts while a browser waits costs a first visit half a second. */
const compressed: Plugin = {
  name: 'compressed',
  apply: 'build',
  async writeBundle({ dir }, bundle) {
    const texts = Object.values(bundle).filter(({ fileName }) => /\.(js|mjs|css|html)$/.test(fileName))
    const small = async ({ fileName }: { fileName: string }) => {
      const file = join(dir!, fileName)
      const bytes = await readFile(file)
      const [br, gz] = await Promise.all([
        squeezed(bytes, { params: { [constants.BROTLI_PARAM_QUALITY]: 9 } }),
        zipped(bytes, { level: 9 }),
      ])
      await Promise.all([writeFile(`${file}.br`, br), writeFile(`${file}.gz`, gz)])
    }
    await Promise.all(texts.map(small))
  },
}

export default defineConfig({
  plugins: [react(), tailwind(), calledRoutes, outsidePages, sharedHead, readerFiles(), compressed],
  build: {
    outDir: 'dist/web',
    emptyOutDir: true,
    target: 'es2023',
    chunkSizeWarningLimit: 1500,
    rolldownOptions: { input: ['index.html', 'sign.html', 'form.html'], checks: { pluginTimings: false } },
  },
  server: {
    port: Number(process.env['BREVAN_DEV_PORT'] ?? 4381),
    strictPort: true,
    proxy: { '/api': { target: `http://127.0.0.1:${process.env['BREVAN_PORT'] ?? 4380}` } },
  },
})
