import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import type { Evidence } from '#core/evidence/evidence.ts'
import { describeEvidence } from '#core/evidence/describe.ts'
import { speaks } from '#core/languages/all.ts'
import { emptyList, makeOwnKeys, openKey, type OwnKeys } from '#server/seal/certificates.ts'
import type { SealMeans } from '#server/seal/means.ts'
import { answerTime } from '#server/seal/time-stamp.ts'

/** Keys of an organisation of the tests' own, and an authority on loopback that tells one time. */
export interface Sealing {
  readonly keys: OwnKeys
  readonly means: SealMeans
  close(): Promise<void>
}

export async function openSealing(organisation: string, at: Date): Promise<Sealing> {
  const keys = await makeOwnKeys(organisation, at)
  const server = createServer((request, response) => {
    const chunks: Buffer[] = []
    request.on('data', (chunk: Buffer) => chunks.push(chunk))
    request.on('end', () => {
      void answerTime(Buffer.concat(chunks), openKey(keys.time), at).then((reply) =>
        response.writeHead(reply ? 200 : 400).end(reply ?? undefined),
      )
    })
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', () => resolve()))
  const seal = openKey(keys.seal)
  const clock = openKey(keys.time)
  return {
    keys,
    means: {
      key: keys.seal,
      time: { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, own: true },
      certificates: [seal.certificate, ...seal.chain, clock.certificate],
      lists: [await emptyList(keys.root, at)],
    },
    close: () =>
      new Promise((resolve) => {
        server.closeAllConnections()
        server.close(() => resolve())
      }),
  }
}

/** Evidence of an agreement of two, one of whom was there in person. */
export const someEvidence = (at: Date): Evidence => ({
  form: 'brevan evidence 1',
  agreement: {
    id: '6a2b3c9e-5d0f-4a83-9d3e-0b8f0d1c2a34',
    number: 'LP-2027-0042',
    name: 'Pollination agreement, Brightwater Orchard, 2027',
    title: 'Season pollination agreement',
    revision: 1,
  },
  organisation: { name: 'Larkmere Pollination', place: 'Larkmere, Oregon' },
  document: { sha256: '0'.repeat(64), pages: 5 },
  parties: [
    {
      label: 'Grower',
      kind: 'signer',
      name: 'Maud Ellery',
      title: '',
      proofs: ['link', 'text code'],
      atDeviceOf: null,
      mail: { veiled: 'm…y@brightwater.example', sha256: '1'.repeat(64) },
      phone: { veiled: '…117', sha256: '2'.repeat(64) },
      consentedAt: at.toISOString(),
      signedAt: at.toISOString(),
      networkAddress: '198.51.100.7',
      signature: 'drawn',
      paper: null,
      values: '3'.repeat(64),
    },
    {
      label: 'Larkmere',
      kind: 'signer',
      name: 'Tobias Renn',
      title: 'Managing director',
      proofs: ['in person'],
      atDeviceOf: 'Ines Hallow',
      mail: { veiled: 't…n@larkmere.example', sha256: '4'.repeat(64) },
      phone: null,
      consentedAt: at.toISOString(),
      signedAt: at.toISOString(),
      networkAddress: '198.51.100.9',
      signature: 'typed',
      paper: null,
      values: '5'.repeat(64),
    },
  ],
  acts: [
    {
      seq: 7,
      at: at.toISOString(),
      actor: 'Maud Ellery',
      act: 'signed',
      networkAddress: '198.51.100.7',
      hash: '6'.repeat(64),
    },
  ],
  trail: { entries: 9, head: '7'.repeat(64) },
  seal: { at: at.toISOString(), ownTime: true },
  verify: { url: 'http://127.0.0.1:4380/verify', code: '6a2b3c9e-5d0f-4a83-9d3e-0b8f0d1c2a34' },
})

export const saidEvidence = (at: Date) => describeEvidence(someEvidence(at), speaks('en'))
