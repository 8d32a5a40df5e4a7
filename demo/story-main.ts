// Tells the demo's story so far, behind its first start: `node dist/server/story.js`. Ends by itself.
import { makeApp } from '#server/start.ts'
import { tellStory } from './story.ts'

const app = await makeApp('worker')
const began = Date.now()
await tellStory(app)
app.log.info({ seconds: Math.round((Date.now() - began) / 1000) }, 'the story so far is told')
await app.pages.stop()
await app.pool.end()
