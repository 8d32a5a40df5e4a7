import { Plus, Trash2 } from 'lucide-react'
import { ROLE_SHAPES, type SignerRole } from '#core/document/template.ts'
import { placesByRole } from '#core/checks/checks.ts'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { usePerson } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { RoleMark } from '#web/parts/signs/role-mark.tsx'
import { plural } from '#web/parts/signs/when.tsx'

type Standing = Extract<SignerRole['fill'], { rule: 'standing person' }>

const nobody: Standing = { rule: 'standing person', name: '', email: '', title: '' }

/** The people who sign one agreement, by name: whose blanks are whose is told by shape and letter. */
export function Signers() {
  const { content, change, editable } = useStudio()
  const places = placesByRole(content)
  const set = (key: string, next: (role: SignerRole) => SignerRole) =>
    change(
      (before) => ({ ...before, roles: before.roles.map((role) => (role.key === key ? next(role) : role)) }),
      `signer ${key}`,
    )
  const me = usePerson()
  const withMe = content.roles.some(({ fill }) => 'email' in fill && fill.email === me.email)
  /** Whoever sends comes first: theirs is filled in before anybody else is asked. */
  const add = (mine: boolean) =>
    change((before) => {
      const taken = new Set(before.roles.map(({ key }) => key))
      const nth = Array.from({ length: 25 }, (_, i) => i + 1).find((i) => !taken.has(`signer_${i}`)) ?? 1
      const shape = ROLE_SHAPES.find((each) => !before.roles.some((role) => role.shape === each)) ?? 'circle'
      const made: SignerRole = {
        key: `signer_${nth}`,
        label: mine ? 'Sender' : `Signer ${nth}`,
        shape,
        order: mine ? 1 : Math.min(25, before.roles.length + 1),
        fill: mine ? { ...nobody, name: me.name, email: me.email, title: me.post } : nobody,
      }
      const others = mine
        ? before.roles.map((role) => ({ ...role, order: Math.min(25, role.order + 1) }))
        : before.roles
      return { ...before, roles: mine ? [made, ...others] : [...others, made] }
    })
  return (
    <section aria-label="Who signs" className="flex flex-col gap-3">
      <h2 className="text-base">Who signs</h2>
      {content.roles.map((role) => {
        const fill = role.fill.rule === 'standing person' ? role.fill : nobody
        const { signatures, blanks } = places.get(role.key) ?? { signatures: 0, blanks: 0 }
        const put = (more: Partial<Standing>) =>
          set(role.key, (now) => ({ ...now, fill: { ...fill, ...more } }))
        return (
          <fieldset key={role.key} disabled={!editable} className="border-t border-hair pt-2">
            <div className="flex items-center gap-2">
              <RoleMark shape={role.shape} letter={role.label} />
              <Input
                aria-label="As what they sign"
                value={role.label}
                maxLength={200}
                onChange={(event) => set(role.key, (now) => ({ ...now, label: event.target.value }))}
              />
              <input
                type="number"
                aria-label={`When ${role.label} signs`}
                title="Who signs earlier has the lower number"
                className="w-12 rounded-sm border border-hair bg-sheet px-1"
                min={1}
                max={25}
                value={role.order}
                onChange={(event) =>
                  set(role.key, (now) => ({
                    ...now,
                    order: Math.max(1, Math.min(25, Math.round(Number(event.target.value) || 1))),
                  }))
                }
              />
              <button
                type="button"
                aria-label={`Remove ${role.label}`}
                title={
                  signatures + blanks ? 'Remove its blanks from the pages first' : `Remove ${role.label}`
                }
                className="rounded-sm p-1 text-soft hover:text-brick disabled:opacity-35"
                disabled={signatures + blanks > 0}
                onClick={() =>
                  change((before) => ({
                    ...before,
                    roles: before.roles.filter(({ key }) => key !== role.key),
                  }))
                }
              >
                <Trash2 size={14} />
              </button>
            </div>
            <div className="mt-1.5 grid grid-cols-2 gap-1.5">
              <Input
                aria-label={`Name of ${role.label}`}
                placeholder="Name"
                maxLength={200}
                value={fill.name}
                onChange={(event) => put({ name: event.target.value })}
              />
              <Input
                aria-label={`Email address of ${role.label}`}
                placeholder="Email address"
                maxLength={320}
                value={fill.email}
                onChange={(event) => put({ email: event.target.value })}
              />
            </div>
            <p className="mt-1 text-xs text-soft">
              {signatures + blanks === 0
                ? 'nothing on the pages yet'
                : `${plural(signatures, 'signature')}, ${plural(blanks, 'further blank')}`}
            </p>
          </fieldset>
        )
      })}
      {editable && (
        <div className="grid grid-cols-2 gap-2">
          <Button onClick={() => add(false)} disabled={content.roles.length >= 25}>
            <Plus size={14} /> Somebody
          </Button>
          <Button
            onClick={() => add(true)}
            disabled={withMe || content.roles.length >= 25}
            title="You come first: yours is filled in before anybody else is asked"
          >
            <Plus size={14} /> Myself, first
          </Button>
        </div>
      )}
    </section>
  )
}
