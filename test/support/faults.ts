import type { App } from '#server/app/app.ts'

/** What the servers of this process logged as errors, the newest last: what a 500 does not tell whoever called. */
const faults: string[] = []

/** Has the errors that an app logs told to tests, whatever is printed. */
export function hearFaults({ log }: Pick<App, 'log'>): void {
  const say = log.error.bind(log) as (...said: unknown[]) => void
  log.error = (...said: unknown[]) => {
    const [first] = said as [{ err?: unknown }]
    const error = first instanceof Error ? first : first.err
    if (error instanceof Error) faults.push(told(error))
    say(...said)
  }
}

/** An error with what caused it (a query with what the database said), and where. */
function told(error: Error): string {
  const cause = error.cause instanceof Error ? `\n  because ${told(error.cause)}` : ''
  const [, ...where] = (error.stack ?? '').slice(error.message.length).split('\n    at ')
  return `${error.message.slice(0, 1500)}\n    at ${where.slice(0, 4).join('\n    at ')}${cause}`
}

export const lastFault = (): string => faults.at(-1) ?? 'nothing was logged'
