import { expect } from 'chai'
import fc from 'fast-check'
import { type PagesTree, type Placement, type TextCue } from '#core/document/tree.ts'
import { emptyTemplate } from '#core/document/empty.ts'
import { looked, withBoxes } from '#core/form/arrange.ts'
import { templateFaults } from '#core/merge/faults.ts'
import { cueFaults, cueTo, placeByCues } from '#core/form/cues.ts'
import { findPhrase, folded } from '#core/form/phrases.ts'
import { replaceFile } from '#core/form/replace.ts'
import { blankAt, pageOf, pagesOf, readOf } from './pages.ts'

const withCue = (placement: Placement, cue: TextCue): Placement => ({
  ...placement,
  attrs: { ...placement.attrs, cue },
})
const first = readOf(['Agreement of the season', 'Signature of the grower', 'Date'])

describe('a phrase on pages', () => {
  it('is found whatever its case, spaces and hyphens, and over the end of a line', () => {
    const page = readOf(['The land-', 'owner signs', 'LAND OWNER signs'])
    expect(findPhrase([page], 'landowner').map(({ base }) => base)).to.deep.equal([72, 100])
    expect(findPhrase([page], 'Land  Owner Signs')).to.have.length(2)
    expect(findPhrase([page], 'nobody')).to.deep.equal([])
    expect(findPhrase([page], ' - ')).to.deep.equal([])
  })

  it('begins where its first letter stands, in the middle of a word too', () => {
    const [found] = findPhrase([first], 'of the season')
    expect(found).to.include({ page: 0, base: 72 })
    expect(found!.x).to.be.closeTo(72 + 10 * 6, 0.01)
    expect(findPhrase([readOf(['Name:______'])], '____')[0]!.x).to.be.closeTo(72 + 5 * 6, 0.01)
  })

  it('is found in columns as they follow in the file, and across them as they are printed', () => {
    const columns = readOf(['left right', 'side side'])
    const inFile = { ...columns, words: [0, 2, 1, 3].map((i) => columns.words[i]!) }
    expect(findPhrase([inFile], 'left side')).to.have.length(1)
    expect(findPhrase([inFile], 'left right')).to.have.length(1)
  })

  it('of any words of a page is found on it (property)', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.stringMatching(/^[a-zé-]{1,8}$/), { minLength: 1, maxLength: 6 }), {
          minLength: 1,
          maxLength: 8,
        }),
        fc.nat(),
        fc.integer({ min: 1, max: 5 }),
        (lines, at, many) => {
          const page = readOf(lines.map((line) => line.join(' ')))
          const words = page.words.map(({ text }) => text)
          const from = at % words.length
          const phrase = words.slice(from, from + many).join(' ')
          fc.pre(folded(phrase) !== '')
          expect(findPhrase([page], phrase)).not.to.deep.equal([])
        },
      ),
    )
  })
})

