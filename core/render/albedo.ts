// Directional albedo of GGX with Smith's height-correlated masking, split into A and B so that albedo = F0 A + B
// (B. Karis, course "Physically Based Shading in Theory and Practice", SIGGRAPH 2013, the split sum). By numerical
// integration over visible normals.
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

const SAMPLES = 24
/**
 * Mean over the visible normals (Heitz 2018) on a stratified grid of the disc; visit gets the cosines of normal and
 * view to the normal of the microfacet.
 */
function overNormals(cosine: number, alpha: number, visit: (hz: number, vh: number) => void): void {
  const sine = Math.sqrt(1 - cosine * cosine)
  const sx = sine * alpha
  const sz = cosine
  const l = 1 / Math.hypot(sx, sz)
  const vx = sx * l
  const vz = sz * l
  for (let i = 0; i < SAMPLES; i++) {
    for (let j = 0; j < SAMPLES; j++) {
      const radius = Math.sqrt((i + 0.5) / SAMPLES)
      const angle = (2 * Math.PI * (j + 0.5)) / SAMPLES
      const p1 = radius * Math.cos(angle)
      const s = 0.5 * (1 + vz)
      const p2 = (1 - s) * Math.sqrt(1 - p1 * p1) + s * radius * Math.sin(angle)
      const p3 = Math.sqrt(Math.max(0, 1 - p1 * p1 - p2 * p2))
      // Basis of the stretched view: first (0, 1, 0), second view x first
      let hx = -vz * p2 + vx * p3
      let hy = p1
      let hz = vx * p2 + vz * p3
      hx *= alpha
      hy *= alpha
      hz = Math.max(1e-9, hz)
      const h = 1 / Math.hypot(hx, hy, hz)
      hx *= h
      hz *= h
      visit(hz, Math.max(0, sine * hx + cosine * hz))
    }
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
  return [a / SAMPLES ** 2, b / SAMPLES ** 2]
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

const glassTables = new Map<number, Float32Array>()
/**
 * What one scattering at a border of rough glass keeps of the light, mirrored and let through together: the kernels
 * divide by it. Two halves of 32 x 32 (as above): met from outside, and from within.
 */
export function glassTable(ior: number): Float32Array {
  const known = glassTables.get(ior)
  if (known) return known
  const size = ALBEDO_TABLE_SIZE
  const out = new Float32Array(size * size * 2)
  for (const [half, eta] of [1 / ior, ior].entries()) {
    for (let row = 0; row < size; row++) {
      const alpha = Math.max((row / (size - 1)) ** 2, 1e-3)
      for (let column = 0; column < size; column++) {
        const cosine = Math.max(column / (size - 1), 1e-3)
        let kept = 0
        overNormals(cosine, alpha, (hz, vh) => {
          const s2 = eta * eta * (1 - vh * vh)
          const t = Math.sqrt(Math.max(0, 1 - s2))
          const s = (eta * vh - t) / (eta * vh + t)
          const p = (vh - eta * t) / (vh + eta * t)
          const mirrored = s2 >= 1 ? 1 : (s * s + p * p) / 2
          kept += mirrored * mirroredShare(alpha, cosine, 2 * vh * hz - cosine)
          if (mirrored >= 1) return
          const z = eta * cosine - (eta * vh - t) * hz
          if (z > 0) kept += ((1 - mirrored) * 2 * z) / (z + slope(alpha, z))
        })
        out[half * size * size + row * size + column] = kept / SAMPLES ** 2
      }
    }
  }
  glassTables.set(ior, out)
  return out
}
