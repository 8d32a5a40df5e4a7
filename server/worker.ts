import { migrate } from './db/connect.ts'
import { renewSecrets } from './app/sealed-columns.ts'
import { startWork } from './jobs/work.ts'
import { closeMailer } from './post/mailer.ts'
import { makeApp, onStop } from './start.ts'

const app = await makeApp('worker')
await migrate(app.settings)
await renewSecrets(app)
await app.queue.start()
const stopWork = await startWork(app)
app.log.info('working')
onStop(app, async () => {
  await stopWork()
  closeMailer()
  await app.pages.stop()
  await app.pool.end()
})