describe('a text cue', () => {
  const [at] = findPhrase([first], 'Signature of the grower')
  const beside = blankAt('sign', 72, 110)
  const cued = withCue(beside, cueTo(beside, 'Signature of the grower', 1, at!))

  it('leaves a placement where it is on the page it was set on (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 400 }), fc.integer({ min: 0, max: 700 }), (x, y) => {
        const placement = blankAt('any', x, y)
        const document = pagesOf(
          pageOf('p', 1, withCue(placement, cueTo(placement, 'Date', 1, findPhrase([first], 'Date')[0]!))),
        )
        const { document: placed, faults } = placeByCues(document, () => first)
        expect(faults).to.deep.equal([])
        expect(placed.content[0]!.content[0]!.attrs).to.include({ id: 'any' })
        expect(placed.content[0]!.content[0]!.attrs.x).to.be.closeTo(x, 1e-6)
        expect(placed.content[0]!.content[0]!.attrs.y).to.be.closeTo(y, 1e-6)
        expect(cueFaults(placed, () => first)).to.deep.equal([])
      }),
    )
  })

  it('keeps its distance where the text has grown, on whatever page it stands then', () => {
    const longer = [first, readOf(['More', 'and more']), readOf(['', '', 'SIGNATURE OF THE GROWER'])]
    const document = pagesOf(pageOf('a', 1, cued), pageOf('b', 2), pageOf('c', 3))
    const without = [readOf(['Agreement']), longer[1]!, longer[2]!]
    const { document: placed } = placeByCues(document, (_, page) => without[page - 1])
    expect(placed.content.map(({ content }) => content.length)).to.deep.equal([0, 0, 1])
    expect(placed.content[2]!.content[0]!.attrs.y).to.be.closeTo(100 + (110 - at!.base), 0.01)
  })

  it('that stands nowhere, too often or elsewhere is told', () => {
    const twice = readOf(['Signature of the grower', 'Signature of the grower'])
    const faults = (page: typeof first, placement: Placement) =>
      cueFaults(pagesOf(pageOf('a', 1, placement)), () => page).map(({ message }) => message)
    expect(faults(readOf(['Nothing']), cued)[0]).to.contain('stands nowhere')
    expect(faults(readOf(['', '', '', 'Signature of the grower']), cued)[0]).to.contain('any more')
    const onTwice = placeByCues(pagesOf(pageOf('a', 1, cued)), () => twice).document.content[0]!.content[0]!
    expect(faults(twice, onTwice)[0]).to.contain('2 times')
    expect(faults(first, withCue(cued, { ...cued.attrs.cue!, nth: 2 }))[0]).to.contain('occurrence 2')
  })

  it('of every occurrence stands beside each, with blanks of their own, and the same again when it is asked again', () => {
    const page = readOf(['Initials', 'text', 'Initials', 'Initials'])
    const one = blankAt('i', 200, 66)
    const every = withCue(one, {
      ...cueTo(one, 'Initials', 1, findPhrase([page], 'Initials')[0]!),
      nth: 'every',
    })
    const { document } = placeByCues(pagesOf(pageOf('a', 1, every)), () => page)
    const placed = document.content[0]!.content
    expect(placed.map(({ attrs }) => [attrs.id, attrs.y])).to.deep.equal([
      ['i', 66],
      ['i_2', 94],
      ['i_3', 108],
    ])
    expect(
      new Set(
        placed.map(({ content }) =>
          content.map((part) => (part.type === 'blank' ? part.attrs.id : '')).join(),
        ),
      ).size,
    ).to.equal(3)
    expect(placeByCues(document, () => page).document).to.deep.equal(document)
  })
})

