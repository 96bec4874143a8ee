// Bits of a block, highest first.

export class BitReader {
  private held = 0
  private count = 0
  /** Bits that may still be read. */
  left: number
  constructor(
    private bytes: Uint8Array,
    private at: number,
    bits: number,
  ) {
    this.left = Math.min(bits, (bytes.length - at) * 8)
  }
  /** The next `count` (1..16) bits without taking them; zeros beyond the end. */
  peek(count: number): number {
    while (this.count < count) {
      this.held = ((this.held << 8) | (this.at < this.bytes.length ? this.bytes[this.at]! : 0)) & 0xffffff
      this.at++
      this.count += 8
    }
    return (this.held >>> (this.count - count)) & ((1 << count) - 1)
  }
  skip(count: number): void {
    if (count > this.left) throw new Error('its code ends too soon.')
    this.count -= count
    this.left -= count
  }
  take(count: number): number {
    const value = this.peek(count)
    this.skip(count)
    return value
  }
  /** Where the next whole byte begins. */
  get byte(): number {
    return this.at - (this.count >> 3)
  }
}

export class BitWriter {
  private bytes: Uint8Array
  private length = 0
  private held = 0
  private count = 0
  bits = 0
  constructor(room: number) {
    this.bytes = new Uint8Array(Math.max(64, room))
  }
  /** value: the lowest `count` (0..24) bits of it. */
  put(value: number, count: number): void {
    this.held = (this.held << count) | (value & ((1 << count) - 1))
    this.count += count
    this.bits += count
    while (this.count >= 8) {
      this.count -= 8
      this.push((this.held >>> this.count) & 255)
    }
    this.held &= (1 << this.count) - 1
  }
  /** Codes may be longer than a number of 32 bits: the higher bits of those are zeros. */
  putCode(value: number, count: number): void {
    for (let rest = count; rest > 0;) {
      const part = rest > 17 ? Math.min(16, rest - 17) : rest
      rest -= part
      this.put(rest >= 31 ? 0 : value >>> rest, part)
    }
  }
  private push(byte: number): void {
    if (this.length === this.bytes.length) {
      const more = new Uint8Array(this.length * 2)
      more.set(this.bytes)
      this.bytes = more
    }
    this.bytes[this.length++] = byte
  }
  done(): Uint8Array {
    if (this.count > 0) {
      this.push((this.held << (8 - this.count)) & 255)
      this.count = 0
    }
    return this.bytes.subarray(0, this.length)
  }
}
