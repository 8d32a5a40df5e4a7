import { MessageCircleQuestion } from 'lucide-react'
import { type ReactNode, useEffect, useRef } from 'react'
import type { Signing } from '#contract/signing.ts'
import type { ReadingBlock, ReadingPlace, ReadingRun } from '#core/ceremony/reading.ts'
import { address, useAnswer } from '#web/api/client.ts'
import { Failed, Loading } from '#web/parts/states.tsx'
import type { Blank, Value } from './fill-store.ts'
import { Signature } from './place-mark.tsx'
import { useLabel, useWords } from './words.tsx'

/** What both ways of looking at the document are given. */
export interface Shown {
  readonly token: string
  readonly signing: Signing
  readonly values: Readonly<Record<string, Value>>
  /** The place that was gone to last. */
  readonly pointed: string | null
  readonly hold: (id: string) => (element: HTMLElement | null) => void
  readonly onTouch: (blank: Blank) => void
  /** The end of the document has come into view. */
  readonly onEnd: () => void
}

interface Props extends Shown {
  readonly onAsk: (passage: string) => void
  readonly onExact: () => void
  readonly children: ReactNode
}

/** The finished text as it flows, at a size to be read on a phone, with the places in it. */
export function ReadingView(props: Props) {
  const { say } = useWords()
  const { token, onEnd } = props
  const reading = useAnswer('signingReading', { params: { token } })
  const end = useRef<HTMLDivElement>(null)
  const ready = reading.isSuccess
  useEffect(() => {
    if (!ready || !end.current) return
    const seen = new IntersectionObserver(([entry]) => entry!.isIntersecting && onEnd())
    seen.observe(end.current)
    return () => seen.disconnect()
  }, [ready, onEnd])
  if (reading.isPending) return <Loading />
  if (reading.isError) return <Failed error={reading.error} retry={() => void reading.refetch()} />
  return (
    <div className="h-full overflow-auto" tabIndex={0} role="region" aria-label={props.signing.title}>
      <div className="mx-auto max-w-[42rem] px-5 pt-4 pb-16 font-serif text-[1.125rem] leading-relaxed">
        <p className="font-sans text-sm text-soft">
          {say('page.readingNote')}{' '}
          <button className="min-h-11 text-petrol underline" onClick={props.onExact}>
            {say('page.seeExact')}
          </button>
        </p>
        {reading.data.documents.map((document, i) => (
          <article
            key={i}
            lang={document.language}
            className={i > 0 ? 'mt-10 border-t border-hair pt-6' : ''}
          >
            <Blocks blocks={document.blocks} {...props} />
            {document.onPages.length > 0 && (
              <div className="mt-6 grid grid-cols-2 gap-2 border-t border-hair pt-4">
                {document.onPages.map((place) => (
                  <Place key={place.id} place={place} {...props} labelled />
                ))}
              </div>
            )}
          </article>
        ))}
        <div ref={end} aria-hidden />
        <div className="font-sans">{props.children}</div>
      </div>
    </div>
  )
}

const textOf = (runs: readonly ReadingRun[]): string =>
  runs
    .map((run) => (run.kind === 'text' ? run.text : ' '))
    .join('')
    .trim()

function Blocks({ blocks, ...props }: Props & { readonly blocks: readonly ReadingBlock[] }) {
  return blocks.map((block, i) => <Block key={i} block={block} {...props} />)
}

