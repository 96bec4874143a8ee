// Look-up tables from one set of colours to another: three curves, or a cube of colours.
import type { Encoding } from './encoding'

export interface Lut {
  kind: '1d' | '3d'
  /** Entries along an axis. */
  size: number
  /** What the first and the last entry stand for, by channel. */
  low: [number, number, number]
  high: [number, number, number]
  /** RGB triples; of a cube red runs fastest. */
  data: Float32Array
}

/**
 * Applies it to RGBA pixels in place; values beyond its domain are held at its border. Between entries: straight, of a
 * cube within tetrahedra (J. Kasson et al. 1993).
 */
export function applyLut({ kind, size, low, high, data }: Lut, pixels: Float32Array): void {
  const last = size - 1
  const scale = [0, 1, 2].map(c => last / (high[c]! - low[c]!))
  const at = (value: number, c: number): number => {
    const t = (value - low[c]!) * scale[c]!
    return t > 0 ? Math.min(last, t) : 0
  }
  if (kind === '1d') {
    for (let i = 0; i < pixels.length; i += 4) {
      for (let c = 0; c < 3; c++) {
        const t = at(pixels[i + c]!, c)
        const k = Math.min(last - 1, Math.floor(t))
        const f = t - k
        const a = data[k * 3 + c]!
        pixels[i + c] = a + (data[(k + 1) * 3 + c]! - a) * f
      }
    }
    return
  }
  const dr = 3
  const dg = size * 3
  const db = size * size * 3
  for (let i = 0; i < pixels.length; i += 4) {
    const r = at(pixels[i]!, 0)
    const g = at(pixels[i + 1]!, 1)
    const b = at(pixels[i + 2]!, 2)
    const ir = Math.min(last - 1, Math.floor(r))
    const ig = Math.min(last - 1, Math.floor(g))
    const ib = Math.min(last - 1, Math.floor(b))
    const fr = r - ir
    const fg = g - ig
    const fb = b - ib
    const base = ir * dr + ig * dg + ib * db
    // The tetrahedron of the cell: along its edges from black to white in the order of the fractions
    let first: number
    let second: number
    let x: number
    let y: number
    let z: number
    if (fr >= fg) {
      if (fg >= fb) {
        first = dr
        second = dr + dg
        x = fr
        y = fg
        z = fb
      } else if (fr >= fb) {
        first = dr
        second = dr + db
        x = fr
        y = fb
        z = fg
      } else {
        first = db
        second = dr + db
        x = fb
        y = fr
        z = fg
      }
    } else if (fb >= fg) {
      first = db
      second = dg + db
      x = fb
      y = fg
      z = fr
    } else if (fb >= fr) {
      first = dg
      second = dg + db
      x = fg
      y = fb
      z = fr
    } else {
      first = dg
      second = dr + dg
      x = fg
      y = fr
      z = fb
    }
    const whole = base + dr + dg + db
    for (let c = 0; c < 3; c++)
      pixels[i + c] =
        data[base + c]! * (1 - x) +
        data[base + first + c]! * (x - y) +
        data[base + second + c]! * (y - z) +
        data[whole + c]! * z
  }
}

/** How a picture is read through a table whose colours come out in another encoding. */
export const throughLut = (lut: Lut, output: Encoding): Encoding => ({
  ...output,
  id: `${output.id} by table`,
  display: true,
  map: pixels => applyLut(lut, pixels),
})
