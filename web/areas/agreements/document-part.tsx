import type { Agreement } from '#contract/agreement.ts'
import { useAnswer } from '#web/api/client.ts'
import { ProofViewer } from '#web/parts/pages/proof-viewer.tsx'
import { useBytes } from '#web/parts/pages/use-bytes.ts'
import { Failed, Loading } from '#web/parts/states.tsx'

/** An agreement's document as it stands. */
export function DocumentPart({ agreement }: { readonly agreement: Agreement }) {
  const file = useAnswer(
    'agreementDocument',
    { params: { id: agreement.id }, query: { state: agreement.changedAt } },
    { keep: true },
  )
  const bytes = useBytes(file.data)
  if (file.isError) return <Failed error={file.error} retry={() => void file.refetch()} />
  return bytes ? <ProofViewer bytes={bytes} label={agreement.name} /> : <Loading />
}
