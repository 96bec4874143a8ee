// Directional albedo of GGX with Smith's height-correlated masking, split into A and B so that albedo = F0 A + B
// (B. Karis, course "Physically Based Shading in Theory and Practice", SIGGRAPH 2013, the split sum). By numerical
// integration over visible normals.
import { GLASS_COLUMNS } from '../../kernels/assembly/layout'

export const ALBEDO_TABLE_SIZE = 32

let table: Float32Array | undefined

/** 32 x 32 pairs (A, B): columns by cosine 0..1, rows by square root of the GGX width 0..1. */
export function albedoTable(): Float32Array {
  if (table) return table
  const size = ALBEDO_TABLE_SIZE
  const out = new Float32Array(size * size * 2)
  for (let row = 0; row < size; row++) {
    const alpha = Math.max((row / (size - 1)) ** 2, 1e-3)
    for (let column = 0; column < size; column++) {
      const cosine = Math.max(column / (size - 1), 1e-3)
      const [a, b] = integrate(cosine, alpha)
      out[(row * size + column) * 2] = a
      out[(row * size + column) * 2 + 1] = b
    }
  }
  table = out
  return out
}

const SAMPLES = 1024
// Places of the unit disc spread evenly by M. Roberts' sequence R2 (2018), whose rows line up with no border as a grid's
// do
const DISC = Array.from({ length: SAMPLES }, (_, i) => {
  const radius = Math.sqrt((0.5 + i * 0.7548776662466927) % 1)
  const angle = 2 * Math.PI * ((0.5 + i * 0.5698402909980532) % 1)
  return [radius * Math.cos(angle), radius * Math.sin(angle)] as const
})
const DISC_X = Float64Array.from(DISC, ([x]) => x)
const DISC_Y = Float64Array.from(DISC, ([, y]) => y)
/**
 * Sum over the visible normals (Heitz 2018); visit gets the cosines of normal and view to the normal of the microfacet.
 */
function overNormals(cosine: number, alpha: number, visit: (hz: number, vh: number) => void): void {
  const sine = Math.sqrt(1 - cosine * cosine)
  const sx = sine * alpha
  const l = 1 / Math.sqrt(sx * sx + cosine * cosine)
  const vx = sx * l
  const vz = cosine * l
  const s = 0.5 * (1 + vz)
  for (let i = 0; i < SAMPLES; i++) {
    const p1 = DISC_X[i]!
    const p2 = (1 - s) * Math.sqrt(1 - p1 * p1) + s * DISC_Y[i]!
    const p3 = Math.sqrt(Math.max(0, 1 - p1 * p1 - p2 * p2))
    // Basis of the stretched view: first (0, 1, 0), second view x first
    const hx = (-vz * p2 + vx * p3) * alpha
    const hy = p1 * alpha
    const hz = Math.max(1e-9, vx * p2 + vz * p3)
    const h = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz)
    visit(hz * h, Math.max(0, (sine * hx + cosine * hz) * h))
  }
}
const slope = (alpha: number, cosine: number): number =>
  Math.sqrt(alpha * alpha + (1 - alpha * alpha) * cosine * cosine)
/**
 * What masking leaves of a mirrored direction, over how likely its normal was seen: G2 / G1, correlated by height; 0
 * below the surface.
 */
const mirroredShare = (alpha: number, view: number, out: number): number => {
  if (out <= 0) return 0
  const gv = slope(alpha, view)
  const gl = slope(alpha, out)
  return (out * (view + gv)) / (out * gv + view * gl)
}

function integrate(cosine: number, alpha: number): [number, number] {
  let a = 0
  let b = 0
  overNormals(cosine, alpha, (hz, vh) => {
    const weight = mirroredShare(alpha, cosine, 2 * vh * hz - cosine)
    const fresnel = (1 - vh) ** 5
    a += weight * (1 - fresnel)
    b += weight * fresnel
  })
  return [a / SAMPLES, b / SAMPLES]
}

let sheen: Float32Array | undefined
/**
 * What the sheen of KHR_materials_sheen sends back of even light, at full colour: 32 x 32 as above, rows by roughness
 * (the square root of its alpha).
 */
