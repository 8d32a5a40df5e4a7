import type { SendingDefaults, SignerRole, TemplateContent } from '#core/document/template.ts'
import { allInlines } from '#core/document/walk.ts'
import { patternNames } from '#core/text/pattern.ts'
import { Input, Labelled, TextArea } from '#web/parts/input.tsx'
import { RoleMark } from '#web/parts/role-mark.tsx'
import { plural } from '#web/parts/when.tsx'

type Change = (next: (before: TemplateContent) => TemplateContent) => void

/** The data a template needs, and in how many places each field stands. */
export function OutlineList({ content }: { readonly content: TemplateContent }) {
  const places = new Map<string, number>()
  for (const part of allInlines(content.document))
    if (part.type === 'mergeField') places.set(part.attrs.field, (places.get(part.attrs.field) ?? 0) + 1)
  return (
    <div className="overflow-auto p-4">
      <table className="w-full text-left text-sm">
        <thead className="text-xs text-soft">
          <tr className="border-b border-hair">
            <th className="py-1.5 pr-3 font-normal">Field</th>
            <th className="pr-3 font-normal">Type</th>
            <th className="pr-3 font-normal">Given by</th>
            <th className="text-right font-normal">Used</th>
          </tr>
        </thead>
        <tbody>
          {content.outline.map((field) => (
            <tr key={field.name} className="border-b border-hair/60 align-top">
              <td className="py-1.5 pr-3">
                <span className="font-semibold">{field.label}</span>
                <span className="block text-xs text-soft">{field.name}</span>
              </td>
              <td className="pr-3">
                {field.type}
                {field.currency && ` ${field.currency}`}
                {!field.required && !field.computed && (
                  <span className="block text-xs text-soft">may be empty</span>
                )}
              </td>
              <td className="pr-3 text-soft">
                {field.computed ? (
                  <code className="text-xs wrap-anywhere text-petrol">{field.computed}</code>
                ) : (
                  `for example ${field.example ?? ''}`
                )}
              </td>
              <td className="text-right">{places.get(field.name) ?? 0}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

/** Who signs: each role, how it finds its person, and whether it initials every page. */
export function RolesForm({
  content,
  editable,
  change,
}: {
  readonly content: TemplateContent
  readonly editable: boolean
  readonly change: Change
}) {
  const set = (key: string, next: Partial<SignerRole>) =>
    change((before) => ({
      ...before,
      roles: before.roles.map((role) => (role.key === key ? { ...role, ...next } : role)),
    }))
  const initials = (key: string, on: boolean) =>
    change((before) => ({
      ...before,
      initialsOnEveryPage: on
        ? [...before.initialsOnEveryPage, key]
        : before.initialsOnEveryPage.filter((each) => each !== key),
    }))
  return (
    <fieldset disabled={!editable} className="overflow-auto p-6">
      {[...content.roles]
        .sort((a, b) => a.order - b.order)
        .map((role) => (
          <section key={role.key} className="mb-6 border-b border-hair pb-6">
            <h2 className="flex items-center gap-2 text-base">
              <RoleMark shape={role.shape} letter={role.label} /> {role.label}
              <span className="font-sans text-sm font-normal text-soft">
                signs {role.order === 1 ? 'first' : role.order === 2 ? 'second' : `as number ${role.order}`}
              </span>
            </h2>
            <div className="mt-3 grid max-w-xl grid-cols-2 gap-3">
              {role.fill.rule === 'standing person' ? (
                <>
                  <Labelled label="Standing person">
                    <Input
                      value={role.fill.name}
                      onChange={(event) =>
                        role.fill.rule === 'standing person' &&
                        set(role.key, { fill: { ...role.fill, name: event.target.value } })
                      }
                    />
                  </Labelled>
                  <Labelled label="Title">
                    <Input
                      value={role.fill.title}
                      onChange={(event) =>
                        role.fill.rule === 'standing person' &&
                        set(role.key, { fill: { ...role.fill, title: event.target.value } })
                      }
                    />
                  </Labelled>
                  <Labelled label="Mail address">
                    <Input
                      type="email"
                      value={role.fill.email}
                      onChange={(event) =>
                        role.fill.rule === 'standing person' &&
                        set(role.key, { fill: { ...role.fill, email: event.target.value } })
                      }
                    />
                  </Labelled>
                </>
              ) : (
                <p className="col-span-2 text-sm">
                  From the record: name from <code className="text-petrol">{role.fill.name}</code>, mail
                  address from <code className="text-petrol">{role.fill.email}</code>
                </p>
              )}
              <label className="col-span-2 flex items-center gap-2 text-sm">
                <input
                  type="checkbox"
                  checked={content.initialsOnEveryPage.includes(role.key)}
                  onChange={(event) => initials(role.key, event.target.checked)}
                />
                Initials on every page
              </label>
            </div>
          </section>
        ))}
    </fieldset>
  )
}

/** What an agreement is called and what its mail says, as patterns over the outline. */
export function SendingForm({
  content,
  editable,
  change,
}: {
  readonly content: TemplateContent
  readonly editable: boolean
  readonly change: Change
}) {
  const set = (next: Partial<SendingDefaults>) =>
    change((before) => ({ ...before, sending: { ...before.sending, ...next } }))
  const known = new Set([...content.outline.map(({ name }) => name), 'number'])
  const hint = (pattern: string) => {
    const unknown = patternNames(pattern).filter((name) => !known.has(name))
    return unknown.length ? `There is no field ${unknown.join(', ')}` : undefined
  }
  const { sending } = content
  return (
    <fieldset disabled={!editable} className="flex max-w-2xl flex-col gap-4 overflow-auto p-6">
      <Labelled label="Agreement name" hint={hint(sending.agreementName)}>
        <Input
          value={sending.agreementName}
          onChange={(event) => set({ agreementName: event.target.value })}
        />
      </Labelled>
      <Labelled label="File name" hint={hint(sending.fileName)}>
        <Input value={sending.fileName} onChange={(event) => set({ fileName: event.target.value })} />
      </Labelled>
      <Labelled label="Subject of the mail" hint={hint(sending.subject)}>
        <Input value={sending.subject} onChange={(event) => set({ subject: event.target.value })} />
      </Labelled>
      <Labelled label="Message" hint={hint(sending.message)}>
        <TextArea
          rows={4}
          value={sending.message}
          onChange={(event) => set({ message: event.target.value })}
        />
      </Labelled>
      <Labelled label="To be signed within" hint={plural(sending.signByDays, 'day')}>
        <Input
          type="number"
          min={1}
          max={365}
          className="max-w-24"
          value={sending.signByDays}
          onChange={(event) =>
            set({ signByDays: Math.max(1, Math.min(365, Math.round(Number(event.target.value)) || 1)) })
          }
        />
      </Labelled>
    </fieldset>
  )
}
