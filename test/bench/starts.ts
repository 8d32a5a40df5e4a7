import { SCOPES } from '#contract/scope.ts'
import { type Client, eventually } from '#test/support/client.ts'
import { saleOf } from '#test/support/sale.ts'

const STARTS = 1000
const SECONDS = 60

/**
 * What a program may rely on: so many starts spread over a minute, each a call of its own, while a run is made. Told are the
 * times of the answers, and when the last one was made.
 */
export async function starts(
  url: string,
  client: Client,
  beginRun: () => Promise<() => Promise<string>>,
  say: (text: string) => void,
): Promise<void> {
  const template = (await client.call('templates')).find(({ name }) => name === 'Colony sale')!.id
  const { secret } = await client.call('makeKey', { body: { name: 'Bench', scopes: SCOPES, days: 1 } })
  const runEnds = await beginRun()
  const began = performance.now()
  const headers = { 'content-type': 'application/json', authorization: `Bearer ${secret}` }
  const call = async (i: number) => {
    await new Promise((resolve) => setTimeout(resolve, (i * SECONDS * 1000) / STARTS))
    const asked = performance.now()
    const response = await fetch(`${url}/api/v1/agreements`, {
      method: 'POST',
      headers: { ...headers, 'idempotency-key': `bench-${i}` },
      body: JSON.stringify({
        template,
        data: saleOf(`Farm ${i}`),
      }),
    })
    const { id } = (await response.json()) as { id?: string }
    return { status: response.status, id, took: performance.now() - asked }
  }
  const answers = await Promise.all(Array.from({ length: STARTS }, (_, i) => call(i)))
  const answered = (performance.now() - began) / 1000
  const took = answers.map((each) => each.took).sort((a, b) => a - b)
  const at = (share: number) => took[Math.floor((took.length - 1) * share)]!.toFixed(0)
  say(
    `${STARTS} starts in ${answered.toFixed(1)} s while a run is made: ${answers.filter(({ status }) => status === 202).length} taken; median ${at(0.5)} ms, 95 % ${at(0.95)} ms, most ${at(1)} ms`,
  )
  say(`  the run of 240: ${await runEnds()}`)
  const ids = answers.flatMap(({ id }) => id ?? [])
  const left = async () => {
    const { agreements } = await client.call('agreements', { query: { search: 'Farm ', limit: '2000' } })
    return ids.length - agreements.length
  }
  await eventually(async () => (await left()) <= 0, 'all of them', 300)
  say(`  all ${ids.length} made ${((performance.now() - began) / 1000).toFixed(0)} s after the first call`)
}
