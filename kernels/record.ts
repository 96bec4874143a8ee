// How a kernel says what it is given. From its record the build makes the AssemblyScript class that reads the arguments
// and the dispatch (tools/build-kernels.mjs); the pool makes from it what it writes into the memory, and the type of a
// call: a wrong or missing argument does not compile.

/** Bytes of a pixel: four f32 premultiplied; one f32; pairs of object number and weight, COVERAGE_RANKS of them. */
export const PIXEL_BYTES = { colour: 16, single: 4, ranks: 48 } as const
export type PixelKind = keyof typeof PIXEL_BYTES

/** A picture in the kernels' memory, or a part of one: the pixels from left, top up to right, bottom. */
export interface Raster {
  pointer: number
  left: number
  top: number
  right: number
  bottom: number
}
/** A picture of one band only: it is written and read within one program and never laid out whole. */
export interface Slot {
  slot: number
}

interface Typed<T> {
  readonly sample?: T
}
export type Argument = Typed<unknown> &
  (
    | { kind: 'raster'; pixel: PixelKind; optional?: true }
    | { kind: 'number' | 'whole' | 'pointer' | 'four' | 'splat' | 'shade' }
  )
type RasterArgument<T, P extends PixelKind> = Typed<T> & { kind: 'raster'; pixel: P; optional?: true }

export const raster = <P extends PixelKind>(pixel: P): RasterArgument<Raster | Slot, P> => ({ kind: 'raster', pixel })
/** May be left out: its pointer is 0 then. */
export const maybe = <P extends PixelKind>(pixel: P): RasterArgument<Raster | Slot, P> & { optional: true } => ({
  kind: 'raster',
  pixel,
  optional: true,
})
/** f32. */
export const number: Typed<number> & { kind: 'number' } = { kind: 'number' }
/** i32. */
export const whole: Typed<number> & { kind: 'whole' } = { kind: 'whole' }
/** Address of a table. */
export const pointer: Typed<number> & { kind: 'pointer' } = { kind: 'pointer' }
/** Four f32 that one instruction loads. */
export const four: Typed<readonly [number, number, number, number]> & { kind: 'four' } = { kind: 'four' }

/** One f32, loaded as four that are the same: cheaper in a loop than a number that is made four there. */
export const splat: Typed<number> & { kind: 'splat' } = { kind: 'splat' }

/** Red, green and blue, each loaded as four that are the same. */
export const shade: Typed<readonly [number, number, number]> & { kind: 'shade' } = { kind: 'shade' }

/**
 * How a kernel goes through its area: pixel by pixel as a formula says (core/formula; several of those in a
 * row are one of traversal formula), row by row, or as it likes.
 */
export type Traversal = 'point' | 'formula' | 'row' | 'block'
export interface Kernel<A extends Record<string, Argument> = Record<string, Argument>> {
  /** Its class in kernels/assembly/image, and with a small first letter its file there. */
  name: string
  traversal: Traversal
  arguments: A
  /** Rows that it is given at once at least, where it goes on from one to the next. */
  rows?: number
  /** Arguments that are always the same. */
  constants?: Readonly<Record<string, number>>
}

type Given<T> = T extends Typed<infer V> ? V : never
type Missing<A> = { [K in keyof A]: A[K] extends { optional: true } ? K : never }[keyof A]
/** What a call of the kernel is given. */
export type ArgumentsOf<K extends Kernel> = {
  [N in Exclude<keyof K['arguments'], Missing<K['arguments']>>]: Given<K['arguments'][N]>
} & { [N in Missing<K['arguments']>]?: Given<K['arguments'][N]> | undefined }

/** A kernel that treats pixels one at a time has these beside its own values. */
export const POINT = {
  source: raster('colour'),
  out: raster('colour'),
  /** How much of it there is at each pixel. */
  matte: maybe('single'),
  strength: splat,
  /** 1: its values are for colour that is divided by alpha. */
  straight: whole,
}

export const kernel = <const A extends Record<string, Argument>>(name: string, values: A): Kernel<A> => ({
  name,
  traversal: 'row',
  arguments: values,
})
export const block = <const A extends Record<string, Argument>>(name: string, values: A, rows?: number): Kernel<A> => ({
  name,
  traversal: 'block',
  arguments: values,
  rows,
})
/** Bytes of a raster among the arguments: its address, its four bounds, and pixels from a row to the next. */
export const RASTER_BYTES = 24
/** Where each argument stands, in bytes: pictures first, then what is loaded four at a time, then words. */
export function layoutOf(all: Readonly<Record<string, Argument>>): {
  places: Map<string, number>
  rasters: number
  bytes: number
} {
  const places = new Map<string, number>()
  const names = Object.keys(all)
  let at = 0
  const put = (kind: (argument: Argument) => boolean, bytes: number): void => {
    at = Math.ceil(at / Math.min(16, bytes & -bytes)) * Math.min(16, bytes & -bytes)
    for (const name of names)
      if (kind(all[name]!)) {
        places.set(name, at)
        at += bytes
      }
  }
  put(({ kind }) => kind === 'raster', RASTER_BYTES)
  const rasters = at / RASTER_BYTES
  put(({ kind }) => kind === 'shade', 48)
  put(({ kind }) => kind === 'four' || kind === 'splat', 16)
  put(({ kind }) => kind === 'number' || kind === 'whole' || kind === 'pointer', 4)
  return { places, rasters, bytes: Math.ceil(at / 16) * 16 }
}
