import type { Settings } from '#server/ground/settings.ts'

/** A text to a telephone. `reference` names the occasion: the gateway takes the same one once. */
export interface Text {
  /** ITU-T E.164. */
  readonly to: string
  readonly text: string
  readonly reference: string
}

/** Milliseconds to wait for a gateway. */
const PATIENCE = 15_000

/**
 * Hands a text to a gateway over HTTP: `POST` with JSON `{to, text, reference}` and a bearer token, answered by 2xx once it is
 * taken. Rejects where it is not.
 */
export async function sendText({ texts }: Settings, text: Text): Promise<void> {
  const answer = await fetch(texts.url, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', Authorization: `Bearer ${texts.token}` },
    body: JSON.stringify(text),
    signal: AbortSignal.timeout(PATIENCE),
    redirect: 'error',
  })
  if (!answer.ok) throw new Error(`The gateway for texts answered ${answer.status}.`)
  await answer.body?.cancel()
}
