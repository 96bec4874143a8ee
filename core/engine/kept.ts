/** What was made last, so that what is asked for again is not made ready again. */
export class Kept<T> {
  private readonly made = new Map<string, T>()

  constructor(private readonly most: number) {}

  of(key: string, make: () => T): T {
    const found = this.made.get(key) ?? make()
    this.made.delete(key)
    this.made.set(key, found)
    if (this.made.size > this.most) this.made.delete(this.made.keys().next().value!)
    return found
  }
}
