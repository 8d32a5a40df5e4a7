import { useState } from 'react'
import { call, problemText } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import type { Blank, Value } from './fill-store.ts'
import { FIELD, Sheet } from './sheet.tsx'
import { readPlaceText } from './place-text.ts'
import { useDocumentLanguage, useLabel, useWords } from './words.tsx'

interface Props {
  readonly token: string
  readonly blank: Blank
  readonly value: Value | undefined
  readonly onClose: () => void
  readonly onUse: (value: Value | null) => void
}

/** One place, filled at a readable size; what is wrong is said beside it, and nothing wrong is kept. */
export function FillPanel(props: Props) {
  const { say } = useWords()
  const { blank, onClose } = props
  return (
    <Sheet
      title={useLabel()(blank)}
      note={say(blank.required ? 'page.required' : 'page.optional')}
      onClose={onClose}
    >
      {blank.kind === 'tick' ? (
        <Tick {...props} />
      ) : blank.kind === 'choice' ? (
        <Choice {...props} />
      ) : blank.kind === 'file' ? (
        <HandIn {...props} />
      ) : (
        <Line {...props} />
      )}
    </Sheet>
  )
}

function Buttons({
  filled,
  disabled = false,
  busy = false,
  onClose,
  onUse,
}: Pick<Props, 'onClose' | 'onUse'> & {
  readonly filled: boolean
  readonly disabled?: boolean
  readonly busy?: boolean
}) {
  const { say } = useWords()
  return (
    <div className="mt-4 flex flex-wrap justify-end gap-2">
      {filled && (
        <Button kind="quiet" className="mr-auto min-h-11" onClick={() => onUse(null)}>
          {say('page.empty')}
        </Button>
      )}
      <Button className="min-h-11" onClick={onClose}>
        {say('page.notNow')}
      </Button>
      <Button kind="main" type="submit" className="min-h-11 px-5" disabled={disabled} busy={busy}>
        {say('page.use')}
      </Button>
    </div>
  )
}

const Fault = ({ text }: { readonly text: string | null }) =>
  text ? (
    <p role="alert" id="place-problem" className="mt-2 text-brick">
      {text}
    </p>
  ) : null

function Line({ blank, value, onClose, onUse }: Props) {
  const speaker = useWords()
  const { say } = speaker
  const document = useDocumentLanguage()
  const stands = useStanding(blank, value)
  const given = value?.kind === 'text' ? value.text : ''
  const [text, setText] = useState(given || (blank.rules.preset ?? ''))
  const [problem, setProblem] = useState<string | null>(null)
  const use = async () => {
    const plain = text.trim()
    if (!plain) return onUse(null)
    // What stands there already was read before.
    if (plain === given) return onClose()
    const read = await readPlaceText(blank, plain, speaker, document)
    if (read.problem) setProblem(read.problem)
    else onUse({ kind: 'text', text: read.text })
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        void use()
      }}
    >
      <input
        autoFocus
        className={FIELD}
        aria-label={blank.label}
        aria-required={blank.required}
        aria-invalid={problem !== null}
        aria-describedby={problem ? 'place-problem' : undefined}
        inputMode={blank.kind === 'number' ? 'decimal' : 'text'}
        autoComplete={
          blank.kind === 'name'
            ? 'name'
            : blank.kind === 'company'
              ? 'organization'
              : blank.kind === 'title'
                ? 'organization-title'
                : 'off'
        }
        maxLength={500}
        placeholder={blank.kind === 'number' ? say('page.number') : ''}
        value={text}
        onChange={(event) => {
          setText(event.target.value)
          setProblem(null)
          void stands.look(event.target.value)
        }}
      />
      <Fault text={problem} />
      {stands.text !== null && problem === null && (
        <p role="status" className="mt-2 text-soft">
          {say('value.stands', { text: stands.text })}
        </p>
      )}
      <Buttons filled={given !== ''} onClose={onClose} onUse={onUse} />
    </form>
  )
}

