/** So many at a time: whoever comes beyond waits, in order. */
export class Turns {
  private going = 0
  private readonly waiting: (() => void)[] = []

  constructor(readonly most: number) {}

  async during<T>(act: () => Promise<T>): Promise<T> {
    if (this.going >= this.most) await new Promise<void>((go) => this.waiting.push(go))
    else this.going++
    try {
      return await act()
    } finally {
      const next = this.waiting.shift()
      if (next) next()
      else this.going--
    }
  }
}
