import { Button } from '#web/parts/button.tsx'

/** The end of a form in a window: to leave it, or to do what it is for. */
export function FormEnd({
  label,
  busy = false,
  disabled = false,
  onClose,
  className = '',
}: {
  readonly label: string
  readonly busy?: boolean
  readonly disabled?: boolean
  readonly onClose: () => void
  readonly className?: string
}) {
  return (
    <div className={`flex justify-end gap-2 ${className}`}>
      <Button onClick={onClose}>Not now</Button>
      <Button kind="main" type="submit" busy={busy} disabled={disabled}>
        {label}
      </Button>
    </div>
  )
}
