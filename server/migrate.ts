// Brings the database to the newest schema, by its owner: `node dist/server/migrate.js`.
import { migrate } from './db/connect.ts'
import { readSettings } from './ground/settings.ts'

await migrate(readSettings())
