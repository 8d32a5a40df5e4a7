import { Copy } from 'lucide-react'
import { type ReactNode, useState } from 'react'
import { Button } from '#web/parts/button.tsx'

/** Something that is told once: to be copied, with what it is for. */
export function Secret({
  secret,
  onClose,
  children,
}: {
  readonly secret: string
  readonly onClose: () => void
  readonly children: ReactNode
}) {
  const [copied, setCopied] = useState(false)
  return (
    <div className="flex flex-col gap-4 text-sm">
      <p>It is told here and never again: put it where the program finds it, before this is closed.</p>
      <code className="border border-hair bg-sheet p-2 text-xs break-all">{secret}</code>
      <p className="text-soft">{children}</p>
      <div className="flex justify-end gap-2">
        <Button
          onClick={() => {
            void navigator.clipboard.writeText(secret).then(() => setCopied(true))
          }}
        >
          <Copy size={14} /> {copied ? 'Copied' : 'Copy'}
        </Button>
        <Button kind="main" onClick={onClose}>
          It is put away
        </Button>
      </div>
    </div>
  )
}
