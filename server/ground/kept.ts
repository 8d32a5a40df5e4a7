/** The last few things made by a key, so that making them again costs nothing. */
export class Kept<T> {
  private readonly made = new Map<string, T>()
  constructor(private readonly most: number) {}

  take(key: string, make: () => T): T {
    const found = this.made.get(key) ?? make()
    this.made.delete(key)
    this.made.set(key, found)
    if (this.made.size > this.most) this.made.delete(this.made.keys().next().value!)
    return found
  }
}
