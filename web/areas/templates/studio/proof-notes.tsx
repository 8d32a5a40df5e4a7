import { textBlocks } from '#core/document/walk.ts'
import { type Proof, useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { Button } from '#web/parts/button.tsx'

/** What is wrong with the pages, above them. */
export function ProofNotes({ proof }: { readonly proof: Proof }) {
  const { faults, problems, overflow, alone } = proof
  return (
    <>
      {faults.length > 0 && (
        <ul className="border-b border-hair bg-brick-wash px-3 py-1.5 text-sm text-brick" role="alert">
          {faults.slice(0, 4).map((fault, i) => (
            <li key={i}>
              <span className="font-semibold">{fault.title}:</span> {fault.message}
            </li>
          ))}
          <li className="text-ink">The proof waits until this is fixed.</li>
        </ul>
      )}
      {problems.length > 0 && (
        <ul className="border-b border-hair bg-ochre-wash px-3 py-1.5 text-sm text-ochre">
          {problems.slice(0, 3).map((problem, i) => (
            <li key={i}>{problem.message}</li>
          ))}
          {problems.length > 3 && <li>and {problems.length - 3} more</li>}
        </ul>
      )}
      {overflow.length > 0 && (
        <ul
          className="border-b border-hair bg-ochre-wash px-3 py-1.5 text-sm text-ochre"
          aria-label="Too wide"
        >
          {overflow.slice(0, 3).map((each, i) => (
            <li key={i}>
              “{each.text}” is wider than its space{each.where && `: ${each.where}`}.
            </li>
          ))}
        </ul>
      )}
      {alone.length > 0 && <SignaturesAlone passages={alone} />}
    </>
  )
}

/** Signatures on a page without words, which nobody would know from another agreement's: the fix is one touch away. */
function SignaturesAlone({ passages }: { readonly passages: readonly string[] }) {
  const { content, change, editable, goTo } = useStudio()
  const blocks = textBlocks(content.document).filter(({ attrs }) => passages.includes(attrs.id))
  const [first] = passages
  return (
    <div
      className="flex items-center gap-2 border-b border-hair bg-ochre-wash px-3 py-1 text-sm text-ochre"
      role="status"
    >
      <button className="min-w-0 flex-1 text-left" onClick={() => first && goTo(first)}>
        The signatures stand on a page with no words above them.
      </button>
      {editable && blocks.some(({ attrs }) => !attrs.keep) && (
        <Button
          onClick={() =>
            change((now) => ({
              ...now,
              document: {
                type: 'doc',
                content: textBlocks(now.document).map((block) =>
                  passages.includes(block.attrs.id)
                    ? ({ ...block, attrs: { ...block.attrs, keep: true } } as typeof block)
                    : block,
                ),
              },
            }))
          }
        >
          Keep the last passage with them
        </Button>
      )}
    </div>
  )
}

/** Where the value that is pointed at came from: its field, its column or formula, and the clause it stands in. */
export function Trace({ proof, pointed }: { readonly proof: Proof | null; readonly pointed: number | null }) {
  const origin = pointed === null ? null : proof?.origins[pointed]
  return (
    <div
      className="h-19 shrink-0 overflow-hidden border-t border-hair px-3 py-1.5 text-sm"
      aria-live="polite"
    >
      {origin ? (
        <>
          <p className="truncate">
            <span className="font-semibold">{origin.label}</span>{' '}
            <span className="text-soft">
              {origin.field},{' '}
              {origin.format === 'as written' ? 'as it is written' : `shown as ${origin.format}`}
            </span>
          </p>
          <p className="line-clamp-2">
            {origin.formula ? (
              <>
                {origin.formula} <span className="text-soft">= {origin.worked}</span>
              </>
            ) : origin.column ? (
              `${origin.column}: “${origin.cell ?? ''}”`
            ) : proof?.row === null ? (
              'an example of the outline'
            ) : (
              'comes by itself'
            )}
            {origin.clause && (
              <span className="text-soft">
                {` in “${origin.clause}”`}
                {origin.condition && `, which stands because ${origin.because ?? origin.condition}`}
              </span>
            )}
          </p>
        </>
      ) : (
        <p className="text-soft">Point at a value to see where it came from; a click goes to its passage.</p>
      )}
    </div>
  )
}
