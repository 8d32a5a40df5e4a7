import { useMutation } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { useParams } from 'react-router'
import type { Signing } from '#contract/agreement.ts'
import { unfinished } from '#core/agreement/signing.ts'
import { call, ProblemError, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { renew } from '#web/api/queries.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { TextArea } from '#web/parts/input.tsx'
import { ProofViewer } from '#web/parts/pages/proof-viewer.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { useBytes } from '#web/parts/pages/use-bytes.ts'
import { plural } from '#web/parts/signs/when.tsx'
import { Consent } from './consent.tsx'
import { PlaceMark } from './place-mark.tsx'
import type { Blank, Value } from './place-mark.tsx'
import { SignatureDialog } from './signature-dialog.tsx'

/** What a signer sees. Works in any browser, a phone's too; needs nothing but the link. */
export default function SigningPage() {
  const { token = '' } = useParams()
  const signing = useAnswer('signing', { params: { token } })
  if (signing.isPending) return <Loading />
  if (signing.isError) {
    if (signing.error instanceof ProblemError && signing.error.problem.status === 404)
      return (
        <Closed title="This link is not known">
          It may be cut off: open it from the mail again, or copy it whole. If that does not help, write to
          the person who sent it.
        </Closed>
      )
    return <Failed error={signing.error} retry={() => void signing.refetch()} />
  }
  const { data } = signing
  if (data.status !== 'open') return <Ended signing={data} />
  if (!data.consented) return <Consent token={token} signing={data} />
  return <Sign token={token} signing={data} />
}

function Closed({ title, children }: { readonly title: string; readonly children: React.ReactNode }) {
  return (
    <main className="mx-auto max-w-xl px-6 py-20">
      <h1 className="text-2xl">{title}</h1>
      <p className="mt-3">{children}</p>
    </main>
  )
}

function Ended({ signing }: { readonly signing: Signing }) {
  const words: Record<Exclude<Signing['status'], 'open'>, readonly [string, string]> = {
    signed: [
      'You have signed',
      `When everyone has signed, the finished document comes to you by mail. This link has been used and signs nothing more.`,
    ],
    waiting: [
      'It is not your turn yet',
      'Somebody else signs before you. You will get a mail when it is your turn.',
    ],
    executed: ['Signed by everyone', 'This agreement is finished. The sealed document went to you by mail.'],
    declined: ['Somebody refused to sign', 'The agreement has ended; nobody can sign it any more.'],
    lapsed: ['The date to sign by has passed', `Write to ${signing.from} if you still want to sign.`],
    withdrawn: [
      'The sender has ended this agreement',
      `Nothing is left to sign. Questions go to ${signing.from}.`,
    ],
    revised: [
      'This agreement is being revised',
      'A new link will come by mail with the new text. What was signed before does not count any more.',
    ],
  }
  const [title, text] = words[signing.status as Exclude<Signing['status'], 'open'>]
  return (
    <Closed title={title}>
      {text}
      <span className="mt-6 block border-t border-hair pt-3 text-sm text-soft">{signing.title}</span>
    </Closed>
  )
}

const isFilled = (blank: Blank, values: Readonly<Record<string, Value>>) =>
  blank.kind === 'date' || values[blank.id] !== undefined || blank.rules.preset !== undefined

function Sign({ token, signing }: { readonly token: string; readonly signing: Signing }) {
  const say = useNotice()
  const file = useAnswer('signingDocument', { params: { token } })
  const bytes = useBytes(file.data)
  const [values, setValues] = useState<Readonly<Record<string, Value>>>(signing.values)
  const [drawing, setDrawing] = useState<Blank | null>(null)
  const [declining, setDeclining] = useState(false)
  const [pointed, setPointed] = useState<string | null>(null)
  const marks = useRef(new Map<string, HTMLElement>())
  const asked = signing.blanks.filter((blank) => blank.kind !== 'date')
  const empty = asked.filter((blank) => !isFilled(blank, values))
  const wanting = unfinished(asked, new Map(Object.entries(values)))
  const missing = asked.filter(
    (blank) =>
      (blank.required && empty.includes(blank)) || wanting.some(({ blank: { id } }) => id === blank.id),
  )
  const open = empty.filter((blank) => !missing.includes(blank)).length

  const put = async (changes: Readonly<Record<string, Value | null>>) => {
    const before = values
    setValues((now) =>
      Object.fromEntries(
        Object.entries({ ...now, ...changes }).filter((entry): entry is [string, Value] => entry[1] !== null),
      ),
    )
    try {
      await call('fillBlanks', { params: { token }, body: { values: changes } })
    } catch (error) {
      setValues(before)
      say(problemText(error), 'fault')
    }
  }
  const handIn = async (blank: Blank, file: File) => {
    try {
      const stored = await call('signingFile', { params: { token }, query: { name: file.name }, body: file })
      fill(blank, { kind: 'file', ...stored })
    } catch (error) {
      say(problemText(error), 'fault')
    }
  }
  const goTo = (blank: Blank | undefined) => {
    if (!blank) return
    const mark = marks.current.get(blank.id)
    mark?.scrollIntoView({
      block: 'center',
      behavior: window.matchMedia('(prefers-reduced-motion: reduce)').matches ? 'auto' : 'smooth',
    })
    mark?.focus({ preventScroll: true })
    setPointed(blank.id)
  }
  const next = (after: string, filled: Readonly<Record<string, Value | null>>) => {
    const open = asked.filter((blank) => blank.required && !isFilled(blank, values) && !filled[blank.id])
    const at = asked.findIndex(({ id }) => id === after)
    goTo(open.find((blank) => asked.indexOf(blank) > at) ?? open[0])
  }
  const fill = (blank: Blank, value: Value) => {
    void put({ [blank.id]: value })
    next(blank.id, { [blank.id]: value })
  }
  /** The signature or initials given before; then one touch is enough. */
  const kept = (kind: Blank['kind']) =>
    asked
      .filter((blank) => blank.kind === kind)
      .map((blank) => values[blank.id])
      .find(Boolean)
  const touch = (blank: Blank) => {
    const had = kept(blank.kind)
    if (values[blank.id]) setDrawing(blank)
    else if (had) fill(blank, had)
    else setDrawing(blank)
  }
  const refuse = (error: unknown) => {
    say(problemText(error), 'fault')
    const pointer = error instanceof ProblemError ? error.problem.faults?.[0]?.pointer : undefined
    goTo(asked.find(({ id }) => pointer === `/values/${id}`))
    void renew('signing')
  }
  const finish = useMutation({
    mutationFn: () => call('finishSigning', { params: { token } }),
    onError: refuse,
  })
  const onFinish = () => {
    if (missing.length === 0) return finish.mutate()
    const [first] = missing
    const told = wanting.find(({ blank }) => blank === first)?.message
    say(
      told ??
        (missing.length === 1
          ? `One place is still empty: ${first!.label}.`
          : `${missing.length} places are still empty. The first is ${first!.label}.`),
    )
    goTo(missing[0])
  }
  return (
    <div className="flex h-dvh flex-col">
      <header className="flex shrink-0 items-center gap-4 border-b border-hair px-4 py-2">
        <div className="min-w-0">
          <h1 className="truncate text-base">{signing.title}</h1>
          <p className="truncate text-xs text-soft">
            from {signing.from}, for {signing.name} to sign as {signing.role}
          </p>
        </div>
        <button
          className="ml-auto text-sm whitespace-nowrap text-soft underline hover:text-brick"
          onClick={() => setDeclining(true)}
        >
          I will not sign
        </button>
      </header>
      <main className="min-h-0 flex-1">
        {file.isError ? (
          <Failed error={file.error} retry={() => void file.refetch()} />
        ) : (
          <ProofViewer
            bytes={bytes}
            label={signing.title}
            overlay={(page, scale) =>
              signing.blanks
                .filter((blank) => blank.page === page)
                .map((blank) => (
                  <PlaceMark
                    key={blank.id}
                    blank={blank}
                    scale={scale}
                    value={values[blank.id]}
                    pointed={pointed === blank.id}
                    onTouch={() => touch(blank)}
                    onValue={(value) => void put({ [blank.id]: value })}
                    onFile={(file) => void handIn(blank, file)}
                    hold={(element) => {
                      if (element) marks.current.set(blank.id, element)
                      else marks.current.delete(blank.id)
                    }}
                  />
                ))
            }
          />
        )}
      </main>
      <footer className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-2 border-t border-hair px-4 py-2.5">
        <p className="text-sm" role="status">
          {missing.length === 0
            ? `Everything that is needed is filled in${open > 0 ? `; ${plural(open, 'place')} may stay empty` : ''}. Signing is the last step.`
            : `${plural(missing.length, 'place')} to fill still.`}
        </p>
        {missing.length > 0 && (
          <button className="text-sm text-petrol underline" onClick={() => goTo(missing[0])}>
            Go to {missing[0]!.label}
          </button>
        )}
        <Button kind="main" className="ml-auto px-5 py-1.5" busy={finish.isPending} onClick={onFinish}>
          Sign and finish
        </Button>
      </footer>
      {drawing && (
        <SignatureDialog
          kind={drawing.kind === 'initials' ? 'initials' : 'signature'}
          name={signing.name}
          filled={values[drawing.id] !== undefined}
          onClose={() => setDrawing(null)}
          onUse={(value) => {
            setDrawing(null)
            fill(drawing, value)
          }}
          onEmpty={() => {
            setDrawing(null)
            void put({ [drawing.id]: null })
          }}
        />
      )}
      <Decline token={token} open={declining} onClose={() => setDeclining(false)} />
    </div>
  )
}

function Decline({
  token,
  open,
  onClose,
}: {
  readonly token: string
  readonly open: boolean
  readonly onClose: () => void
}) {
  const [reason, setReason] = useState('')
  const decline = useMutation({
    mutationFn: () => call('decline', { params: { token }, body: { reason } }),
  })
  return (
    <Dialog title="Refuse to sign" open={open} onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault()
          decline.mutate()
        }}
      >
        <p className="mb-2 text-sm">
          This ends the agreement for everyone. The sender is told, with your reason.
        </p>
        <TextArea
          autoFocus
          rows={3}
          aria-label="Your reason"
          placeholder="Your reason"
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        {decline.isError && (
          <p role="alert" className="text-sm text-brick">
            {problemText(decline.error)}
          </p>
        )}
        <div className="mt-3 flex justify-end gap-2">
          <Button onClick={onClose}>Go on reading</Button>
          <Button kind="danger" type="submit" disabled={!reason.trim()} busy={decline.isPending}>
            Refuse
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
