/** Letters to put in, take out, change or swap with their neighbour to make one text of another (Damerau, 1964; adjacent swaps). */
export function distance(a: string, b: string): number {
  const rows = [[...Array(b.length + 1).keys()]]
  for (let i = 1; i <= a.length; i++) {
    const row = [i]
    for (let j = 1; j <= b.length; j++) {
      const changed = rows[i - 1]![j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1)
      let least = Math.min(changed, rows[i - 1]![j]! + 1, row[j - 1]! + 1)
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
        least = Math.min(least, rows[i - 2]![j - 2]! + 1)
      row.push(least)
    }
    rows.push(row)
  }
  return rows[a.length]![b.length]!
}

/** Longest text that is looked for: nobody misspells a page. */
const LONGEST = 80

/** The known text that is most like one that is not known; null where none is like it. Case aside. */
export function nearest(text: string, known: Iterable<string>): string | null {
  if (text.length > LONGEST) return null
  const sought = text.toLowerCase()
  const most = Math.max(1, Math.floor(sought.length / 3))
  let best: { readonly text: string; readonly far: number } | null = null
  for (const each of known) {
    if (Math.abs(each.length - text.length) > most) continue
    const far = distance(sought, each.toLowerCase())
    if (far <= most && (!best || far < best.far)) best = { text: each, far }
  }
  return best?.text ?? null
}
