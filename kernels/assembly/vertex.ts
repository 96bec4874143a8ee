// Corners of triangles: where they stand, and what they may have beside.
import { LINEAR, PLAIN } from './codes'
import { ONE } from './constants'
import * as L from './layout'


@inline
export function vertexOf(scene: usize, record: usize, corner: usize): usize {
  return <usize>load<u32>(scene, L.SCENE_VERTICES) + <usize>load<u32>(record + (corner << 2)) * L.VERTEX_STRIDE
}

/** A place of a mesh's space by rows of four (L.PLACE_OUT), in the world, in outX, Y, Z. */
export let outX: f32 = 0
export let outY: f32 = 0
export let outZ: f32 = 0
export function byRows(rows: usize, x: f32, y: f32, z: f32, w: f32): void {
  outX = load<f32>(rows) * x + load<f32>(rows, 4) * y + load<f32>(rows, 8) * z + load<f32>(rows, 12) * w
  outY = load<f32>(rows, 16) * x + load<f32>(rows, 20) * y + load<f32>(rows, 24) * z + load<f32>(rows, 28) * w
  outZ = load<f32>(rows, 32) * x + load<f32>(rows, 36) * y + load<f32>(rows, 40) * z + load<f32>(rows, 44) * w
}
// Three vertices of a mesh as they stand in the world: in this worker's own scratch
export let standing: usize = 0
export function initVertex(scratch: usize): void {
  standing = scratch + L.SCRATCH_STANDING
}
export function stood(place: usize, vertex: usize, to: usize): usize {
  byRows(place + L.PLACE_OUT, load<f32>(vertex), load<f32>(vertex, 4), load<f32>(vertex, 8), 1)
  store<f32>(to, outX)
  store<f32>(to, outY, 4)
  store<f32>(to, outZ, 8)
  // Normals go by the transposed way back
  const nx = load<f32>(vertex, 12)
  const ny = load<f32>(vertex, 16)
  const nz = load<f32>(vertex, 20)
  const into = place + L.PLACE_INTO
  const x = load<f32>(into) * nx + load<f32>(into, 16) * ny + load<f32>(into, 32) * nz
  const y = load<f32>(into, 4) * nx + load<f32>(into, 20) * ny + load<f32>(into, 36) * nz
  const z = load<f32>(into, 8) * nx + load<f32>(into, 24) * ny + load<f32>(into, 40) * nz
  const long = sqrt<f32>(x * x + y * y + z * z)
  const scale: f32 = long > 0 ? ONE / long : 0
  store<f32>(to, x * scale, 12)
  store<f32>(to, y * scale, 16)
  store<f32>(to, z * scale, 20)
  store<i64>(to, load<i64>(vertex, 24), 24)
  byRows(place + L.PLACE_OUT, load<f32>(vertex, 32), load<f32>(vertex, 36), load<f32>(vertex, 40), 0)
  const along = sqrt<f32>(outX * outX + outY * outY + outZ * outZ)
  const share: f32 = along > 0 ? ONE / along : 0
  store<f32>(to, outX * share, 32)
  store<f32>(to, outY * share, 36)
  store<f32>(to, outZ * share, 40)
  store<f32>(to, load<f32>(vertex, 44), 44)
  return to
}

// What a vertex may have beside: second surface coordinates, and a colour that multiplies the material's
export let secondU: f32 = 0
export let secondV: f32 = 0
export let painted: v128 = f32x4.splat(1)


@inline
export function extraOf(scene: usize, record: usize, corner: usize): usize {
  return <usize>load<u32>(scene, L.SCENE_EXTRA) + <usize>load<u32>(record + (corner << 2)) * L.EXTRA_STRIDE
}
export function loadExtra(scene: usize, record: usize, u: f32, v: f32, w: f32): bool {
  if (!load<u32>(scene, L.SCENE_EXTRA)) return false
  const a = extraOf(scene, record, 0)
  const b = extraOf(scene, record, 1)
  const c = extraOf(scene, record, 2)
  secondU = load<f32>(a) * w + load<f32>(b) * u + load<f32>(c) * v
  secondV = load<f32>(a, 4) * w + load<f32>(b, 4) * u + load<f32>(c, 4) * v
  painted = f32x4.add(
    f32x4.mul(paint(a), f32x4.splat(w)),
    f32x4.add(f32x4.mul(paint(b), f32x4.splat(u)), f32x4.mul(paint(c), f32x4.splat(v))),
  )
  return true
}


@inline
function paint(vertex: usize): v128 {
  const code = load<u32>(vertex, L.EXTRA_COLOUR)
  return f32x4(
    load<f32>(LINEAR + ((code & 255) << 2)),
    load<f32>(LINEAR + (((code >> 8) & 255) << 2)),
    load<f32>(LINEAR + (((code >> 16) & 255) << 2)),
    load<f32>(PLAIN + ((code >> 24) << 2)),
  )
}
