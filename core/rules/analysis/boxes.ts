import type { Stretches } from './dimension.ts'

/** Some of each dimension's stretches; null: all of them. */
export type Box = readonly (Stretches | null)[]

/** What may be spent on one search; `left` counts down, and what is found once it is below 0 is not all there is. */
export interface Effort {
  left: number
}

export const isEmpty = (box: Box): boolean => box.some((set) => set !== null && !set.includes(1))

/** What two boxes have in common; null where that is nothing. */
export function common(a: Box, b: Box): Box | null {
  const both: (Stretches | null)[] = []
  for (let i = 0; i < a.length; i++) {
    const [left, right] = [a[i]!, b[i]!]
    if (left === null || right === null) {
      both.push(left ?? right)
      continue
    }
    let some = 0
    const set = left.map((bit, at) => {
      const is = bit & right[at]!
      some |= is
      return is
    })
    if (!some) return null
    both.push(set)
  }
  return isEmpty(both) ? null : both
}

/** A box with its sets packed, 32 stretches a word: to see of many pairs whether they meet. */
export type Packed = readonly (Uint32Array | null)[]

export const packed = (box: Box): Packed =>
  box.map((set) => {
    if (set === null) return null
    const words = new Uint32Array(Math.ceil(set.length / 32))
    set.forEach((bit, i) => {
      if (bit) words[i >>> 5]! |= 1 << (i & 31)
    })
    return words
  })

/** Whether two boxes have anything in common. */
export function meets(a: Packed, b: Packed): boolean {
  for (let i = 0; i < a.length; i++) {
    const [left, right] = [a[i]!, b[i]!]
    if (left === null || right === null ? (left ?? right)?.every((word) => word === 0) : !meet(left, right))
      return false
  }
  return true
}

/** Whether all of one box lies in another, both packed; `full`: the words of a dimension's whole. */
export const packedInside = (a: Packed, b: Packed, full: readonly Uint32Array[]): boolean =>
  a.every((set, i) => {
    const outer = b[i]!
    if (outer === null) return true
    const inner = set ?? full[i]!
    for (let at = 0; at < inner.length; at++) if ((inner[at]! & ~outer[at]!) !== 0) return false
    return true
  })

/** Whether all of one box lies in another. */
export const inside = (a: Box, b: Box): boolean =>
  a.every((set, i) => {
    const outer = b[i]!
    if (outer === null) return true
    return set === null ? !outer.includes(0) : set.every((bit, at) => bit <= outer[at]!)
  })

/** Places of boxes that are in, as bits of 32 each. */
type Members = Uint32Array

/** A box from one dimension on, each made once: the same rest is the same object. */
interface Rest {
  readonly id: number
  readonly dim: number
  readonly set: Stretches | null
  readonly then: Rest | null
}

/** Values by sets of members. */
class ByMembers<T> {
  private readonly kept = new Map<number, { readonly members: Members; readonly value: T }[]>()

  get(members: Members): T | undefined {
    return this.kept.get(hashed(members))?.find((each) => same(each.members, members))?.value
  }

  set(members: Members, value: T): void {
    const hash = hashed(members)
    const there = this.kept.get(hash)
    if (there) there.push({ members, value })
    else this.kept.set(hash, [{ members, value }])
  }
}

/** FNV-1a over the words. */
function hashed(members: Members | Stretches, seed = 0): number {
  let hash = 0x811c9dc5 ^ seed
  for (let i = 0; i < members.length; i++) hash = Math.imul(hash ^ members[i]!, 0x01000193)
  return hash >>> 0
}

function same(a: Members | Stretches, b: Members | Stretches): boolean {
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false
  return true
}

function meet(a: Members, b: Members): boolean {
  for (let i = 0; i < a.length; i++) if ((a[i]! & b[i]!) !== 0) return true
  return false
}

const isNone = (members: Members): boolean => members.every((word) => word === 0)

/**
 * What of a box no other box covers, as boxes that do not overlap. Goes through the dimensions one by one: stretches that the
 * same boxes cover are looked at once, what was found for a set of boxes is kept, and what a box covers in all the rest is done.
 * Where the effort is spent, what has been found so far.
 */
export function uncovered(
  whole: Box,
  sizes: readonly number[],
  boxes: readonly Box[],
  effort: Effort,
): readonly Box[] {
  if (isEmpty(whole)) return []
  // Dimensions that most boxes limit come first: the sooner a box asks nothing any more, the sooner all is covered.
  const limiting = sizes.map((_, dim) => boxes.filter((box) => box[dim] !== null).length)
  const inOrder = [...sizes.keys()].sort((a, b) => limiting[b]! - limiting[a]!)
  const ordered = (box: Box): Box => inOrder.map((dim) => box[dim]!)
  const rests = new Search(
    ordered(whole),
    inOrder.map((dim) => sizes[dim]!),
    boxes.filter((box) => !isEmpty(box)).map(ordered),
    effort,
  ).all()
  return rests.map((rest) => {
    const box: (Stretches | null)[] = sizes.map(() => null)
    let at: Rest | null = rest
    for (const dim of inOrder) {
      box[dim] = at!.set
      at = at!.then
    }
    return box
  })
}

