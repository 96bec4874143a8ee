// Small faces of a surface: the frame that they are thought in, the normals that a viewer sees of them (E. Heitz, JCGT
// 7(4), 2018), directions, and what one scattering at them sends back, by tables.
import { ONE, TWO, HALF } from './constants'
import { SCENE_ALBEDO_TABLE, SCENE_SHEEN_TABLE } from './layout'
import { normalX, normalY, normalZ } from './surface'

export const PI: f32 = 3.14159265
export const INVERSE_PI: f32 = 0.318309886
export const TABLE: i32 = 32

export let tangentX: f32 = 0
export let tangentY: f32 = 0
export let tangentZ: f32 = 0
export let bitangentX: f32 = 0
export let bitangentY: f32 = 0
export let bitangentZ: f32 = 0
export let viewX: f32 = 0
export let viewY: f32 = 0
export let viewZ: f32 = 0 // towards the viewer, in the frame of the normal
// Directions that are drawn or bent, in the world
export let outX: f32 = 0
export let outY: f32 = 0
export let outZ: f32 = 0

let basisAX: f32 = 0
let basisAY: f32 = 0
let basisAZ: f32 = 0
let basisBX: f32 = 0
let basisBY: f32 = 0
let basisBZ: f32 = 0
/** Two directions square to n (T. Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 6(1), 2017). */
function buildBasis(x: f32, y: f32, z: f32): void {
  const sign: f32 = z >= 0 ? 1 : -1
  const a = -ONE / (sign + z)
  const b = x * y * a
  basisAX = 1 + sign * x * x * a
  basisAY = sign * b
  basisAZ = -sign * x
  basisBX = b
  basisBY = sign + y * y * a
  basisBZ = -y
}

export let tableA: f32 = 0
export let tableB: f32 = 0
export function lookAlbedo(scene: usize, cosine: f32, alpha: f32): void {
  const table = <usize>load<u32>(scene, SCENE_ALBEDO_TABLE)
  const x = min<f32>(1, max<f32>(0, cosine)) * <f32>(TABLE - 1)
  const y = sqrt<f32>(min<f32>(1, alpha)) * <f32>(TABLE - 1)
  const x0 = min<i32>(TABLE - 2, <i32>x)
  const y0 = min<i32>(TABLE - 2, <i32>y)
  const fx = x - <f32>x0
  const fy = y - <f32>y0
  const at = table + ((<usize>y0 * TABLE + x0) << 3)
  const row = (<usize>TABLE) << 3
  const a0 = load<f32>(at) + (load<f32>(at, 8) - load<f32>(at)) * fx
  const a1 = load<f32>(at + row) + (load<f32>(at + row, 8) - load<f32>(at + row)) * fx
  const b0 = load<f32>(at, 4) + (load<f32>(at, 12) - load<f32>(at, 4)) * fx
  const b1 = load<f32>(at + row, 4) + (load<f32>(at + row, 12) - load<f32>(at + row, 4)) * fx
  tableA = a0 + (a1 - a0) * fy
  tableB = b0 + (b1 - b0) * fy
}

/** What cloth of that width sends back of even light, at full colour. */
export function lookSheen(scene: usize, cosine: f32, alpha: f32): f32 {
  const table = <usize>load<u32>(scene, SCENE_SHEEN_TABLE)
  const x = min<f32>(1, max<f32>(0, cosine)) * <f32>(TABLE - 1)
  const y = sqrt<f32>(min<f32>(1, alpha)) * <f32>(TABLE - 1)
  const x0 = min<i32>(TABLE - 2, <i32>x)
  const y0 = min<i32>(TABLE - 2, <i32>y)
  const fx = x - <f32>x0
  const fy = y - <f32>y0
  const at = table + ((<usize>y0 * TABLE + x0) << 2)
  const row: usize = (<usize>TABLE) << 2
  const upper = load<f32>(at) + (load<f32>(at, 4) - load<f32>(at)) * fx
  const lower = load<f32>(at + row) + (load<f32>(at + row, 4) - load<f32>(at + row)) * fx
  return upper + (lower - upper) * fy
}

/** Takes the frame of the loaded surface's normal, seen along dx, dy, dz (direction the ray travelled in). */
export function frame(dx: f32, dy: f32, dz: f32): void {
  buildBasis(normalX, normalY, normalZ)
  tangentX = basisAX
  tangentY = basisAY
  tangentZ = basisAZ
  bitangentX = basisBX
  bitangentY = basisBY
  bitangentZ = basisBZ
  viewX = -(dx * tangentX + dy * tangentY + dz * tangentZ)
  viewY = -(dx * bitangentX + dy * bitangentY + dz * bitangentZ)
  viewZ = max<f32>(1e-4, -(dx * normalX + dy * normalY + dz * normalZ))
}

