// `brevan secrets rotate`: a new key for the secrets in the database, which are encrypted anew with it.
import { readSettings } from './ground/settings.ts'
import { Secrets } from './ground/secrets.ts'
import { renewSecrets } from './app/sealed-columns.ts'
import { makeApp } from './start.ts'

const settings = readSettings()
if (process.argv[2] !== 'rotate' || settings.secretKey !== null) {
  process.stderr.write(
    settings.secretKey === null
      ? 'secrets: rotate\n'
      : 'secrets: the key is given by BREVAN_SECRET_KEY. Keep keys in a file (BREVAN_SECRET_KEYS) to rotate them.\n',
  )
  process.exit(2)
}
// The file is there, with its first key, before another is put before it.
Secrets.ofFile(settings.secretKeys)
Secrets.addKey(settings.secretKeys)
const app = await makeApp('web', settings)
const renewed = await renewSecrets(app)
process.stdout.write(
  `${renewed} secrets were encrypted anew. Keep the older keys in ${settings.secretKeys} for as long as backups need them.\n`,
)
await app.pages.stop()
await app.pool.end()