class Search {
  /** Of each dimension and stretch: the boxes that have it. */
  private readonly covering: readonly (readonly Members[])[]
  /** Of each dimension: the boxes that ask nothing from there on. */
  private readonly free: readonly Members[]
  private readonly known: readonly ByMembers<readonly Rest[]>[]
  private readonly interned = new Map<number, Rest[]>()
  private count = 0
  private readonly words: number

  constructor(
    private readonly whole: Box,
    private readonly sizes: readonly number[],
    private readonly boxes: readonly Box[],
    private readonly effort: Effort,
  ) {
    this.words = Math.max(1, Math.ceil(boxes.length / 32))
    this.covering = sizes.map((size, dim) =>
      Array.from({ length: size }, (_, at) => this.membersWhere((box) => (box[dim]?.[at] ?? 1) === 1)),
    )
    this.free = [...sizes, 0].map((_, dim) =>
      this.membersWhere((box) => box.slice(dim).every((set) => set === null)),
    )
    this.known = sizes.map(() => new ByMembers())
  }

  all(): readonly Rest[] {
    return this.sizes.length === 0
      ? []
      : this.from(
          0,
          this.membersWhere(() => true),
        )
  }

  private membersWhere(is: (box: Box) => boolean): Members {
    const members = new Uint32Array(this.words)
    this.boxes.forEach((box, i) => {
      if (is(box)) members[i >>> 5]! |= 1 << (i & 31)
    })
    return members
  }

  /** What of the dimensions from one on these boxes leave over. */
  private from(dim: number, members: Members): readonly Rest[] {
    if (isNone(members)) return [this.wholeFrom(dim)!]
    if (meet(members, this.free[dim]!)) return []
    const before = this.known[dim]!.get(members)
    if (before) return before
    const size = this.sizes[dim]!
    const own = this.whole[dim]!
    if ((this.effort.left -= this.words + 8) < 0) return []
    const groups: { readonly members: Members; readonly at: number[] }[] = []
    const grouped = new ByMembers<(typeof groups)[number]>()
    const left = new Uint32Array(this.words)
    let last: (typeof groups)[number] | undefined
    for (let at = 0; at < size; at++) {
      if (own !== null && own[at] === 0) continue
      const covering = this.covering[dim]![at]!
      for (let i = 0; i < left.length; i++) left[i] = members[i]! & covering[i]!
      // Neighbours mostly are covered by the same boxes.
      const there: (typeof groups)[number] | undefined =
        last && same(last.members, left) ? last : grouped.get(left)
      if (there) there.at.push(at)
      else groups.push({ members: left.slice(), at: [at] })
      last = there ?? groups.at(-1)!
      if (!there) grouped.set(last.members, last)
    }
    this.effort.left -= size
    // Stretches after which the same is left over are one.
    const bySame = new Map<Rest | null, Stretches>()
    for (const group of groups) {
      const rests =
        dim + 1 < this.sizes.length ? this.from(dim + 1, group.members) : isNone(group.members) ? [null] : []
      for (const then of rests) {
        const set = bySame.get(then) ?? new Uint8Array(size)
        for (const at of group.at) set[at] = 1
        bySame.set(then, set)
      }
    }
    const found = [...bySame].map(([then, set]) => this.rest(dim, set, then))
    this.effort.left -= found.length * 8
    this.known[dim]!.set(members, found)
    return found
  }

  private wholeFrom(dim: number): Rest | null {
    if (dim === this.sizes.length) return null
    return this.rest(
      dim,
      this.whole[dim] ?? new Uint8Array(this.sizes[dim]!).fill(1),
      this.wholeFrom(dim + 1),
    )
  }

  private rest(dim: number, set: Stretches, then: Rest | null): Rest {
    const hash = hashed(set, dim * 31 + (then?.id ?? -1))
    const there = this.interned.get(hash) ?? []
    const bits = set.includes(0) ? set : null
    const before = there.find(
      (rest) =>
        rest.dim === dim &&
        rest.then === then &&
        (rest.set === null ? bits === null : bits !== null && same(rest.set, bits)),
    )
    if (before) return before
    const made: Rest = { id: this.count++, dim, set: bits, then }
    there.push(made)
    this.interned.set(hash, there)
    return made
  }
}
