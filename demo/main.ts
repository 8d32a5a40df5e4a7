// Loads the demo where the database is empty: `node dist/server/demo.js`.
import { makeApp } from '#server/start.ts'
import { loadDemo } from './load.ts'

const app = await makeApp('worker')
const loaded = await loadDemo(app, { sheet: true, past: 1 })
process.stdout.write(loaded ? 'The demo is loaded.\n' : 'The demo was loaded before; its data is kept.\n')
await app.pages.stop()
await app.pool.end()