/** How a number that is being typed will stand in the document, where that is otherwise than it was typed. */
function useStanding(blank: Blank, value: Value | undefined) {
  const speaker = useWords()
  const document = useDocumentLanguage()
  const [text, setText] = useState<string | null>(null)
  const look = async (typed: string) => {
    if (blank.kind !== 'number') return
    const plain = typed.trim()
    const { text: shown } = await readPlaceText(blank, plain, speaker, document)
    setText(
      plain !== '' && shown !== plain && !(value?.kind === 'text' && value.text === plain) ? shown : null,
    )
  }
  return { text, look }
}

function Tick({ blank, value, onClose, onUse }: Props) {
  const { say } = useWords()
  const [on, setOn] = useState(value?.kind === 'tick')
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        onUse(on ? { kind: 'tick' } : null)
      }}
    >
      <label className="flex min-h-11 items-center gap-3">
        <input
          type="checkbox"
          autoFocus
          className="size-6"
          checked={on}
          onChange={(event) => setOn(event.target.checked)}
        />
        {blank.label}
        <span className="sr-only">{say(on ? 'page.untick' : 'page.tick')}</span>
      </label>
      <Buttons filled={false} onClose={onClose} onUse={onUse} />
    </form>
  )
}

function Choice({ blank, value, onClose, onUse }: Props) {
  const { say } = useWords()
  const { options = [], least = 0, most = 1 } = blank.rules
  const [chosen, setChosen] = useState<readonly number[]>(value?.kind === 'choice' ? value.chosen : [])
  const tooFew = chosen.length < least
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        onUse(chosen.length ? { kind: 'choice', chosen: [...chosen].sort((a, b) => a - b) } : null)
      }}
    >
      <fieldset>
        <legend className="sr-only">{blank.label}</legend>
        {options.map((option, at) => (
          <label key={at} className="flex min-h-11 items-center gap-3">
            <input
              type={most === 1 ? 'radio' : 'checkbox'}
              name="option"
              className="size-6 shrink-0"
              checked={chosen.includes(at)}
              disabled={most > 1 && !chosen.includes(at) && chosen.length >= most}
              onChange={(event) =>
                setChosen((now) =>
                  most === 1 ? [at] : event.target.checked ? [...now, at] : now.filter((each) => each !== at),
                )
              }
            />
            {option}
          </label>
        ))}
      </fieldset>
      {most > 1 && (
        <p className={`text-sm ${tooFew ? 'text-brick' : 'text-soft'}`}>
          {least > 0 && say('page.atLeast', { count: least })} {say('page.atMost', { count: most })}
        </p>
      )}
      <Buttons filled={value !== undefined} onClose={onClose} onUse={onUse} />
    </form>
  )
}

const LARGEST = 10_000_000

function HandIn({ token, blank, value, onClose, onUse }: Props) {
  const { say } = useWords()
  const [file, setFile] = useState<File | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const hand = async () => {
    if (!file) return
    setBusy(true)
    try {
      const stored = await call('signingFile', { params: { token }, query: { name: file.name }, body: file })
      onUse({ kind: 'file', ...stored })
    } catch (error) {
      setProblem(problemText(error))
      setBusy(false)
    }
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        void hand()
      }}
    >
      <label className="block">
        {say('page.chooseFile')} <span className="text-sm text-soft">{say('page.fileLimit')}</span>
        <input
          type="file"
          className="mt-2 block min-h-11 w-full text-base"
          aria-label={blank.label}
          onChange={(event) => {
            const chosen = event.target.files?.[0] ?? null
            const large = chosen !== null && chosen.size > LARGEST
            setProblem(large ? say('refusal.fileLarge', { most: LARGEST / 1_000_000 }) : null)
            setFile(large ? null : chosen)
          }}
        />
      </label>
      {value?.kind === 'file' && <p className="mt-1 text-sm wrap-anywhere text-soft">{value.name}</p>}
      <Fault text={problem} />
      <Buttons filled={value !== undefined} disabled={!file} busy={busy} onClose={onClose} onUse={onUse} />
    </form>
  )
}
