import { checkExpression } from '../expression/check.ts'
import { compileExpression } from '../expression/compile.ts'
import { isEmail } from '../outline/coerce.ts'
import { nameTypes, type Outline } from '../outline/field.ts'
import { patternNames } from '../text/pattern.ts'
import { momentsOf, type Step } from './steps.ts'

/** What is wrong with one step, to be said beside it. */
export interface StepProblem {
  readonly step: string
  readonly message: string
}

/** Names that patterns may say besides the template's fields. */
const OWN: ReadonlySet<string> = new Set(['number'])

/** What is there to be named by steps: by id, what it is called; undefined: there is no such thing any more. */
export interface Named {
  readonly folders: ReadonlySet<string>
  readonly programs: ReadonlySet<string>
  readonly people: ReadonlySet<string>
  readonly templates: ReadonlySet<string>
  /** Fields of the records that agreements are about. */
  readonly fields: ReadonlySet<string>
}

type Listed = readonly { readonly id: string }[]

/** The same of the lists that steps are chosen from. */
export function namedIn(choices: {
  readonly folders: Listed
  readonly programs: Listed
  readonly people: Listed
  readonly templates: Listed
  readonly recordFields: Readonly<Record<'customer' | 'deal' | 'contact', Outline>>
}): Named {
  const ids = (list: Listed) => new Set(list.map(({ id }) => id))
  return {
    folders: ids(choices.folders),
    programs: ids(choices.programs),
    people: ids(choices.people),
    templates: ids(choices.templates),
    fields: new Set(Object.values(choices.recordFields).flatMap((fields) => fields.map(({ name }) => name))),
  }
}

/** What is wrong with a list of steps, over the fields of what they follow. `notice`: nobody signs what they follow. */
export function stepProblems(
  steps: readonly Step[],
  outline: Outline,
  named: Named,
  notice: boolean,
): readonly StepProblem[] {
  const names = nameTypes(outline)
  const known = new Set([...outline.map(({ name }) => name), ...OWN])
  return steps.flatMap((step) => {
    const problems: string[] = []
    const expression = (text: string, expected: 'boolean' | null, what: string) => {
      const compiled = compileExpression(text)
      const fault = compiled.ok
        ? checkExpression(compiled.expression.syntax, names, expected ?? undefined)[0]?.message
        : compiled.problem.message
      if (fault) problems.push(`${what}: ${fault}`)
    }
    const pattern = (text: string, what: string) => {
      if (text.trim() === '') problems.push(`${what} is empty.`)
      for (const name of patternNames(text))
        if (!known.has(name)) problems.push(`${what}: there is no field “${name}”.`)
    }
    const gone = (there: ReadonlySet<string>, id: string, what: string, where = '') => {
      if (there.has(id)) return
      problems.push(
        there.size === 0 && where
          ? `There is none to choose yet: ${where}`
          : `${what} is not there any more. Choose another.`,
      )
    }
    if (!momentsOf(notice).includes(step.on))
      problems.push(
        notice
          ? `A notice is signed by nobody, so it is never ${step.on}. Choose another moment.`
          : 'What is signed is executed, not delivered. Choose another moment.',
      )
    if (step.when.trim()) expression(step.when, 'boolean', 'The condition')
    gone(named.people, step.tell, 'Whoever is told')
    switch (step.kind) {
      case 'file to the record':
        pattern(step.name, 'The name')
        break
      case 'file to a folder':
        pattern(step.name, 'The name')
        gone(named.folders, step.folder, 'The folder', 'add a folder in Settings, Programs, Folders.')
        break
      case 'mail':
        for (const [text, what] of [
          [step.to, 'The address'],
          [step.subject, 'The subject'],
          [step.text, 'The text'],
        ] as const)
          pattern(text, what)
        if (step.to.trim() && patternNames(step.to).length === 0 && !isEmail(step.to.trim()))
          problems.push('The address is no mail address.')
        break
      case 'tell a program':
        gone(named.programs, step.program, 'The program', 'add one in Settings, Programs.')
        break
      case 'tell the customer system':
        if (step.status.trim()) pattern(step.status, 'The status')
        else if (!step.link && !step.file) problems.push('Say what it is told.')
        break
      case 'follow-up':
        pattern(step.text, 'What is to be done')
        gone(named.people, step.person, 'Whoever is to do it')
        break
      case 'change the record':
        expression(step.value, null, 'The value')
        gone(named.fields, step.field, 'The record’s field')
        break
      case 'next document':
        gone(named.templates, step.template, 'The template', 'publish a template first.')
        break
    }
    return problems.map((message) => ({ step: step.id, message }))
  })
}
