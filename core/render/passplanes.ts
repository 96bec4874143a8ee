// Planes of a pass file: unpacked when one of them is asked for.
import { HALF_VALUES } from '../formats/exr/half'
import type { ExrChannel, OpenedExr } from '../formats/exr/exr'
import { channelFloats } from '../formats/picture/picture'

/** Thrown by what asks for a plane that still lies packed: unpack, then ask again. */
export class StillPacked extends Error {
  constructor(readonly unpack: () => Promise<void>) {
    super('This part of the pass file was not unpacked yet.')
  }
}

/** Asks until nothing that it needs is packed any more. */
export async function unpacking<T>(ask: () => T): Promise<T> {
  for (;;) {
    try {
      return ask()
    } catch (error) {
      if (!(error instanceof StillPacked)) throw error
      await error.unpack()
    }
  }
}

export class Channels {
  private known = new Map<string, ExrChannel>()
  private packed = new Map<string, () => Promise<void>>()
  readonly names: readonly string[]

  constructor(parts: OpenedExr['parts']) {
    this.names = parts.flatMap(part => part.channels)
    for (const { channels, read } of parts) {
      const unpack = async (): Promise<void> => {
        for (const channel of await read()) {
          this.packed.delete(channel.name)
          this.known.set(channel.name, channel)
        }
      }
      for (const name of channels) this.packed.set(name, unpack)
    }
  }

  /** Throws StillPacked. */
  get(name: string): ExrChannel | undefined {
    const unpack = this.packed.get(name)
    if (unpack) throw new StillPacked(unpack)
    return this.known.get(name)
  }
  /** What was made of it is kept elsewhere. */
  forget(name: string): void {
    this.known.delete(name)
  }
}

/** A plane as it is kept: codes with the value of each, or values. */
export interface StoredPlane {
  data: ArrayLike<number>
  values?: ArrayLike<number>
}
/** Planes of a file by the names of our channels. What lies packed throws StillPacked. */
export interface Planes {
  has(name: string): boolean
  keys(): IterableIterator<string>
  /** All of a plane as floats; one of halves is made anew each time, see `stored`. */
  get(name: string): Float32Array | undefined
  stored(name: string): StoredPlane | undefined
}

/** Planes of a file as it names them. */
export class FilePlanes implements Planes {
  private known = new Map<string, Float32Array>()
  private names: Set<string>
  constructor(
    private channels: Channels,
    names: readonly string[],
  ) {
    this.names = new Set(names)
  }
  has(name: string): boolean {
    return this.names.has(name)
  }
  keys(): IterableIterator<string> {
    return this.names.keys()
  }
  get(name: string): Float32Array | undefined {
    const known = this.known.get(name)
    if (known || !this.names.has(name)) return known
    const channel = this.channels.get(name)!
    const plane = channelFloats(channel)
    if (channel.type === 'half') return plane
    this.channels.forget(name)
    this.known.set(name, plane)
    return plane
  }
  stored(name: string): StoredPlane | undefined {
    const known = this.known.get(name)
    if (known || !this.names.has(name)) return known && { data: known }
    const channel = this.channels.get(name)!
    return channel.type === 'half' ? { data: channel.data, values: HALF_VALUES } : { data: this.get(name)! }
  }
}
