// Loads the demo where the database is empty: `node dist/server/demo.js`.
import { makeApp } from '#server/start.ts'
import { loadDemo } from './load.ts'

const app = await makeApp('worker')
// Tests that want a demo without its past say so.
const past = process.env['BREVAN_DEMO_PAST'] === 'no' ? {} : ({ past: 1, rules: 'all' } as const)
const loaded = await loadDemo(app, { sheet: true, ...past })
process.stdout.write(loaded ? 'The demo is loaded.\n' : 'The demo was loaded before; its data is kept.\n')
await app.pages.stop()
await app.pool.end()
