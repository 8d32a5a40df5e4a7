import { MoreHorizontal } from 'lucide-react'
import { lazy, Suspense, useState } from 'react'
import type { Signing } from '#contract/signing.ts'
import { address, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import { Loading } from '#web/parts/states.tsx'
import { AskedList } from './asked-list.tsx'
import { Ask } from './asking.tsx'
import { Decline, HandOver } from './decline.tsx'
import { FillPanel } from './fill-panel.tsx'
import type { GateProps } from './gate.ts'
import { LanguageMenu } from './language-menu.tsx'
import { printOwn } from './print.ts'
import { ReadingView } from './reading-view.tsx'
import { SignaturePanel } from './signature-panel.tsx'
import { useSigning } from './use-signing.ts'
import { useWords } from './words.tsx'

/** The viewer of pages is loaded with the first look at them: who reads the flowing text on a phone does without. */
const ExactPages = lazy(async () => ({ default: (await import('./exact-pages.tsx')).ExactPages }))

/** Narrower than this, a Letter page fitted to the screen cannot be read; in CSS pixels. */
const NARROW = 760

type View = 'reading' | 'exact'

/** What is asked in a window; `ask`: about a passage, or about all of it. */
type Opened = { readonly what: 'decline' | 'hand over' } | { readonly what: 'ask'; readonly passage: string }

/** Reading, filling in, signing. */
export function Sign({ token, signing, onLanguage }: GateProps) {
  const { say } = useWords()
  const state = useSigning(token, signing)
  const [view, setView] = useState<View>(() => (window.innerWidth < NARROW ? 'reading' : 'exact'))
  const [open, setOpen] = useState<Opened | null>(null)
  const { keeper, values, pointed, hold, touch, setScrolled } = state
  const shown = { token, signing, values, pointed, hold, onTouch: touch, onEnd: () => setScrolled(true) }
  const close = () => setOpen(null)
  return (
    <div className="flex h-dvh flex-col">
      <Head token={token} signing={signing} onLanguage={onLanguage} onOpen={setOpen} />
      <div
        className="flex shrink-0 gap-1 border-b border-hair px-3"
        role="group"
        aria-label={say('page.view')}
      >
        {(['reading', 'exact'] as const).map((each) => (
          <button
            key={each}
            aria-pressed={view === each}
            className={`min-h-11 border-b-2 px-2 text-sm ${view === each ? 'border-petrol font-semibold text-petrol' : 'border-transparent text-soft'}`}
            onClick={() => setView(each)}
          >
            {say(each === 'reading' ? 'page.reading' : 'page.exact')}
          </button>
        ))}
      </div>
      <main className="min-h-0 flex-1">
        {view === 'reading' ? (
          <ReadingView
            {...shown}
            onAsk={(passage) => setOpen({ what: 'ask', passage })}
            onExact={() => setView('exact')}
          >
            <AskedList signing={signing} />
          </ReadingView>
        ) : (
          <Suspense fallback={<Loading />}>
            <ExactPages {...shown} onValue={(blank, value) => keeper.put({ [blank.id]: value })} />
          </Suspense>
        )}
      </main>
      <Foot signing={signing} state={state} />
      <Filling token={token} name={signing.name} state={state} />
      {open?.what === 'decline' && <Decline token={token} from={signing.from} onClose={close} />}
      {open?.what === 'hand over' && <HandOver token={token} from={signing.from} onClose={close} />}
      {open?.what === 'ask' && (
        <Ask token={token} from={signing.from} passage={open.passage} onClose={close} />
      )}
    </div>
  )
}

/** What it is and from whom, and what can be done besides signing. */
function Head({
  token,
  signing,
  onLanguage,
  onOpen,
}: GateProps & { readonly onOpen: (open: Opened) => void }) {
  const { say } = useWords()
  const notice = useNotice()
  const isSigner = signing.kind === 'signer'
  return (
    <header className="flex shrink-0 items-center gap-2 border-b border-hair px-4 py-1.5">
      <div className="min-w-0 flex-1">
        <h1 className="truncate text-base">{signing.title}</h1>
        <p className="truncate text-xs text-soft">
          {say('page.from', { from: signing.from })},{' '}
          {say(isSigner ? 'page.toSign' : 'page.toAgree', { name: signing.name, role: signing.role })}
        </p>
      </div>
      <LanguageMenu token={token} onLanguage={onLanguage} />
      <Menu
        trigger={
          <button
            className="grid size-11 shrink-0 place-items-center text-soft hover:text-ink"
            aria-label={say('page.more')}
          >
            <MoreHorizontal size={20} aria-hidden />
          </button>
        }
      >
        <MenuItem onSelect={() => window.open(address('signingDocument', { params: { token } }), '_blank')}>
          <span className="block py-1.5">{say('page.copy')}</span>
        </MenuItem>
        {isSigner && (
          <MenuItem
            onSelect={() =>
              void printOwn(token).then(
                () => notice(say('page.printNote', { from: signing.from })),
                (error: unknown) => notice(problemText(error), 'fault'),
              )
            }
          >
            <span className="block py-1.5">{say('page.print')}</span>
          </MenuItem>
        )}
        <MenuItem onSelect={() => onOpen({ what: 'ask', passage: '' })}>
          <span className="block py-1.5">{say('page.ask')}</span>
        </MenuItem>
        {signing.may.includes('hand over') && (
          <MenuItem onSelect={() => onOpen({ what: 'hand over' })}>
            <span className="block py-1.5">{say('page.handOver')}</span>
          </MenuItem>
        )}
        {signing.may.includes('decline') && (
          <MenuItem onSelect={() => onOpen({ what: 'decline' })}>
            <span className="block py-1.5">{say('page.decline')}</span>
          </MenuItem>
        )}
      </Menu>
    </header>
  )
}

/** What is still missing, and the way to it or to the end. */
function Foot({
  signing,
  state: { state, missing, mayStay, initials, setAll, goTo, finish, finishing },
}: {
  readonly signing: Signing
  readonly state: ReturnType<typeof useSigning>
}) {
  const { say } = useWords()
  const isSigner = signing.kind === 'signer'
  return (
    <footer className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-2 border-t border-hair px-4 py-2">
      <p className="min-w-0 basis-full text-sm sm:flex-1 sm:basis-48" role="status">
        {!isSigner
          ? say('page.agreeNote')
          : missing.length > 0
            ? say('page.missing', { count: missing.length })
            : `${say('page.complete')}${mayStay > 0 ? ` ${say('page.mayStay', { count: mayStay })}` : ''}`}
        {state === 'lost' && <span className="block text-brick">{say('page.lost')}</span>}
        {state === 'saving' && <span className="block text-xs text-soft">{say('page.saving')}</span>}
      </p>
      {initials.length > 1 && (
        <Button className="min-h-11" onClick={setAll}>
          {say('page.allInitials', { count: initials.length })}
        </Button>
      )}
      {missing[0] && (
        <Button className="min-h-11 grow sm:grow-0" onClick={() => goTo(missing[0]?.blank.id)}>
          {say('page.next')}
        </Button>
      )}
      <Button kind="main" className="min-h-11 grow px-5 sm:grow-0" busy={finishing} onClick={finish}>
        {say(isSigner ? 'page.finish' : 'page.agree')}
      </Button>
    </footer>
  )
}

/** The panel of the blank that is being filled in. */
function Filling({
  token,
  name,
  state: { filling, setFilling, values, fill },
}: {
  readonly token: string
  readonly name: string
  readonly state: ReturnType<typeof useSigning>
}) {
  if (!filling) return null
  const { id, kind } = filling
  const panel = {
    token,
    onClose: () => setFilling(null),
    onUse: (value: Parameters<typeof fill>[1]) => {
      setFilling(null)
      fill(filling, value)
    },
  }
  return kind === 'signature' || kind === 'initials' ? (
    <SignaturePanel {...panel} kind={kind} name={name} filled={values[id] !== undefined} />
  ) : (
    <FillPanel {...panel} blank={filling} value={values[id]} />
  )
}
