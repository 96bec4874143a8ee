// One ray against four triangles at a time (Möller and Trumbore 1997), and a ray in the space of a place.
import { ONE } from './constants'
import * as L from './layout'

// Kept in memory: a vector spelled out in the code is put together anew at every use
const signBits = memory.data<u32>([0x80000000, 0x80000000, 0x80000000, 0x80000000], 16)


@inline
export function safeInverse(value: f32): f32 {
  // A huge finite number in place of infinity keeps 0 * inf (NaN) out of the slab test
  return abs(value) > 1e-18 ? ONE / value : value < 0 ? <f32>-1e18 : <f32>1e18
}

// One visit of four triangles: mask of lanes hit between near and far, distances and barycentrics left in scratch
// lanes.
@inline
export function testPacket(
  packet: usize,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  near: f32,
  far: f32,
  skip: i32,
  lanes: usize,
): i32 {
  const e1x = v128.load(packet, 48)
  const e1y = v128.load(packet, 64)
  const e1z = v128.load(packet, 80)
  const e2x = v128.load(packet, 96)
  const e2y = v128.load(packet, 112)
  const e2z = v128.load(packet, 128)
  const px = f32x4.sub(f32x4.mul(dy, e2z), f32x4.mul(dz, e2y))
  const py = f32x4.sub(f32x4.mul(dz, e2x), f32x4.mul(dx, e2z))
  const pz = f32x4.sub(f32x4.mul(dx, e2y), f32x4.mul(dy, e2x))
  const determinant = f32x4.add(f32x4.add(f32x4.mul(e1x, px), f32x4.mul(e1y, py)), f32x4.mul(e1z, pz))
  // Everything is compared times |determinant|: the division is left for the few that hit
  const signs = v128.load(signBits)
  const sign = v128.and(determinant, signs)
  const size = v128.xor(determinant, sign)
  const tx = f32x4.sub(ox, v128.load(packet))
  const ty = f32x4.sub(oy, v128.load(packet, 16))
  const tz = f32x4.sub(oz, v128.load(packet, 32))
  const u = v128.xor(f32x4.add(f32x4.add(f32x4.mul(tx, px), f32x4.mul(ty, py)), f32x4.mul(tz, pz)), sign)
  const qx = f32x4.sub(f32x4.mul(ty, e1z), f32x4.mul(tz, e1y))
  const qy = f32x4.sub(f32x4.mul(tz, e1x), f32x4.mul(tx, e1z))
  const qz = f32x4.sub(f32x4.mul(tx, e1y), f32x4.mul(ty, e1x))
  const v = v128.xor(f32x4.add(f32x4.add(f32x4.mul(dx, qx), f32x4.mul(dy, qy)), f32x4.mul(dz, qz)), sign)
  const zero = f32x4.splat(0)
  let ok = v128.and(f32x4.ge(u, zero), f32x4.ge(v, zero))
  ok = v128.and(ok, f32x4.le(f32x4.add(u, v), size))
  if (!v128.any_true(ok)) return 0
  const t = v128.xor(f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)), sign)
  ok = v128.and(
    ok,
    v128.and(f32x4.gt(t, f32x4.mul(f32x4.splat(near), size)), f32x4.lt(t, f32x4.mul(f32x4.splat(far), size))),
  )
  // Empty lanes have no edges, so no determinant, and never pass
  if (skip) ok = v128.and(ok, i32x4.eq(v128.and(v128.load(packet, L.PACKET_FLAGS), i32x4.splat(skip)), i32x4.splat(0)))
  const mask = i32x4.bitmask(ok)
  if (mask) {
    const inverse = f32x4.div(f32x4.splat(1), size)
    v128.store(lanes, f32x4.mul(t, inverse), 64)
    v128.store(lanes, f32x4.mul(u, inverse), 80)
    v128.store(lanes, f32x4.mul(v, inverse), 96)
  }
  return mask
}

// A ray in the space of a place; its direction keeps the length that makes distances the world's
export let intoX: f32 = 0
export let intoY: f32 = 0
export let intoZ: f32 = 0


@inline
export function intoPlace(place: usize, x: f32, y: f32, z: f32, w: f32): void {
  intoX =
    load<f32>(place, L.PLACE_INTO) * x +
    load<f32>(place, L.PLACE_INTO + 4) * y +
    load<f32>(place, L.PLACE_INTO + 8) * z +
    load<f32>(place, L.PLACE_INTO + 12) * w
  intoY =
    load<f32>(place, L.PLACE_INTO + 16) * x +
    load<f32>(place, L.PLACE_INTO + 20) * y +
    load<f32>(place, L.PLACE_INTO + 24) * z +
    load<f32>(place, L.PLACE_INTO + 28) * w
  intoZ =
    load<f32>(place, L.PLACE_INTO + 32) * x +
    load<f32>(place, L.PLACE_INTO + 36) * y +
    load<f32>(place, L.PLACE_INTO + 40) * z +
    load<f32>(place, L.PLACE_INTO + 44) * w
}
