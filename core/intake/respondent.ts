import type { SignerRole } from '../document/template.ts'
import { signerField } from '../merge/fields.ts'
import { type IntakeForm, questionsOf } from './form.ts'

/**
 * The role that a respondent has in a document of the form: the first whose address is the one asked for as theirs. Every other
 * role is somebody else's, whatever the response says of its address. Null: they have no part in the document.
 */
export function respondentRole(
  form: Pick<IntakeForm, 'email' | 'pages'>,
  roles: readonly SignerRole[],
): string | null {
  if (form.email === null) return null
  const also = questionsOf(form).find(({ id }) => id === form.email)?.also ?? []
  const asked = new Set([form.email, ...also])
  return roles.find((role) => asked.has(addressField(role) ?? ''))?.key ?? null
}

/** The field that a role's address comes from; null: from nowhere that a form could fill. */
const addressField = ({ key, fill }: SignerRole): string | null =>
  fill.rule === 'record'
    ? fill.list
      ? null
      : fill.email
    : fill.rule === 'ask'
      ? signerField(key, 'email')
      : null
