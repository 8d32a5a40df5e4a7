import { Copy } from 'lucide-react'
import { type ComponentProps, type ReactNode, useState } from 'react'
import { Button } from './button.tsx'
import { DialogButton } from './dialog-button.tsx'

/** To be told the secret, once it is made, and what happens once it is stored. */
type OnMade = (secret: string, stored?: () => void) => void

/** A button whose window makes a secret and then shows it, this once. */
export function SecretButton({
  content,
  use,
  ...rest
}: Omit<ComponentProps<typeof DialogButton>, 'content'> & {
  readonly content: (onMade: OnMade, close: () => void) => ReactNode
  /** What the secret is used for, and how. */
  readonly use: (secret: string) => ReactNode
}) {
  return <DialogButton {...rest} content={(close) => <Making content={content} use={use} close={close} />} />
}

function Making({
  content,
  use,
  close,
}: {
  readonly content: (onMade: OnMade, close: () => void) => ReactNode
  readonly use: (secret: string) => ReactNode
  readonly close: () => void
}) {
  const [made, setMade] = useState<{ readonly secret: string; readonly stored?: () => void } | null>(null)
  const [copied, setCopied] = useState(false)
  if (made === null)
    return content((secret, stored) => setMade({ secret, ...(stored ? { stored } : {}) }), close)
  const { secret, stored } = made
  return (
    <div className="flex flex-col gap-4 text-sm">
      <p>The secret is shown here once. Store it where the program finds it before you close this window.</p>
      <code className="border border-hair bg-sheet p-2 text-xs break-all">{secret}</code>
      <p className="text-soft">{use(secret)}</p>
      <div className="flex justify-end gap-2">
        <Button onClick={() => void navigator.clipboard.writeText(secret).then(() => setCopied(true))}>
          <Copy size={14} /> {copied ? 'Copied' : 'Copy secret'}
        </Button>
        <Button
          kind="main"
          onClick={() => {
            close()
            stored?.()
          }}
        >
          I have stored the secret
        </Button>
      </div>
    </div>
  )
}