/** `lead`: the number of the clause that begins with it. */
function Block({
  block,
  lead,
  ...props
}: Props & { readonly block: ReadingBlock; readonly lead?: string | undefined }) {
  switch (block.kind) {
    case 'heading':
      return (
        <h2 className={`mt-6 mb-2 ${block.level === 1 ? 'text-[1.5rem]' : 'text-[1.25rem]'} leading-snug`}>
          <Lead number={lead} />
          <Runs runs={block.runs} {...props} />
        </h2>
      )
    case 'paragraph':
      return <Paragraph runs={block.runs} lead={lead} {...props} />
    case 'clause':
      return (
        <div className={`mt-3 ${block.depth > 1 ? 'pl-3' : ''}`}>
          {block.blocks.map((each, i) => (
            <Block key={i} {...props} block={each} lead={i === 0 ? block.number : undefined} />
          ))}
        </div>
      )
    case 'list': {
      const List = block.ordered ? 'ol' : 'ul'
      return (
        <List className={`my-2 pl-6 ${block.ordered ? 'list-decimal' : 'list-disc'}`}>
          {block.items.map((item, i) => (
            <li key={i}>
              <Blocks blocks={item} {...props} />
            </li>
          ))}
        </List>
      )
    }
    case 'table':
      return (
        // A wide table moves by itself; the text around it stays.
        <div className="my-3 overflow-x-auto" tabIndex={0} role="region" aria-label={props.signing.title}>
          <table className="min-w-full border-collapse font-sans text-base">
            <tbody>
              {block.rows.map((row, i) => (
                <tr key={i}>
                  {row.cells.map((cell, j) => {
                    const Cell = row.head || cell.head ? 'th' : 'td'
                    return (
                      <Cell
                        key={j}
                        colSpan={cell.colspan}
                        rowSpan={cell.rowspan}
                        className="border-b border-hair px-2 py-1 align-top"
                        style={{ textAlign: cell.align }}
                      >
                        <Blocks blocks={cell.blocks} {...props} />
                      </Cell>
                    )
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )
    case 'image':
      return (
        <img
          className="my-3 max-w-full"
          style={{ width: `${block.width}%` }}
          alt={block.alt}
          src={address('signingPicture', { params: { token: props.token, file: block.file } })}
        />
      )
    case 'signatures':
      return (
        <div className="mt-6 grid gap-5">
          {block.parties.map((party, i) => (
            <section key={i} aria-label={party.label} className="border-t border-hair pt-3">
              <p className="font-sans text-sm text-soft">{party.label}</p>
              <Place place={party.signature} {...props} labelled large />
              <p className="mt-1 wrap-anywhere">
                {party.name}
                {party.title && <span className="text-soft">, {party.title}</span>}
              </p>
              <p className="font-sans text-sm text-soft">
                <Place place={party.date} {...props} />
              </p>
            </section>
          ))}
        </div>
      )
  }
}

const Lead = ({ number }: { readonly number: string | undefined }) =>
  number ? (
    <span className="mr-2 font-sans text-base font-semibold text-soft tabular-nums">{number}</span>
  ) : null

/** A paragraph with a way to ask about it: the sign stands in its margin and says nothing until it is wanted. */
function Paragraph({
  runs,
  lead,
  ...props
}: Props & { readonly runs: readonly ReadingRun[]; readonly lead: string | undefined }) {
  const { say } = useWords()
  const text = textOf(runs)
  return (
    <div className="group relative my-2">
      <p className="wrap-anywhere hyphens-auto">
        <Lead number={lead} />
        <Runs runs={runs} {...props} />
      </p>
      {text.length > 40 && props.signing.may.includes('ask') && (
        <button
          className="absolute top-0 -right-5 hidden size-6 place-items-center text-soft opacity-0 group-hover:opacity-100 hover:text-petrol focus-visible:opacity-100 sm:grid"
          aria-label={`${say('page.ask')}: ${text.slice(0, 40)}…`}
          onClick={() => props.onAsk(text.slice(0, 200))}
        >
          <MessageCircleQuestion size={16} aria-hidden />
        </button>
      )}
    </div>
  )
}

function Runs({ runs, ...props }: Props & { readonly runs: readonly ReadingRun[] }) {
  return runs.map((run, i) => {
    if (run.kind === 'break') return <br key={i} />
    if (run.kind === 'place') return <Place key={i} place={run.place} {...props} />
    const style = `${run.bold ? 'font-semibold ' : ''}${run.italic ? 'italic ' : ''}${run.underline ? 'underline' : ''}`
    return style.trim() ? (
      <span key={i} className={style.trim()}>
        {run.text}
      </span>
    ) : (
      run.text
    )
  })
}

/** A place in the text: the reader’s own to touch, another’s with what stands there once they have signed. */
function Place({
  place,
  token,
  signing,
  values,
  pointed,
  hold,
  onTouch,
  labelled = false,
  large = false,
}: Props & { readonly place: ReadingPlace; readonly labelled?: boolean; readonly large?: boolean }) {
  const { say } = useWords()
  const label = useLabel()
  const blank = signing.blanks.find(({ id }) => id === place.id)
  if (!blank)
    return <span className="text-soft italic">{place.said || (labelled ? '—' : `[${label(place)}]`)}</span>
  if (blank.kind === 'date') return <span className="text-soft italic">{say('page.dayOfSigning')}</span>
  const value = values[blank.id]
  const said = saidOf(blank, value)
  const word = said ? say('page.filled') : say(blank.required ? 'page.required' : 'page.optional')
  return (
    <button
      ref={hold(blank.id)}
      aria-label={`${label(blank)}, ${word}${said && said !== blank.kind ? `: ${said}` : ''}`}
      className={`min-h-11 max-w-full border px-3 text-left align-middle font-sans text-base text-[#1a2f66] dark:text-[#b9c8f5] ${large ? 'w-full py-2' : 'mx-0.5 my-0.5 inline-flex items-center'} ${
        said ? 'border-hair bg-sheet' : 'border-ink bg-petrol-wash'
      } ${pointed === blank.id ? 'outline-2 outline-offset-2 outline-petrol' : ''}`}
      onClick={() => onTouch(blank)}
    >
      {value && (blank.kind === 'signature' || blank.kind === 'initials') ? (
        <span className={`block ${large ? 'h-14' : 'h-8 w-24'}`}>
          <Signature value={value} size={large ? 38 : 24} token={token} />
        </span>
      ) : (
        <span className={said ? '' : 'text-ink'}>{said || label(blank)}</span>
      )}
    </button>
  )
}

function saidOf({ kind, rules, label }: Blank, value: Value | undefined): string {
  if (value === undefined) return rules.preset ?? ''
  switch (value.kind) {
    case 'tick':
      return `☒ ${label}`
    case 'choice':
      return value.chosen.map((at) => rules.options?.[at] ?? '').join(', ')
    case 'file':
      return value.name
    case 'text':
    case 'typed':
      return value.text
    default:
      return kind
  }
}
