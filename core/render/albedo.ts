// Directional albedo of GGX with Smith's height-correlated masking, split into A and B so that albedo = F0 A + B
// (B. Karis, course "Physically Based Shading in Theory and Practice", SIGGRAPH 2013, the split sum). By numerical integration over visible normals.
export const ALBEDO_TABLE_SIZE = 32

let table: Float32Array | undefined

/** 32 x 32 pairs (A, B): columns by cosine 0..1, rows by square root of the GGX width 0..1. */
export function albedoTable(): Float32Array {
  if (table) return table
  const size = ALBEDO_TABLE_SIZE, out = new Float32Array(size * size * 2)
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
function integrate(cosine: number, alpha: number): [number, number] {
  const sine = Math.sqrt(1 - cosine * cosine), a2 = alpha * alpha
  // Visible normals (Heitz 2018) on a stratified grid of the disc
  const sx = sine * alpha, sz = cosine, l = 1 / Math.hypot(sx, sz)
  const vx = sx * l, vz = sz * l
  const lambda = (c: number): number => Math.sqrt(a2 + (1 - a2) * c * c)
  let a = 0, b = 0
  for (let i = 0; i < SAMPLES; i++) {
    for (let j = 0; j < SAMPLES; j++) {
      const radius = Math.sqrt((i + 0.5) / SAMPLES), angle = 2 * Math.PI * (j + 0.5) / SAMPLES
      const p1 = radius * Math.cos(angle), s = 0.5 * (1 + vz)
      const p2 = (1 - s) * Math.sqrt(1 - p1 * p1) + s * radius * Math.sin(angle)
      const p3 = Math.sqrt(Math.max(0, 1 - p1 * p1 - p2 * p2))
      // Basis of the stretched view: first (0, 1, 0), second view x first
      let hx = -vz * p2 + vx * p3, hy = p1, hz = vx * p2 + vz * p3
      hx *= alpha; hy *= alpha; hz = Math.max(1e-9, hz)
      const h = 1 / Math.hypot(hx, hy, hz)
      hx *= h; hz *= h
      const vh = Math.max(0, sine * hx + cosine * hz)
      const lz = 2 * vh * hz - cosine
      if (lz <= 0) continue
      // Weight of a visible normal sample: G2 / G1
      const gv = lambda(cosine), gl = lambda(lz)
      const weight = lz * (cosine + gv) / (lz * gv + cosine * gl)
      const fresnel = (1 - vh) ** 5
      a += weight * (1 - fresnel)
      b += weight * fresnel
    }
  }
  return [a / SAMPLES ** 2, b / SAMPLES ** 2]
}
