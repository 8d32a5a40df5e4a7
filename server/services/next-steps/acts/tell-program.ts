import { eq } from 'drizzle-orm'
import { webhook } from '#server/db/schema.ts'
import { conflict } from '#server/ground/problem.ts'
import { postEvent } from '#server/services/webhooks/telling.ts'
import type { Doing } from './following.ts'

/** A program is told, with the agreement's values: an event (CloudEvents 1.0), signed as acts are (Standard Webhooks). */
export const tellProgram: Doing<'tell a program'> = {
  outside: async (app, { id, step, row, at }) => {
    const [hook] = await app.db.select().from(webhook).where(eq(webhook.id, step.program))
    if (!hook || hook.endedAt) throw conflict('The program is told nothing any more.')
    const event = {
      specversion: '1.0',
      id: `aftermath.${id}`,
      source: app.settings.publicUrl,
      type: `brevan.aftermath.${step.on}`,
      subject: `agreements/${row.id}`,
      time: at.toISOString(),
      datacontenttype: 'application/json',
      data: {
        agreement: {
          id: row.id,
          number: row.number,
          name: row.name,
          state: row.state,
          record: row.recordId,
          at: `/api/v1/agreements/${row.id}`,
        },
        values: row.data,
      },
    }
    const called = await postEvent(app, hook, event)
    if (!called.ok) throw new Error(called.why)
    if (called.status < 200 || called.status >= 300) throw new Error(`It answered ${called.status}.`)
    return { said: `told ${hook.name} (${called.status})` }
  },
}
