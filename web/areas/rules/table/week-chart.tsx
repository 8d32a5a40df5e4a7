import { BarController, BarElement, CategoryScale, Chart, Legend, LinearScale, Tooltip } from 'chart.js'
import { useEffect, useRef } from 'react'

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Legend, Tooltip)

interface Props {
  readonly weeks: readonly { readonly week: string; readonly asked: ReadonlyMap<string, number> }[]
  readonly approvers: readonly string[]
  readonly onWeek: (week: string) => void
}

/** Lightness told apart in print and by those who see no colour; hue is the one colour for action. */
const tint = (i: number, of: number): string => `hsl(190 ${64 - i * 6}% ${24 + (i * 54) / Math.max(1, of)}%)`

/** Approvals by week, stacked by approver; a click opens the week. The table beside it says the same in figures. */
export function WeekChart({ weeks, approvers, onWeek }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const open = useRef(onWeek)
  useEffect(() => {
    open.current = onWeek
  })
  useEffect(() => {
    if (!canvas.current) return
    const style = getComputedStyle(canvas.current)
    const [ink, hair] = ['--color-soft', '--color-hair'].map(
      (name) => style.getPropertyValue(name).trim() || '#667',
    )
    const chart = new Chart(canvas.current, {
      type: 'bar',
      data: {
        labels: weeks.map(({ week }) => week),
        datasets: approvers.map((approver, i) => ({
          label: approver,
          data: weeks.map(({ asked }) => asked.get(approver) ?? 0),
          backgroundColor: tint(i, approvers.length),
          stack: 'approvals',
          maxBarThickness: 28,
        })),
      },
      options: {
        animation: false,
        responsive: true,
        maintainAspectRatio: false,
        onClick: (_event, [bar]) => {
          const week = bar && weeks[bar.index]?.week
          if (week) open.current(week)
        },
        scales: {
          x: { stacked: true, ticks: { color: ink!, maxTicksLimit: 12 }, grid: { display: false } },
          y: { stacked: true, ticks: { color: ink!, precision: 0 }, grid: { color: hair! } },
        },
        plugins: { legend: { position: 'bottom', labels: { color: ink!, boxWidth: 10, boxHeight: 10 } } },
      },
    })
    return () => chart.destroy()
  }, [weeks, approvers])
  return (
    <div className="mt-2 h-64">
      <canvas
        ref={canvas}
        role="img"
        aria-label={`Approvals a week, ${weeks.length} weeks; the table beside it has the figures.`}
      />
    </div>
  )
}
