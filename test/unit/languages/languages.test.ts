import { expect } from 'chai'
import fc from 'fast-check'
import { LANGUAGES } from '#core/languages/language.ts'
import { speaks, WORDS } from '#core/languages/all.ts'
import type { WordKey } from '#core/languages/en.ts'
import { describeProofs } from '#core/evidence/describe.ts'
import { FORMER_CHECKS } from '#core/ceremony/parties.ts'
import { keysOf } from '#core/keys-of.ts'

type Tree = { readonly [key: string]: string | Tree }

const flat = (tree: Tree, path = ''): readonly (readonly [string, string])[] =>
  Object.entries(tree).flatMap(([key, value]) =>
    typeof value === 'string' ? [[path + key, value] as const] : flat(value, `${path}${key}.`),
  )

const PLURAL = /_(zero|one|two|few|many|other)$/
const stems = (tree: Tree) => [...new Set(flat(tree).map(([key]) => key.replace(PLURAL, '')))].sort()
const placeholders = (text: string) => [...text.matchAll(/\{\{(\w+)\}\}/g)].map(([, name]) => name!).sort()

describe('what parties are told', () => {
  const english = new Map(flat(WORDS.en as unknown as Tree))

  for (const language of LANGUAGES) {
    const words = flat(WORDS[language] as unknown as Tree)

    it(`is complete in ${language}`, () => {
      expect(stems(WORDS[language] as unknown as Tree)).to.deep.equal(stems(WORDS.en as unknown as Tree))
      for (const [key, text] of words) expect(text.trim(), key).to.not.equal('')
    })

    it(`says proofs of files that were sealed long ago, in ${language}`, () => {
      const { say } = speaks(language)
      const party = {
        proofs: keysOf(FORMER_CHECKS),
        atDeviceOf: null,
        mail: { veiled: 'm…y@brightwater.example' },
      }
      expect(describeProofs({ ...party, phone: null }, say)).to.deep.equal([
        say('evidence.proof.agreed code'),
      ])
    })

    it(`has the plural forms that ${language} has (CLDR, by Intl.PluralRules)`, () => {
      const forms = new Intl.PluralRules(language).resolvedOptions().pluralCategories
      for (const stem of new Set(
        words
          .map(([key]) => key)
          .filter((key) => PLURAL.test(key))
          .map((key) => key.replace(PLURAL, '')),
      ))
        for (const form of forms) expect(words.map(([key]) => key)).to.include(`${stem}_${form}`)
    })

    it(`fills in the same things in ${language}`, () => {
      for (const [key, text] of words) {
        const like = english.get(key) ?? english.get(key.replace(PLURAL, '_other'))!
        expect(placeholders(text), key).to.deep.equal(placeholders(like))
      }
    })

    it(`leaves no placeholder, and says what it is given as it is given, in ${language}`, () => {
      const names = [...new Set(words.flatMap(([, text]) => placeholders(text)))]
      const { say } = speaks(language)
      fc.assert(
        fc.property(
          fc.constantFrom(...words.map(([key]) => key.replace(PLURAL, ''))),
          fc.string(),
          (key, text) => {
            const values = Object.fromEntries(names.map((each) => [each, each === 'count' ? 3 : text]))
            const said = say(key as WordKey, values)
            expect(said).to.be.a('string')
            // A name that looks like a placeholder, or like a reference to other words, is a name.
            if (!text.includes('{{')) expect(said).not.to.match(/\{\{\w+\}\}/)
          },
        ),
        { numRuns: 300 },
      )
    })
  }

  it('keeps a name that is written as a placeholder', () => {
    expect(speaks('en').say('mail.greeting', { name: '{{title}} $t(mail.keep)' })).to.equal(
      '{{title}} $t(mail.keep),',
    )
  })

  it('isolates what is written from right to left, so that what follows stays in its place (UAX 9, FSI and PDI)', () => {
    expect(speaks('en').say('mail.greeting', { name: 'דבורה לוי' })).to.equal('\u2068דבורה לוי\u2069,')
  })

  it('says days as CLDR has them', () => {
    const at = new Date('2026-12-11T07:59:59.999Z')
    const zone = 'America/Los_Angeles'
    expect(speaks('en').day(at, zone)).to.equal('December 10, 2026')
    expect(speaks('es').day(at, zone)).to.equal('10 de diciembre de 2026')
    expect(speaks('fr').day(at, zone)).to.equal('10 décembre 2026')
  })
})
