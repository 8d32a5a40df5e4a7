import type { Thread as Columns } from '#contract/agreement.ts'

type Knot = Columns[number][number]

/** "6 d", "3 h", "new": how long something has been waiting. */
export function age(since: string, now: number): string {
  const hours = Math.floor((now - Date.parse(since)) / 3_600_000)
  if (hours < 1) return 'new'
  return hours < 24 ? `${hours} h` : `${Math.floor(hours / 24)} d`
}

const words: Record<Knot['status'], string> = {
  done: 'done',
  holds: 'has it now',
  'to come': 'to come',
  refused: 'refused',
  stopped: 'not reached',
}

/** Of those who act side by side, as many as a row of a list has room for one below the other. */
const STACKED = 2

/** What several who act side by side come to, for all of them: who has it now is what matters, unless somebody refused. */
const WEIGHT: readonly Knot['status'][] = ['refused', 'holds', 'to come', 'stopped', 'done']

interface Shown extends Knot {
  /** Of several in one mark: how many. */
  readonly count?: number
}

/** The marks of a column; in a list many side by side are one, with their number, so that no row reaches into the next. */
function marksOf(column: readonly Knot[], large: boolean): readonly Shown[] {
  if (large || column.length <= STACKED) return column
  const status = WEIGHT.find((each) => column.some((knot) => knot.status === each))!
  return [
    {
      ...column.find((knot) => knot.status === status)!,
      label: column.map((knot) => `${knot.label}: ${words[knot.status]}`).join(', '),
      count: column.length,
    },
  ]
}

/**
 * An agreement's way: squares for approvals, circles for signatures, side by side where they act at the same time.
 * Filled is done, hollow to come, ringed has it now (with how long), crossed is refused.
 */
export function Thread({
  columns: all,
  large = false,
  now = Date.now(),
}: {
  readonly columns: Columns
  readonly large?: boolean
  readonly now?: number
}) {
  const [step, radius] = large ? [34, 7] : [20, 4.5]
  const columns = all.map((column) => marksOf(column, large))
  const tallest = Math.max(1, ...columns.map((column) => column.length))
  const gap = radius * 2 + 4
  const height = tallest * gap + 6
  const waiting = all.flat().find((knot) => knot.status === 'holds' && knot.since)
  const label = all
    .flat()
    .map((knot) => `${knot.label}: ${words[knot.status]}`)
    .join(', ')
  const x = (column: number) => radius + 4 + column * step
  const y = (column: readonly Shown[], i: number) => height / 2 + (i - (column.length - 1) / 2) * gap
  return (
    <span className="inline-flex items-center gap-1.5" title={label}>
      <svg
        width={x(columns.length - 1) + radius + 4}
        height={height}
        role="img"
        aria-label={label || 'No one has to act'}
      >
        {columns
          .slice(1)
          .map((column, c) =>
            column.flatMap((_, i) =>
              columns[c]!.map((__, j) => (
                <line
                  key={`${c}${i}${j}`}
                  x1={x(c) + radius}
                  y1={y(columns[c]!, j)}
                  x2={x(c + 1) - radius}
                  y2={y(column, i)}
                  className="stroke-soft"
                  strokeWidth="1"
                />
              )),
            ),
          )}
        {columns.map((column, c) =>
          column.map((knot, i) => (
            <Mark key={`${c}${i}`} knot={knot} x={x(c)} y={y(column, i)} radius={radius} />
          )),
        )}
      </svg>
      {waiting?.since && (
        <span className="text-xs font-semibold text-ochre tabular-nums">{age(waiting.since, now)}</span>
      )}
    </span>
  )
}

function Mark({
  knot,
  x,
  y,
  radius: usual,
}: {
  readonly knot: Shown
  readonly x: number
  readonly y: number
  readonly radius: number
}) {
  const radius = knot.count === undefined ? usual : usual + 2
  const tone = {
    done: 'fill-moss stroke-moss',
    holds: 'fill-sheet stroke-ochre',
    'to come': 'fill-sheet stroke-soft',
    refused: 'fill-sheet stroke-brick',
    stopped: 'fill-wash stroke-hair',
  }[knot.status]
  const r = knot.shape === 'square' ? radius - 0.5 : radius
  const shape = (size: number, className: string) =>
    knot.shape === 'square' ? (
      <rect
        x={x - size}
        y={y - size}
        width={size * 2}
        height={size * 2}
        className={className}
        strokeWidth="1.4"
      />
    ) : (
      <circle cx={x} cy={y} r={size} className={className} strokeWidth="1.4" />
    )
  return (
    <g>
      <title>{knot.count === undefined ? `${knot.label}: ${words[knot.status]}` : knot.label}</title>
      {shape(knot.status === 'holds' ? r - 1.5 : r - 0.7, tone)}
      {knot.status === 'holds' && shape(r + 1.6, 'fill-none stroke-ochre')}
      {knot.count !== undefined && (
        <text
          x={x}
          y={y}
          dy="0.35em"
          textAnchor="middle"
          className={`text-[9px] font-semibold ${knot.status === 'done' ? 'fill-sheet' : 'fill-ink'}`}
        >
          {knot.count}
        </text>
      )}
      {knot.status === 'refused' && (
        <path
          d={`M${x - r} ${y - r}L${x + r} ${y + r}M${x + r} ${y - r}L${x - r} ${y + r}`}
          className="stroke-brick"
          strokeWidth="1.4"
        />
      )}
    </g>
  )
}
