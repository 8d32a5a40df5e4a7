import { expect } from 'chai'
import fc from 'fast-check'
import { checkTemplate } from '#core/checks/checks.ts'
import { compareEditions } from '#core/compare/editions.ts'
import { renameField } from '#core/merge/rename.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { allPassages, textBlocks } from '#core/document/walk.ts'
import { examine } from '#core/merge/examine.ts'
import { templateFaults } from '#core/merge/faults.ts'
import type { FinishedBlock } from '#core/merge/finished.ts'
import { merge } from '#core/merge/merge.ts'
import { prepareTemplate, type ReadyTemplate } from '#core/merge/prepare.ts'
import { finishedText } from '#core/merge/text.ts'
import { decide, wordingKey } from '#core/wording/wording.ts'
import type { RecordData } from '#core/outline/field.ts'
import { completeRecord } from '#core/outline/record.ts'
import { blocksOf } from '#core/merge/walk-finished.ts'
import { anyRecord, anyTemplate } from '#test/support/templates.ts'

function ready(template: TemplateContent): ReadyTemplate {
  const prepared = prepareTemplate(template)
  if (!prepared.ok) throw new Error(prepared.problems.map(({ message }) => message).join('; '))
  return prepared.ready
}

/** Numbers of clauses in reading order, each with those around it. */
function* numbers(
  blocks: readonly FinishedBlock[],
  around: readonly string[] = [],
): Generator<readonly string[]> {
  for (const block of blocks)
    if (block.kind === 'clause') {
      yield [...around, block.number]
      yield* numbers(block.blocks, [...around, block.number])
    }
}

const without = (template: TemplateContent, index: number): TemplateContent => ({
  ...template,
  document: { type: 'doc', content: textBlocks(template.document).toSpliced(index, 1) },
})

describe('laws of any template', () => {
  const holds = (law: (template: TemplateContent, record: RecordData) => void, numRuns = 150) =>
    fc.assert(fc.property(anyTemplate, anyRecord, law), { numRuns })

  it('that has no fault can be published and merged, and asks for nothing but what its outline says', () =>
    holds((template, record) => {
      expect(templateFaults(template)).to.deep.equal([])
      const { document, people, problems } = merge(ready(template), record, 'LP-1')
      expect(blocksOf(document).length).to.be.greaterThan(0)
      expect(people.map(({ name }) => name)).to.deep.equal([record['grower.contact']])
      expect(problems).to.deep.equal([])
    }))

  it('merging the same again gives the same', () =>
    holds((template, record) => {
      const again = () => merge(ready(template), { ...record }, 'LP-1')
      expect(again()).to.deep.equal(again())
    }, 60))

  it('examining tells what merging tells', () =>
    holds((template, record) => {
      const { [Object.keys(record)[0]!]: _left, ...less } = record
      for (const data of [record, less]) {
        const merged = merge(ready(template), data, null)
        const examined = examine(ready(template), data)
        expect(examined.wording).to.equal(merged.wording)
        expect(examined.people).to.deep.equal(merged.people)
        expect(examined.problems).to.deep.equal(merged.problems)
      }
    }))

  it('clauses count without a gap on every level, whatever was dropped', () =>
    holds((template, record) => {
      const seen = new Map<string, number>()
      for (const path of numbers(blocksOf(merge(ready(template), record, null).document))) {
        const around = path.slice(0, -1).join(' ')
        const count = (seen.get(around) ?? 0) + 1
        seen.set(around, count)
        const level = path.length
        const own = path.at(-1)!
        if (level === 1) expect(own).to.equal(String(count))
        else if (level === 2) expect(own).to.equal(`${path[0]}.${count}`)
        else expect(own).to.match(new RegExp(`\\(${String.fromCharCode(96 + count)}\\)$`))
      }
    }))

  it('two records have one wording exactly where they keep the same passages', () =>
    fc.assert(
      fc.property(anyTemplate, anyRecord, anyRecord, (template, one, other) => {
        const prepared = ready(template)
        const of = (record: typeof one) => {
          const decisions = decide(prepared, completeRecord(prepared.outline, record).context)
          return {
            key: wordingKey(decisions),
            kept: [...decisions]
              .filter(([, kept]) => kept === true)
              .map(([id]) => id)
              .sort(),
          }
        }
        const [a, b] = [of(one), of(other)]
        expect(a.key === b.key).to.equal(JSON.stringify(a.kept) === JSON.stringify(b.kept))
      }),
      { numRuns: 120 },
    ))

  it('what is dropped leaves no word behind: the text of a record is that of the template without it', () =>
    holds((template, record) => {
      const prepared = ready(template)
      const decisions = decide(prepared, completeRecord(prepared.outline, record).context)
      const dropped = textBlocks(template.document).findIndex(
        (block) => block.attrs.condition !== null && decisions.get(block.attrs.id) === false,
      )
      fc.pre(dropped >= 0)
      const text = finishedText(merge(prepared, record, null).document)
      expect(finishedText(merge(ready(without(template, dropped)), record, null).document)).to.deep.equal(
        text,
      )
    }, 80))

  it('compared with itself says nothing, and without a passage says exactly that it is gone', () =>
    fc.assert(
      fc.property(anyTemplate, fc.nat(), (template, n) => {
        const same = compareEditions(template, structuredClone(template))
        expect([same.changes, same.facts]).to.deep.equal([0, []])
        const index = n % (textBlocks(template.document).length - 1)
        const gone = compareEditions(template, without(template, index))
        expect(gone.passages.some(({ kind }) => kind === 'removed')).to.equal(true)
        expect(gone.passages.some(({ kind }) => kind === 'added')).to.equal(false)
        const back = compareEditions(without(template, index), template)
        expect(back.changes).to.equal(gone.changes)
      }),
      { numRuns: 100 },
    ))

  it('a field renamed there and back leaves everything as it was', () =>
    fc.assert(
      fc.property(
        anyTemplate,
        fc.constantFrom('grower.name', 'grower.contact', 'leased', 'colonies', 'price', 'crop', 'lots'),
        anyRecord,
        (template, name, record) => {
          const there = renameField(template, name, `renamed_${name.replace('.', '_')}`)
          expect(templateFaults(there.content)).to.deep.equal([])
          const renamed = Object.fromEntries(
            Object.entries(record).map(([key, value]) => [
              key === name ? `renamed_${name.replace('.', '_')}` : key,
              value,
            ]),
          )
          expect(finishedText(merge(ready(there.content), renamed, null).document)).to.deep.equal(
            finishedText(merge(ready(template), record, null).document),
          )
          const back = renameField(there.content, `renamed_${name.replace('.', '_')}`, name)
          expect(back.places).to.equal(there.places)
          expect(JSON.parse(JSON.stringify(back.content))).to.deep.equal(JSON.parse(JSON.stringify(template)))
        },
      ),
      { numRuns: 100 },
    ))

  it('checks name only passages that are there', () =>
    fc.assert(
      fc.property(anyTemplate, (template) => {
        const ids = new Set([...allPassages(template.document)].map(({ attrs }) => attrs.id))
        for (const { where, id, level } of checkTemplate(template, null)) {
          expect(level).not.to.equal('fault')
          if (where === 'block') expect(ids.has(id), id).to.equal(true)
        }
      }),
      { numRuns: 100 },
    ))
})
