import { type Client, eventually } from './client.ts'

/** Fields of the notice of arrival, by the columns of a sheet of letters. */
const COLUMNS = {
  'grower.name': 'Grower',
  'grower.contact': 'Contact',
  'grower.email': 'E-mail',
  'orchard.county': 'County',
  season: 'Season',
  'bloom.start': 'Bloom',
  colonies: 'Colonies',
}

/** Makes a run of the notice of arrival, a letter to each of the addresses, and answers its id once all are made. */
export async function letters(
  client: Client,
  addresses: readonly string[],
  copies: readonly string[] = [],
): Promise<string> {
  const { id: notice } = (await client.call('templates')).find(({ name }) => name === 'Notice of arrival')!
  const lines = addresses.map((email, i) =>
    [
      `Orchard ${String(i + 1).padStart(2, '0')}`,
      `Ada Finch ${i + 1}`,
      email,
      'Polk',
      '2027',
      '2027-03-20',
      100 + i,
      copies[i] ?? '',
    ].join(','),
  )
  const sheet = await client.call('uploadSheet', {
    query: { name: 'letters.csv' },
    body: new TextEncoder().encode([`${Object.values(COLUMNS).join(',')},Copy`, ...lines].join('\r\n')),
  })
  await client.call('saveMapping', { params: { id: sheet.id, template: notice }, body: { columns: COLUMNS } })
  const { id } = await client.call('startRun', {
    body: { name: 'Letters', templateId: notice, sheetId: sheet.id, setup: { copiesColumn: 'Copy' } },
  })
  const inState = (state: string) =>
    eventually(async () => (await client.call('run', { params: { id } })).state === state, state, 60)
  await inState('checked')
  await client.call('generate', { params: { id } })
  await inState('generated')
  return id
}