describe('another version of a file', () => {
  const next = 'e'.repeat(64)
  let count = 0
  const newId = () => `new${++count}`

  it('keeps every placement, and tells of each how it was found, what was lost first', () => {
    const before = readOf(['Name of the grower', 'Gate', 'Signature of the grower'])
    const after = [readOf(['Chapter', 'Name of the grower']), readOf(['Signature of the grower'])]
    const [at] = findPhrase([before], 'Signature of the grower')
    const sign = blankAt('sign', 72, 104)
    const document = pagesOf(
      pageOf(
        'p',
        1,
        blankAt('name', 190, 62),
        withCue(sign, cueTo(sign, 'Signature of the grower', 1, at!)),
        blankAt('gate', 110, 76),
      ),
    )
    const { document: made, carried } = replaceFile(
      document,
      'f'.repeat(64),
      { file: next, pages: after },
      () => before,
      newId,
    )
    expect(
      made.content.map(({ attrs, content }) => [attrs.page, content.map((each) => each.attrs.id)]),
    ).to.deep.equal([
      [1, ['name', 'gate']],
      [2, ['sign']],
    ])
    expect(carried.map(({ id, how }) => [id, how])).to.deep.equal([
      ['gate', 'not found again'],
      // Its own words are there, and nothing else of its neighbourhood.
      ['name', 'not sure'],
      ['sign', 'by cue'],
    ])
    expect(carried[1]!.to.y - carried[1]!.from.y).to.be.closeTo(14, 0.01)
    // A page of the same number stays the page it was.
    expect(made.content[0]!.attrs.id).to.equal('p')
  })

  /** Where one place beside the second of five lines goes in another version. */
  const goes = (...versions: readonly (readonly string[])[]) => {
    const before = readOf(['Hive sheet', 'Name', 'Gate code', 'Season', 'Rows of trees'])
    const { document, carried } = replaceFile(
      pagesOf(pageOf('p', 1, blankAt('name', 110, 76))),
      'f'.repeat(64),
      { file: next, pages: versions.map((each) => readOf(each)) },
      () => before,
      newId,
    )
    const [{ how, from, to }] = carried as [(typeof carried)[number]]
    return { how, page: to.page, down: Math.round(to.y - from.y), document }
  }

  it('finds a place without a cue by its neighbourhood, not by one word that happens to stand elsewhere', () => {
    const sheet = ['Hive sheet', 'Name', 'Gate code', 'Season', 'Rows of trees']
    expect(goes(sheet)).to.include({ how: 'kept its place', page: 1, down: 0 })
    expect(goes(['Foreword', ...sheet])).to.include({ how: 'by the words beside it', page: 1, down: 14 })
    expect(goes(['Foreword'], sheet)).to.include({ how: 'by the words beside it', page: 2, down: 0 })
    // The word stands in running text of another page, and nowhere else.
    expect(goes(['Hive sheet', 'Season'], ['The Name of the orchard is kept'])).to.include({
      how: 'not sure',
    })
    // Its neighbourhood is there twice: nobody can tell which is meant.
    expect(goes(sheet, sheet)).to.include({ how: 'not sure' })
    expect(goes(['Something else'])).to.include({ how: 'not found again', page: 1, down: 0 })
    // The word repeats, and one of them has the neighbourhood.
    expect(goes(['Name of the bank'], sheet)).to.include({ how: 'by the words beside it', page: 2 })
  })

  it('keeps from being published until somebody has looked at what was not found for sure', () => {
    const content = (document: PagesTree) => ({ ...emptyTemplate('Hive sheet'), document })
    const faults = (document: PagesTree) =>
      templateFaults(content(document)).filter(({ message }) => message.includes('other version'))
    const { document } = goes(['Something else'])
    expect(faults(document).map(({ id }) => id)).to.deep.equal(['name'])
    const [placement] = document.content[0]!.content
    const box = { x: 72, y: 90, width: 120, height: 14 }
    expect(faults(withBoxes(document, new Map([['name', box]])))).to.deep.equal([])
    expect(faults(pagesOf(pageOf('p', 1, looked(placement!))))).to.deep.equal([])
    // Found for sure in a later version, it needs no look any more.
    const found = replaceFile(
      document,
      next,
      { file: 'e'.repeat(64), pages: [readOf(['Something else'])] },
      () => readOf(['Something else']),
      newId,
    )
    expect(faults(found.document)).to.deep.equal([])
  })

  it('never loses a placement, and gives none twice (property)', () => {
    const words = fc.array(fc.constantFrom('Name', 'Date', 'Gate code', 'Signature here', 'Other'), {
      minLength: 1,
      maxLength: 6,
    })
    fc.assert(
      fc.property(
        words,
        fc.array(words, { minLength: 1, maxLength: 3 }),
        fc.array(fc.nat(5), { maxLength: 5 }),
        (old, versions, lines) => {
          const before = readOf(old)
          const placed = lines.map((line, i) => blankAt(`b${i}`, 180, 62 + line * 14))
          const { document, carried } = replaceFile(
            pagesOf(pageOf('p', 1, ...placed)),
            'f'.repeat(64),
            { file: next, pages: versions.map((each) => readOf(each)) },
            () => before,
            newId,
          )
          const ids = document.content.flatMap(({ content }) => content.map(({ attrs }) => attrs.id))
          expect([...ids].sort()).to.deep.equal(placed.map(({ attrs }) => attrs.id).sort())
          expect(carried).to.have.length(placed.length)
          expect(document.content).to.have.length(versions.length)
        },
      ),
    )
  })
})
