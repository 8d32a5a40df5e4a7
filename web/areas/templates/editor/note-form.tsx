import type { Editor } from '@tiptap/react'
import { Button } from '#web/parts/button.tsx'
import { ConditionForm } from '../condition/condition-form.tsx'
import { LibraryNote } from '../panels/library-note.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import type { PassageNote } from '#web/areas/templates/text/passage-notes.ts'

/** What a margin note opens: the form that changes it. */
export function NoteForm({
  note,
  editor,
  onDone,
}: {
  readonly note: PassageNote
  readonly editor: Editor
  readonly onDone: () => void
}) {
  const { content, editable } = useStudio()
  const set = (attributes: Readonly<Record<string, unknown>>) => {
    const { tr } = editor.state
    for (const [name, value] of Object.entries(attributes)) tr.setNodeAttribute(note.position, name, value)
    editor.view.dispatch(tr)
    onDone()
  }
  if (!editable) return <p className="max-w-80 text-sm">{note.text}</p>
  switch (note.kind) {
    case 'condition':
      return (
        <ConditionForm
          initial={note.condition ?? ''}
          repeat={note.inRepeat}
          title={
            note.alternative ? 'Stands where nothing before it does, and' : 'This passage stands only where'
          }
          clearLabel={note.alternative && note.condition !== null ? 'Otherwise' : 'Always'}
          onCancel={onDone}
          onSet={(condition) =>
            set(
              condition === null && !(note.alternative && note.condition !== null)
                ? { condition: null, alternative: false }
                : { condition },
            )
          }
        />
      )
    case 'repeat':
      return <RepeatForm repeat={note.repeat} onSet={(repeat) => set({ repeat })} />
    case 'check':
      return <Checked id={note.id} />
    case 'keep':
      return (
        <Button onClick={() => set({ keep: false })}>
          {editor.state.doc.nodeAt(note.position)?.type.name === 'signatureBlock'
            ? 'May stand on a page alone'
            : 'May go over a page'}
        </Button>
      )
    case 'library':
      return <LibraryNote editor={editor} position={note.position} onDone={onDone} />
    case 'roles':
      return (
        <RolesChoice
          roles={content.roles}
          chosen={(editor.state.doc.nodeAt(note.position)?.attrs['roles'] as string[] | undefined) ?? []}
          onSet={(roles) => set({ roles })}
        />
      )
  }
}

/** What the checks say of a passage. */
function Checked({ id }: { readonly id: string }) {
  const { checks } = useStudio()
  return (
    <ul className="max-w-80 text-sm">
      {checks
        .filter((check) => check.where === 'block' && check.id === id)
        .map(({ message }) => (
          <li key={message}>{message}</li>
        ))}
    </ul>
  )
}

/** Which list a passage repeats with. */
export function RepeatForm({
  repeat,
  onSet,
}: {
  readonly repeat: string | null
  readonly onSet: (repeat: string | null) => void
}) {
  const { all } = useStudio()
  const lists = all.filter(({ type }) => type === 'list')
  return (
    <div className="w-64 text-sm">
      <p className="mb-2 font-semibold">Stands once for each item of</p>
      {lists.length === 0 && <p className="text-soft">The data has no list yet. Add one under Data.</p>}
      {lists.map(({ name, label }) => (
        <button
          key={name}
          className={`block w-full px-2 py-1 text-left ${repeat === name ? 'bg-petrol-wash' : 'hover:bg-wash'}`}
          onClick={() => onSet(name)}
        >
          {label} <span className="text-xs text-soft">{name}</span>
        </button>
      ))}
      {repeat !== null && (
        <Button kind="quiet" className="mt-2" onClick={() => onSet(null)}>
          Once
        </Button>
      )}
    </div>
  )
}

function RolesChoice({
  roles,
  chosen,
  onSet,
}: {
  readonly roles: readonly { readonly key: string; readonly label: string }[]
  readonly chosen: readonly string[]
  readonly onSet: (roles: readonly string[]) => void
}) {
  return (
    <div className="w-56 text-sm">
      <p className="mb-2 font-semibold">Signatures of</p>
      {roles.map(({ key, label }) => (
        <label key={key} className="flex items-center gap-2 py-0.5">
          <input
            type="checkbox"
            checked={chosen.includes(key)}
            onChange={(event) =>
              onSet(event.target.checked ? [...chosen, key] : chosen.filter((role) => role !== key))
            }
          />
          {label}
        </label>
      ))}
    </div>
  )
}
