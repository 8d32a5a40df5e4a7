import type { RunningLine, RunningPiece } from './finished.ts'

/**
 * A head or foot from its pattern: `||` parts left, middle and right (one part: left; two: left and right);
 * `{{page}}` and `{{pages}}` are counted by the page engine, other names give their values.
 */
export function runningLine(pattern: string, value: (name: string) => string | null): RunningLine {
  const parts = pattern.split('||').map((part) => pieces(part.trim(), value))
  if (parts.length >= 3) return [parts[0]!, parts[1]!, parts[2]!]
  return [parts[0] ?? [], [], parts[1] ?? []]
}

const pieces = (part: string, value: (name: string) => string | null): readonly RunningPiece[] =>
  part.split(/(\{\{[^{}]*\}\})/).flatMap((piece): RunningPiece[] => {
    if (piece === '') return []
    if (!piece.startsWith('{{') || !piece.endsWith('}}')) return [{ text: piece }]
    const name = piece.slice(2, -2).trim()
    if (name === 'page' || name === 'pages') return [{ count: name }]
    const text = value(name) ?? ''
    return text ? [{ text }] : []
  })