export function sheenTable(): Float32Array {
  if (sheen) return sheen
  const size = ALBEDO_TABLE_SIZE
  const out = new Float32Array(size * size)
  const steps = 48
  for (let row = 0; row < size; row++)
    for (let column = 0; column < size; column++) {
      const inverse = 1 / Math.max(1e-3, (row / (size - 1)) ** 2)
      const v = Math.max(1e-4, column / (size - 1))
      const vs = Math.sqrt(1 - v * v)
      let sum = 0
      // Over the hemisphere, evenly in height and angle
      for (let i = 0; i < steps; i++)
        for (let j = 0; j < steps; j++) {
          const l = (i + 0.5) / steps
          const ls = Math.sqrt(1 - l * l)
          const angle = (Math.PI * (j + 0.5)) / steps
          const x = vs + ls * Math.cos(angle)
          const y = ls * Math.sin(angle)
          const z = v + l
          const h = z / Math.hypot(x, y, z)
          sum +=
            ((((2 + inverse) * Math.sqrt(Math.max(0, 1 - h * h)) ** inverse) / (2 * Math.PI) / (4 * (l + v - l * v))) *
              l *
              2 *
              Math.PI) /
            steps /
            steps
        }
      out[row * size + column] = Math.min(1, sum)
    }
  sheen = out
  return out
}

const glassTables = new Map<string, Float32Array>()
/**
 * What one scattering of even light at rough glass mirrors, and what it lets through, as pairs: the kernels give back
 * what both lack of 1, and what of the light is matt. GLASS_COLUMNS x 32 by cosine 0..1 and square root of the GGX
 * width 0..1: of a body met from outside, then from within; of a sheet (both its faces in one) once. Of a body there follows, by row, the mean of what its border lets out of matt light within.
 */
export function glassTable(ior: number, sheet: boolean): Float32Array {
  const key = `${ior} ${sheet}`
  const known = glassTables.get(key)
  if (known) return known
  const size = ALBEDO_TABLE_SIZE
  const sides = sheet ? [1 / ior] : [1 / ior, ior]
  const cells = GLASS_COLUMNS * size * 2
  const out = new Float32Array(cells * sides.length + (sheet ? 0 : size))
  let at = 0
  for (const eta of sides)
    for (let row = 0; row < size; row++) {
      const alpha = Math.max((row / (size - 1)) ** 2, 1e-3)
      for (let column = 0; column < GLASS_COLUMNS; column++) {
        const cosine = Math.max(column / (GLASS_COLUMNS - 1), 1e-3)
        let mirrors = 0
        let passes = 0
        overNormals(cosine, alpha, (hz, vh) => {
          const s2 = eta * eta * (1 - vh * vh)
          const t = Math.sqrt(Math.max(0, 1 - s2))
          const s = (eta * vh - t) / (eta * vh + t)
          const p = (vh - eta * t) / (vh + eta * t)
          const face = s2 >= 1 ? 1 : (s * s + p * p) / 2
          const mirrored = sheet ? (2 * face) / (1 + face) : face
          const back = 2 * vh * hz - cosine
          mirrors += mirrored * mirroredShare(alpha, cosine, back)
          const z = sheet ? back : eta * cosine - (eta * vh - t) * hz
          if (mirrored < 1 && z > 0) passes += ((1 - mirrored) * 2 * z) / (z + slope(alpha, z))
        })
        out[at++] = mirrors / SAMPLES
        out[at++] = passes / SAMPLES
      }
    }
  if (!sheet)
    for (let row = 0; row < size; row++) {
      // 2 x share x cosine over the cosine, by the trapezoidal rule
      let sum = 0
      for (let column = 0; column < GLASS_COLUMNS; column++) {
        const from = cells + (row * GLASS_COLUMNS + column) * 2
        const end = column === 0 || column === GLASS_COLUMNS - 1 ? 0.5 : 1
        sum += (end * 2 * out[from + 1]! * column) / (out[from]! + out[from + 1]!) / (GLASS_COLUMNS - 1) ** 2
      }
      out[at++] = sum
    }
  glassTables.set(key, out)
  return out
}
