import { useEffect, useMemo } from 'react'
import { useAnswer } from '#web/api/client.ts'
import { ProofViewer } from '#web/parts/pages/proof-viewer.tsx'
import { useBytes } from '#web/parts/pages/use-bytes.ts'
import { Failed } from '#web/parts/states.tsx'
import type { Blank, Value } from './fill-store.ts'
import { PlaceMark } from './place-mark.tsx'
import { partsOf, Stamps } from './stamp.tsx'
import { useWords } from './words.tsx'
import type { Shown } from './reading-view.tsx'

/** Whether a blank has anything to touch on a page: a choice may have options on several. */
const isOn = ({ page, options }: Blank, asked: number) =>
  options.length ? options.some((option) => option.page === asked) : page === asked

/** The pages as they will be sealed, with the places on them. */
export function ExactPages({
  token,
  signing,
  values,
  pointed,
  hold,
  onTouch,
  onValue,
  onEnd,
}: Shown & { readonly onValue: (blank: Blank, value: Value | null) => void }) {
  const { say } = useWords()
  const file = useAnswer('signingDocument', { params: { token } })
  const bytes = useBytes(file.data)
  const drawn = bytes !== null
  const parts = useMemo(() => partsOf(signing.blanks, values), [signing.blanks, values])
  // One page is seen whole with its first look.
  useEffect(() => {
    if (drawn && signing.pages === 1) onEnd()
  }, [drawn, signing.pages, onEnd])
  if (file.isError) return <Failed error={file.error} retry={() => void file.refetch()} />
  return (
    <ProofViewer
      bytes={bytes}
      label={signing.title}
      words={{
        title: say('zoom.title'),
        smaller: say('zoom.smaller'),
        larger: say('zoom.larger'),
        width: say('zoom.width'),
        page: say('zoom.page'),
        broken: say('zoom.broken'),
      }}
      onPage={(page) => page >= signing.pages && onEnd()}
      overlay={(page, scale, size) => (
        <>
          {signing.blanks
            .filter((blank) => isOn(blank, page))
            .map((blank) => (
              <PlaceMark
                key={blank.id}
                blank={blank}
                page={page}
                scale={scale}
                value={values[blank.id]}
                pointed={pointed === blank.id}
                onTouch={() => onTouch(blank)}
                onValue={(value) => onValue(blank, value)}
                hold={hold(blank.id)}
              />
            ))}
          <Stamps page={page} size={size} scale={scale} token={token} parts={parts} />
        </>
      )}
    />
  )
}
