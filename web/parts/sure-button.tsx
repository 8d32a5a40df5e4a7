import { useState } from 'react'

/** Does what cannot be taken back: the first press asks, the second does it; going elsewhere takes the question away. */
export function SureButton({
  label,
  sure: asked,
  onSure,
  title,
  className = '',
}: {
  readonly label: string
  /** What it says once it asks. */
  readonly sure: string
  readonly onSure: () => void
  readonly title?: string
  readonly className?: string
}) {
  const [sure, setSure] = useState(false)
  return (
    <button
      title={title}
      className={`underline ${sure ? 'text-brick' : 'text-petrol'} ${className}`}
      onBlur={() => setSure(false)}
      onClick={() => (sure ? onSure() : setSure(true))}
    >
      {sure ? asked : label}
    </button>
  )
}
