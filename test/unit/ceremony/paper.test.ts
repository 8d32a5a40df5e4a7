import { expect } from 'chai'
import fc from 'fast-check'
import { paperCode, pagesNeeded, readPaperCode } from '#core/ceremony/paper.ts'
import { RECORDING, recordingOf } from '#core/ceremony/recording.ts'
import { returnedOf } from '#core/ceremony/returned.ts'
import { common, differencesOf, type OneSending } from '#core/ceremony/differs.ts'

describe('the codes of printed pages', () => {
  it('say whose copy it is and which page, and nothing else does', () => {
    fc.assert(
      fc.property(fc.uuid(), fc.integer({ min: 1, max: 9999 }), (party, page) => {
        const code = paperCode(party, page)
        expect(readPaperCode(code)).to.deep.equal({ party, page })
        expect(code.length).to.be.at.most(30)
      }),
    )
    fc.assert(
      fc.property(fc.string(), (text) => {
        const read = readPaperCode(text)
        if (read) expect(text.trim()).to.equal(paperCode(read.party, read.page))
      }),
    )
    expect(readPaperCode('B1.AAAAAAAAAAAAAAAAAAAAAA.0012345')).to.equal(null)
  })

  it('are needed of the pages with a place of theirs', () => {
    const at = (role: string, page: number) =>
      ({
        id: `${role}${page}`,
        role,
        kind: 'initials',
        label: '',
        page,
        x: 0,
        y: 0,
        width: 9,
        height: 9,
        required: true,
      }) as never
    expect(pagesNeeded([at('a', 3), at('b', 1), at('a', 1), at('a', 3)], 'a')).to.deep.equal([1, 3])
  })
})

describe('a recording', () => {
  const file = (head: readonly number[], words: string, bytes = 500) => {
    const made = new Uint8Array(bytes)
    made.set(head)
    made.set(new TextEncoder().encode(words), 100)
    return made
  }
  const WEBM = [0x1a, 0x45, 0xdf, 0xa3]
  const MP4 = [0, 0, 0, 24, 0x66, 0x74, 0x79, 0x70]

  it('is told by its own words', () => {
    const kinds = [
      [file(WEBM, 'A_OPUS'), 'audio/webm'],
      [file(WEBM, 'V_VP9'), 'video/webm'],
      [file(MP4, 'soun'), 'audio/mp4'],
      [file(MP4, 'vide'), 'video/mp4'],
      [file([0x4f, 0x67, 0x67, 0x53], 'OpusHead'), 'audio/ogg'],
    ] as const
    for (const [bytes, type] of kinds) expect(recordingOf(bytes)).to.include({ ok: true, type })
    expect(recordingOf(new Uint8Array()).ok).to.equal(false)
  })

  it('has a length that it may have, by its kind', () => {
    expect(recordingOf(file(WEBM, 'A_OPUS', RECORDING.bytes.sound + 1)).ok).to.equal(false)
    expect(recordingOf(file(WEBM, 'V_VP8', RECORDING.bytes.sound + 1)).ok).to.equal(true)
  })
})

describe('a report of a mail that did not arrive', () => {
  // RFC 3464, appendix E.1, shortened.
  const report = [
    'Reporting-MTA: dns; cs.utk.example',
    '',
    'Original-Recipient: rfc822;louisl@larry.slip.umd.example',
    'Final-Recipient: rfc822;louisl@larry.slip.umd.example',
    'Action: failed',
    'Status: 4.0.0',
    'Diagnostic-Code: smtp; 426 connection timed out',
    ' after five days',
    'Last-Attempt-Date: Thu, 7 Jul 1994 17:15:49 -0400',
  ].join('\r\n')

  it('says whom it did not reach and why, over folded lines', () =>
    expect(returnedOf(report)).to.deep.equal({
      to: 'louisl@larry.slip.umd.example',
      problem: '426 connection timed out after five days',
    }))

  it('says nothing where it is only late, has arrived, or is no report', () => {
    for (const action of ['delayed', 'delivered', 'relayed', 'expanded'])
      expect(returnedOf(report.replace('failed', action))).to.equal(null)
    fc.assert(fc.property(fc.string(), (text) => returnedOf(text) === null || /failed/i.test(text)))
  })

  it('finds the one that failed among several', () => {
    const fine = report.replace('failed', 'delivered').replaceAll('louisl', 'arathib')
    const second = report.split('\r\n').slice(2).join('\r\n')
    expect(returnedOf(`${fine}\r\n\r\n${second}`)?.to).to.contain('louisl')
  })
})

describe('many that go out', () => {
  const one = (more: Partial<OneSending> = {}): OneSending => ({
    signByDay: null,
    plan: { after: [3], unopened: [], before: [1] },
    team: null,
    parties: [
      {
        role: 'grower',
        kind: 'signer',
        order: 1,
        check: 'link',
        message: '',
        mayDecline: true,
        mayHandOver: false,
      },
    ],
    ...more,
  })

  it('differ in what most of them do not have', () => {
    const coded = one({ parties: [{ ...one().parties[0]!, check: 'text code', message: 'Hello' }] })
    expect(differencesOf([one(), coded, one({ signByDay: '2027-03-01' }), one()])).to.deep.equal([
      [],
      ['identity check', 'message to one'],
      ['date to sign by'],
      [],
    ])
    expect(differencesOf([])).to.deep.equal([])
  })

  it('never differ where they are the same, however many', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 30 }), (n) => {
        const all = Array.from({ length: n }, () => one())
        expect(differencesOf(all).flat()).to.deep.equal([])
        expect(common(all.map(({ plan }) => plan))).to.deep.equal(one().plan)
      }),
    )
    expect(common([1, 2])).to.equal(null)
    expect(common([])).to.equal(null)
  })
})
