/** Whether two plain values say the same: order of keys does not count, and a key that is undefined is not there. */
export function sameContent(left: unknown, right: unknown): boolean {
  if (Object.is(left, right)) return true
  if (typeof left !== 'object' || typeof right !== 'object' || left === null || right === null) return false
  if (Array.isArray(left) !== Array.isArray(right)) return false
  const [a, b] = [left as Record<string, unknown>, right as Record<string, unknown>]
  const keys = new Set([...Object.keys(a), ...Object.keys(b)])
  return [...keys].every((key) => sameContent(a[key], b[key]))
}
