import { expect } from 'chai'
import { differences, peopleHash, type Recorded, settingsHash, valuesHash } from '#core/trail/against.ts'
import { actsForParties } from '#core/evidence/evidence.ts'
import { appendEntry, hashOf, type TrailAct, type TrailEntry } from '#core/trail/trail.ts'

const at = '2027-01-05T10:00:00.000Z'
const document = 'd'.repeat(64)
const party = {
  role: 'grower',
  label: 'Grower',
  name: 'Maud Ellery',
  email: 'maud@brightwater.example',
  title: '',
  signed: true,
  declined: false,
  settings: { kind: 'signer', order: 1, check: 'link', codeHash: null, phone: '', mayHandOver: false },
  values: [{ blankId: 'b1', value: { kind: 'typed', text: 'Maud Ellery' } }],
}
const data = { colonies: '120' }

function story(): { entries: readonly TrailEntry[]; recorded: Recorded } {
  const acts: readonly TrailAct[] = [
    {
      at,
      actor: 'Ines Hallow',
      act: 'made',
      detail: { document, people: peopleHash([party]), data: hashOf(data) },
    },
    { at, actor: 'Brevan', act: 'cleared', detail: { reason: 'No rule asks for approval' } },
    { at, actor: 'Ines Hallow', act: 'sent unread', detail: {} },
    {
      at,
      actor: 'Maud Ellery',
      act: 'signed',
      detail: { role: 'Grower', revision: 1, values: valuesHash(party.values) },
    },
    { at, actor: 'Brevan', act: 'executed', detail: { file: 'e'.repeat(64) } },
  ]
  const entries: TrailEntry[] = []
  for (const act of acts) entries.push(appendEntry('a', entries.at(-1) ?? null, act))
  return {
    entries,
    recorded: {
      length: entries.length,
      head: entries.at(-1)!.hash,
      revision: 1,
      data,
      document,
      executed: 'e'.repeat(64),
      state: 'executed',
      number: 'LP-1',
      signBy: null,
      goesAt: null,
      blanks: '',
      shaped: '',
      steps: [],
      parties: [party],
    },
  }
}

describe('a record held against its trail', () => {
  it('agrees where nothing was changed, whatever the order of values and parties', () => {
    const { entries, recorded } = story()
    expect(differences(entries, recorded)).to.deep.equal([])
    expect(peopleHash([party, { ...party, role: 'z' }])).to.equal(
      peopleHash([{ ...party, role: 'z' }, party]),
    )
  })

  it('has one fingerprint for a check, whatever it was called when the trail was written', () => {
    const grower = (check: string) => [
      {
        role: 'grower',
        settings: {
          kind: 'signer',
          order: 1,
          check,
          codeHash: 'a:b',
          phone: '',
          mayHandOver: false,
        } as const,
      },
    ]
    // As it was computed and stored while an agreed code was called an access code.
    const stored = 'e68794790930677f6ca094af751b9ce02d58e1fcb2f58aaf01010de1c9159f7c'
    expect(settingsHash(grower('agreed code'))).to.equal(stored)
    expect(settingsHash(grower('text code'))).not.to.equal(stored)
  })

  const changes: readonly (readonly [
    string,
    (of: ReturnType<typeof story>) => ReturnType<typeof story>,
    RegExp,
  ])[] = [
    [
      'entries taken off its end',
      ({ entries, recorded }) => ({ entries: entries.slice(0, 3), recorded }),
      /2 of 5 entries are missing/,
    ],
    [
      'another document',
      ({ entries, recorded }) => ({ entries, recorded: { ...recorded, document: 'x' } }),
      /document is not the one/,
    ],
    [
      'another name',
      ({ entries, recorded }) => ({ entries, recorded: { ...recorded, parties: [{ ...party, name: 'X' }] } }),
      /name, email address or role/,
    ],
    [
      'another value',
      ({ entries, recorded }) => ({
        entries,
        recorded: { ...recorded, parties: [{ ...party, values: [] }] },
      }),
      /filled in was changed/,
    ],
    [
      'other data',
      ({ entries, recorded }) => ({ entries, recorded: { ...recorded, data: { colonies: '1' } } }),
      /data were changed/,
    ],
    [
      'another executed file',
      ({ entries, recorded }) => ({ entries, recorded: { ...recorded, executed: 'x' } }),
      /executed file is not the one/,
    ],
    [
      'a signature taken back',
      ({ entries, recorded }) => ({
        entries,
        recorded: { ...recorded, parties: [{ ...party, signed: false }] },
      }),
      /signed by the trail/,
    ],
  ]
  for (const [what, change, says] of changes)
    it(`shows ${what}`, () => {
      const { entries, recorded } = change(story())
      expect(differences(entries, recorded).join(' ')).to.match(says)
    })

  it('tells the parties what concerns them, and nothing of the sender’s own', () => {
    const told = actsForParties(story().entries).map(({ act }) => act)
    expect(told).to.deep.equal(['sent unread', 'signed'])
  })
})
