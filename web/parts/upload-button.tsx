import { type ReactNode, useRef } from 'react'
import { Button } from './button.tsx'

interface Props {
  /** Names the file input for screen readers and tests. */
  readonly label: string
  readonly accept?: string
  readonly multiple?: boolean
  readonly kind?: 'main' | 'plain'
  readonly busy?: boolean
  readonly disabled?: boolean
  readonly className?: string
  readonly onFiles: (files: readonly [File, ...File[]]) => void
  readonly children: ReactNode
}

/** A button that asks for files. The same file can be chosen again. */
export function UploadButton({ label, accept, multiple = false, onFiles, children, ...button }: Props) {
  const input = useRef<HTMLInputElement>(null)
  return (
    <>
      <Button {...button} onClick={() => input.current?.click()}>
        {children}
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        aria-label={label}
        accept={accept}
        multiple={multiple}
        onChange={(event) => {
          const [first, ...others] = event.target.files ?? []
          event.target.value = ''
          if (first) onFiles([first, ...others])
        }}
      />
    </>
  )
}