/** Its cosine to the normal. */
export let sampledHeight: f32 = 0
/** Direction with cosine density about the normal, left in outX, Y, Z. */
export function sampleCosine(u: f32, v: f32): void {
  const radius = sqrt<f32>(u)
  const angle = v * 6.28318531
  const x = radius * Mathf.cos(angle)
  const y = radius * Mathf.sin(angle)
  sampledHeight = sqrt<f32>(max<f32>(0, ONE - u))
  toWorld(x, y, sampledHeight)
}


@inline
export function toWorld(x: f32, y: f32, z: f32): void {
  outX = tangentX * x + bitangentX * y + normalX * z
  outY = tangentY * x + bitangentY * y + normalY * z
  outZ = tangentZ * x + bitangentZ * y + normalZ * z
}

// A normal of the microfacets that the viewer sees, in the frame of the surface
export let hx: f32 = 0
export let hy: f32 = 0
export let hz: f32 = 0
export function visibleNormal(u: f32, v: f32, width: f32): void {
  // Stretch, sample the visible half disc, unstretch (Heitz 2018)
  let sx = viewX * width
  let sy = viewY * width
  let sz = viewZ
  const scale = ONE / sqrt<f32>(sx * sx + sy * sy + sz * sz)
  sx *= scale
  sy *= scale
  sz *= scale
  const flat = sx * sx + sy * sy
  let ax: f32 = 1
  let ay: f32 = 0
  if (flat > 1e-14) {
    const r = ONE / sqrt<f32>(flat)
    ax = -sy * r
    ay = sx * r
  }
  const bx = -sz * ay
  const by = sz * ax
  const bz = sx * ay - sy * ax
  const radius = sqrt<f32>(u)
  const angle = v * 6.28318531
  const p1 = radius * Mathf.cos(angle)
  const s = HALF * (1 + sz)
  const p2 = (ONE - s) * sqrt<f32>(max<f32>(0, ONE - p1 * p1)) + s * radius * Mathf.sin(angle)
  const p3 = sqrt<f32>(max<f32>(0, ONE - p1 * p1 - p2 * p2))
  hx = ax * p1 + bx * p2 + sx * p3
  hy = ay * p1 + by * p2 + sy * p3
  hz = bz * p2 + sz * p3
  hx *= width
  hy *= width
  hz = max<f32>(1e-6, hz)
  const length = ONE / sqrt<f32>(hx * hx + hy * hy + hz * hz)
  hx *= length
  hy *= length
  hz *= length
}

/** Direction within a cone about an axis: cosine in [cosine, 1] uniformly; left in outX, Y, Z. */
export function sampleCone(x: f32, y: f32, z: f32, cosine: f32, u: f32, v: f32): void {
  buildBasis(x, y, z)
  const c = ONE - u * (ONE - cosine)
  const s = sqrt<f32>(max<f32>(0, ONE - c * c))
  const angle = v * 6.28318531
  const a = s * Mathf.cos(angle)
  const b = s * Mathf.sin(angle)
  outX = basisAX * a + basisBX * b + x * c
  outY = basisAY * a + basisBY * b + y * c
  outZ = basisAZ * a + basisBZ * b + z * c
}

/** Takes the small face that mirrors the view to lx, ly, lz (frame of the normal). */
export function halfway(lx: f32, ly: f32, lz: f32): void {
  hx = viewX + lx
  hy = viewY + ly
  hz = viewZ + lz
  const scale = ONE / sqrt<f32>(hx * hx + hy * hy + hz * hz)
  hx *= scale
  hy *= scale
  hz *= scale
}
/** Takes the surface itself for its small face. */
export function straight(): void {
  hx = 0
  hy = 0
  hz = 1
}
/** Leaves the view mirrored by the small face in outX, Y, Z; returns its height over the surface. */
export function mirror(): f32 {
  const along = TWO * (viewX * hx + viewY * hy + viewZ * hz)
  const z = along * hz - viewZ
  toWorld(along * hx - viewX, along * hy - viewY, z)
  return z
}
/** Length of the slope term of Smith's masking towards a height over the surface. */
@inline
export function masking(alpha: f32, z: f32): f32 {
  const a2 = alpha * alpha
  return sqrt<f32>(a2 + (ONE - a2) * z * z)
}
