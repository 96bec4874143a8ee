// Small pictures that tests say pixel by pixel.
import type { EntryValue } from '../../core/declare/field'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { kernelModule } from '../../host/engine'
import { treat as treated, type TreatOptions } from '../compose/treat'

export const pool = new Pool(new Kernels(kernelModule()))
export const [WIDTH, HEIGHT] = [96, 64] as const
/** Covered whole; x and y are the middles of pixels. */
export const made = (
  of: (x: number, y: number, c: number) => number,
  width: number = WIDTH,
  height: number = HEIGHT,
): Float32Array =>
  Float32Array.from({ length: width * height * 4 }, (_, i) =>
    i % 4 === 3 ? 1 : of(((i >> 2) % width) + 0.5, Math.floor((i >> 2) / width) + 0.5, i % 4),
  )
/** A treatment on a picture of that size. */
export const treat = (
  id: string,
  values: Record<string, EntryValue>,
  pixels: ArrayLike<number>,
  options: TreatOptions = {},
): Promise<Float32Array> => treated(pool, id, values, WIDTH, HEIGHT, pixels, options)
export const at = (out: ArrayLike<number>, x: number, y: number, c = 0): number => out[(y * WIDTH + x) * 4 + c]!
