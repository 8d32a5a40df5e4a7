import type { ButtonHTMLAttributes, ReactNode, Ref } from 'react'

type Kind = 'main' | 'plain' | 'quiet' | 'danger'

const looks: Record<Kind, string> = {
  main: 'bg-petrol text-on-petrol border-petrol hover:opacity-90',
  plain: 'border-hair bg-sheet hover:border-soft',
  quiet: 'border-transparent text-soft hover:text-ink hover:bg-wash',
  danger: 'border-brick text-brick bg-sheet hover:bg-brick-wash',
}

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  readonly kind?: Kind
  readonly busy?: boolean
  readonly children: ReactNode
  readonly ref?: Ref<HTMLButtonElement>
}

/** A button; `busy` shows that it is at work and takes no second click. */
export function Button({
  kind = 'plain',
  busy = false,
  className = '',
  children,
  disabled,
  ref,
  ...rest
}: Props) {
  return (
    <button
      ref={ref}
      type="button"
      {...rest}
      disabled={disabled || busy}
      aria-busy={busy}
      className={`inline-flex items-center justify-center gap-1.5 rounded-sm border px-3 py-1 text-sm font-semibold whitespace-nowrap disabled:cursor-default disabled:opacity-45 ${looks[kind]} ${className}`}
    >
      {busy ? 'One moment …' : children}
    </button>
  )
}
