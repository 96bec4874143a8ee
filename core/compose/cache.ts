// Results of operators in the shared memory, by key, under a byte budget. What the evaluation at hand uses is never
// dropped.
import type { Kernels } from '../engine/memory'

export interface Raster {
  pointer: number
  width: number
  height: number
  bytes: number
}

export class RasterCache {
  private entries = new Map<string, Raster & { used: number }>()
  private clock = 0
  private total = 0
  hits = 0
  misses = 0

  constructor(
    private kernels: Kernels,
    private budget: number,
  ) {}

  /** Starts an evaluation: what is asked for from now on stays until the next. */
  begin(): void {
    this.clock++
  }

  get(key: string, make: () => Raster): Raster {
    const found = this.entries.get(key)
    if (found) {
      found.used = this.clock
      this.hits++
      return found
    }
    this.misses++
    const raster = make()
    this.entries.set(key, { ...raster, used: this.clock })
    this.total += raster.bytes
    this.trim()
    return raster
  }

  has(key: string): boolean {
    return this.entries.has(key)
  }

  /** Room for a result; drops older results when the memory is full. */
  allocate(width: number, height: number, bytesPerPixel: number): Raster {
    const bytes = width * height * bytesPerPixel
    for (;;) {
      try {
        return { pointer: this.kernels.allocate(bytes), width, height, bytes }
      } catch (error) {
        if (!this.dropOldest()) throw error
      }
    }
  }

  /** A result of that size that `fill` lays down; nothing stays allocated when it throws. */
  filled(key: string, width: number, height: number, bytesPerPixel: number, fill: (out: Raster) => void): Raster {
    return this.get(key, () => {
      const out = this.allocate(width, height, bytesPerPixel)
      try {
        fill(out)
      } catch (error) {
        this.kernels.dispose(out.pointer)
        throw error
      }
      return out
    })
  }

  private trim(): void {
    while (this.total > this.budget && this.dropOldest()) {
      /* until it fits or nothing may go */
    }
  }

  private dropOldest(): boolean {
    let oldest: string | undefined
    let used = this.clock
    for (const [key, entry] of this.entries)
      if (entry.used < used) {
        used = entry.used
        oldest = key
      }
    if (oldest === undefined) return false
    const entry = this.entries.get(oldest)!
    this.kernels.dispose(entry.pointer)
    this.total -= entry.bytes
    this.entries.delete(oldest)
    return true
  }
}
