import { checkExpression, type NameTypes } from '../expression/check.ts'
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
    const check = new StepCheck(names, known)
    if (!momentsOf(notice).includes(step.on))
      check.problems.push(
        notice
          ? `A notice is signed by nobody, so it is never ${step.on}. Choose another moment.`
          : 'What is signed is executed, not delivered. Choose another moment.',
      )
    if (step.when.trim()) check.expression(step.when, 'boolean', 'The condition')
    check.gone(named.people, step.tell, 'Whoever is told')
    checkKind(step, named, check)
    return check.problems.map((message) => ({ step: step.id, message }))
  })
}

/** What is wrong with one step, as it is found. */
class StepCheck {
  readonly problems: string[] = []

  constructor(
    private readonly names: NameTypes,
    /** Names that patterns may use. */
    private readonly known: ReadonlySet<string>,
  ) {}

  expression(text: string, expected: 'boolean' | null, what: string): void {
    const compiled = compileExpression(text)
    const fault = compiled.ok
      ? checkExpression(compiled.expression.syntax, this.names, expected ?? undefined)[0]?.message
      : compiled.problem.message
    if (fault) this.problems.push(`${what}: ${fault}`)
  }

  pattern(text: string, what: string): void {
    if (text.trim() === '') this.problems.push(`${what} is empty.`)
    for (const name of patternNames(text))
      if (!this.known.has(name)) this.problems.push(`${what}: there is no field “${name}”.`)
  }

  /** `where`: how one is made, if there is none at all. */
  gone(there: ReadonlySet<string>, id: string, what: string, where = ''): void {
    if (there.has(id)) return
    this.problems.push(
      there.size === 0 && where
        ? `There is none to choose yet: ${where}`
        : `${what} is not there any more. Choose another.`,
    )
  }
}

/** What only a step of this kind has to have. */
function checkKind(step: Step, named: Named, check: StepCheck): void {
  switch (step.kind) {
    case 'file to the record':
      check.pattern(step.name, 'The name')
      break
    case 'file to a folder':
      check.pattern(step.name, 'The name')
      check.gone(named.folders, step.folder, 'The folder', 'add a filing folder in Settings.')
      break
    case 'mail':
      for (const [text, what] of [
        [step.to, 'The address'],
        [step.subject, 'The subject'],
        [step.text, 'The text'],
      ] as const)
        check.pattern(text, what)
      if (step.to.trim() && patternNames(step.to).length === 0 && !isEmail(step.to.trim()))
        check.problems.push('This is not an email address.')
      break
    case 'tell a program':
      check.gone(named.programs, step.program, 'The program', 'add a webhook in Settings.')
      break
    case 'tell the customer system':
      if (step.status.trim()) check.pattern(step.status, 'The status')
      else if (!step.link && !step.file) check.problems.push('Say what it is told.')
      break
    case 'follow-up':
      check.pattern(step.text, 'What is to be done')
      check.gone(named.people, step.person, 'Whoever is to do it')
      break
    case 'change the record':
      check.expression(step.value, null, 'The value')
      check.gone(named.fields, step.field, 'The record’s field')
      break
    case 'next document':
      check.gone(named.templates, step.template, 'The template', 'publish a template first.')
      break
  }
}
