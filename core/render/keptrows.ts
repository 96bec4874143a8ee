// Finished rows of a render as bytes, so that a stopped one goes on with what is left.
import type { RenderedPasses } from './planes'

type Plane = Float32Array | Uint32Array | Uint16Array | Uint8Array
const isPlane = (value: unknown): value is Plane =>
  value instanceof Float32Array ||
  value instanceof Uint32Array ||
  value instanceof Uint16Array ||
  value instanceof Uint8Array

/** All planes that passes hold, in one order for the same choice of passes. */
function planesIn(value: unknown): Plane[] {
  if (isPlane(value)) return [value]
  return value && typeof value === 'object'
    ? Object.keys(value)
        .sort()
        .flatMap(key => planesIn((value as Record<string, unknown>)[key]))
    : []
}

/** What of each plane stands on those rows; those that are no picture are left. */
function rowsOf(passes: RenderedPasses, from: number, rows: number): Plane[] {
  const { width, height } = passes
  return planesIn(passes).flatMap(plane => {
    const each = plane.length / (width * height)
    return plane.length && Number.isInteger(each)
      ? [plane.subarray(from * width * each, (from + rows) * width * each)]
      : []
  })
}

export function rowsKept(passes: RenderedPasses, from: number, rows: number): Uint8Array {
  const parts = rowsOf(passes, from, rows)
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.byteLength, 0))
  let at = 0
  for (const part of parts) {
    out.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at)
    at += part.byteLength
  }
  return out
}

/**
 * Puts back what rowsKept gave of passes of the same choice and size; false, and nothing is changed, when it does not
 * fit.
 */
export function putRows(passes: RenderedPasses, from: number, rows: number, bytes: Uint8Array): boolean {
  const parts = rowsOf(passes, from, rows)
  if (parts.reduce((sum, part) => sum + part.byteLength, 0) !== bytes.length) return false
  let at = 0
  for (const part of parts) {
    new Uint8Array(part.buffer, part.byteOffset, part.byteLength).set(bytes.subarray(at, at + part.byteLength))
    at += part.byteLength
  }
  return true
}

/** Head of what a stopped render keeps: five f64. */
export const KEPT_HEAD = 40
const KEPT_MARK = 20261127

/** The strip it was in, the samples done there, the next look at the noise, and the bytes that follow. */
export interface KeptHead {
  strip: number
  samples: number
  check: number
  said: number
}
export function putKeptHead(to: Uint8Array, { strip, samples, check, said }: KeptHead): void {
  const head = new DataView(to.buffer)
  ;[KEPT_MARK, strip, samples, check, said].forEach((value, i) => head.setFloat64(i * 8, value, true))
}
/** Undefined where it is no such head. */
export function keptHead(bytes: Uint8Array): KeptHead | undefined {
  if (bytes.length < KEPT_HEAD) return undefined
  const view = new DataView(bytes.buffer, bytes.byteOffset)
  const at = (index: number): number => view.getFloat64(index * 8, true)
  return at(0) === KEPT_MARK ? { strip: at(1), samples: at(2), check: at(3), said: at(4) } : undefined
}

/** Strip that what kept() gave is about. */
export const stripKept = (bytes: Uint8Array): number =>
  Math.min(1e6, Math.max(0, Math.floor(keptHead(bytes)?.strip ?? 0) || 0))
