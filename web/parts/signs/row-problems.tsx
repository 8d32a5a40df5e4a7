interface RowWithProblems {
  readonly row: number
  readonly label: string
  readonly problems: readonly { readonly column: string | null; readonly message: string }[]
}

/** One row that needs a hand: where it stands, whose it is, and what is wrong with which column. */
export function RowProblems({
  row,
  label,
  problems,
  failed = false,
}: RowWithProblems & { readonly failed?: boolean }) {
  return (
    <li className="grid grid-cols-[4rem_11rem_1fr] gap-2 border-b border-hair/60 px-4 py-1.5">
      <span className="text-soft tabular-nums">Row {row}</span>
      <span className="truncate font-semibold">{label}</span>
      <span className={failed ? 'text-brick' : ''}>
        {problems.map((problem, i) => (
          <span key={i} className="block">
            {problem.column && <span className="text-soft">{problem.column}: </span>}
            {problem.message}
          </span>
        ))}
      </span>
    </li>
  )
}
