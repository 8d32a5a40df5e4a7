import { migrate } from './db/connect.ts'
import { renewSecrets } from './app/sealed-columns.ts'
import { httpApp } from './http/app.ts'
import { openPostRoom } from './post/post-room.ts'
import { takeReturned } from './services/agreements/returned.ts'
import { newFoundingCode } from './services/installation/organisation.ts'
import { makeApp, onStop } from './start.ts'

/** Milliseconds that a connection without use is kept. */
const KEPT_ALIVE = 75_000

const app = await makeApp('web')
await migrate(app.settings)
await renewSecrets(app)
await app.queue.start()
const room = app.settings.takesReturned
  ? await openPostRoom(app, app.settings.smtpPort, (token, raw) => takeReturned(app, token, raw)).catch(
      taken(app.settings.smtpPort, 'BREVAN_SMTP_PORT'),
    )
  : null
const code = await newFoundingCode(app)
if (code)
  // Standing alone in the log, for whoever starts the server to find.
  process.stdout.write(`\nThe first run waits for you at ${app.settings.publicUrl}/?code=${code}\n\n`)
const server = httpApp(app).listen(app.settings.port, '127.0.0.1')
// Longer than proxies keep a connection without use, so that none sends into one that is being closed.
server.keepAliveTimeout = KEPT_ALIVE
server.once('listening', () => app.log.info(`listening at ${app.settings.publicUrl}`))
server.once('error', taken(app.settings.port, 'BREVAN_PORT'))

/** A port in use is a setting to change, told as such. */
function taken(port: number, setting: string) {
  return (error: NodeJS.ErrnoException): never => {
    if (error.code !== 'EADDRINUSE') throw error
    process.stderr.write(`Port ${port} is in use by another program. Set ${setting} to a free one.\n`)
    process.exit(98)
  }
}

onStop(app, async () => {
  server.closeAllConnections()
  await new Promise((resolve) => server.close(resolve))
  await room?.close()
  await app.queue.stop()
  await app.pages.stop()
  await app.pool.end()
})
