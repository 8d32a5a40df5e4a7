/** The wordmark: an approval, a line, a signature. */
export function Wordmark() {
  return (
    <span className="flex items-center gap-2 font-serif text-lg font-semibold">
      <svg width="26" height="12" viewBox="0 0 26 12" aria-hidden className="text-petrol">
        <rect x="0.5" y="1.5" width="9" height="9" fill="currentColor" />
        <path d="M9.5 6h7" stroke="currentColor" />
        <circle cx="20.5" cy="6" r="4.5" fill="none" stroke="currentColor" strokeWidth="1.4" />
      </svg>
      Brevan
    </span>
  )
}
