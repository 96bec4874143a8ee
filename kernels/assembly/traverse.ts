// Rays against the four-wide hierarchy: closest hit, and transmittance along a segment (any hit).
// Slab test on four boxes, Möller and Trumbore (1997) on four triangles at a time.
import { ONE } from './constants'
import * as L from './layout'
import { opacityAt } from './opacity'

export let hitDistance: f32 = 0
export let hitTriangle: i32 = -1
/** Place record of the mesh that was hit; 0 where the triangle stands in the world itself. */
export let hitPlace: usize = 0
export let hitU: f32 = 0
export let hitV: f32 = 0
let scratch: usize = 0
// Kept in memory: a vector spelled out in the code is put together anew at every use
const widening = memory.data<f32>([1.0000004, 1.0000004, 1.0000004, 1.0000004], 16)
const signBits = memory.data<u32>([0x80000000, 0x80000000, 0x80000000, 0x80000000], 16)

export function initTraverse(pointer: usize): void {
  scratch = pointer
}


@inline
function safeInverse(value: f32): f32 {
  // A huge finite number in place of infinity keeps 0 * inf (NaN) out of the slab test
  return abs(value) > 1e-18 ? ONE / value : value < 0 ? <f32>-1e18 : <f32>1e18
}

// One visit of four triangles: mask of lanes hit between near and far, distances and barycentrics left in scratch
// lanes.
@inline
function testPacket(
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

/** On the stack below what belongs to a place: the ray goes on in the world. */
const LEAVE: i32 = ~0x7fffffff

// A ray in the space of a place; its direction keeps the length that makes distances the world's
let intoX: f32 = 0
let intoY: f32 = 0
let intoZ: f32 = 0


@inline
function intoPlace(place: usize, x: f32, y: f32, z: f32, w: f32): void {
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

/** Rays cast by this thread, for measuring. */
let cast: i32 = 0
export function casts(): i32 {
  return cast
}
export function resetCasts(): void {
  cast = 0
}

/**
 * Nearest hit with near < t < far; triangles with any of the skip flags are not there. Leaves hitDistance, hitTriangle,
 * hitU, hitV.
 */
export function closestHit(
  scene: usize,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  near: f32,
  far: f32,
  skip: i32,
): bool {
  cast++
  hitTriangle = -1
  // Kept in a local: a global would be read from memory at every node
  let limit = far
  let current = load<i32>(scene, L.SCENE_ROOT)
  if (current < 0) return false
  const nodes = <usize>load<u32>(scene, L.SCENE_NODES)
  const packets = <usize>load<u32>(scene, L.SCENE_PACKETS)
  const lanes = scratch + L.SCRATCH_LANES
  const base = scratch + L.SCRATCH_STACK
  let top = base
  let ix = safeInverse(dx)
  let iy = safeInverse(dy)
  let iz = safeInverse(dz)
  let invX = f32x4.splat(ix)
  let invY = f32x4.splat(iy)
  let invZ = f32x4.splat(iz)
  let vox = f32x4.splat(ox)
  let voy = f32x4.splat(oy)
  let voz = f32x4.splat(oz)
  let vdx = f32x4.splat(dx)
  let vdy = f32x4.splat(dy)
  let vdz = f32x4.splat(dz)
  // The nearer face along each axis is known from the sign of the direction: no min and max per box.
  let nearX: usize = ix < 0 ? 48 : 0
  let farX: usize = 48 - nearX
  let nearY: usize = iy < 0 ? 64 : 16
  let farY: usize = 80 - nearY
  let nearZ: usize = iz < 0 ? 80 : 32
  let farZ: usize = 112 - nearZ
  const vNear = f32x4.splat(near)
  const wide = v128.load(widening)
  let place: usize = 0
  while (true) {
    if (current >= 0) {
      const node = nodes + <usize>current * L.NODE_STRIDE
      const n = f32x4.pmax(
        f32x4.pmax(
          f32x4.mul(f32x4.sub(v128.load(node + nearX), vox), invX),
          f32x4.mul(f32x4.sub(v128.load(node + nearY), voy), invY),
        ),
        f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(node + nearZ), voz), invZ), vNear),
      )
      const f = f32x4.pmin(
        f32x4.pmin(
          f32x4.mul(f32x4.sub(v128.load(node + farX), vox), invX),
          f32x4.mul(f32x4.sub(v128.load(node + farY), voy), invY),
        ),
        f32x4.pmin(f32x4.mul(f32x4.sub(v128.load(node + farZ), voz), invZ), f32x4.splat(limit)),
      )
      let mask = i32x4.bitmask(f32x4.le(n, f32x4.mul(f, wide)))
      if (mask) {
        const first = ctz(mask)
        mask &= mask - 1
        if (mask == 0) {
          current = load<i32>(node + ((<usize>first) << 2), L.NODE_CHILD)
          continue
        }
        v128.store(lanes, n)
        let best = first
        let bestT = load<f32>(lanes + ((<usize>first) << 2))
        // The nearest child is walked next; the others wait on the stack, farther ones below
        const mark = top
        while (mask) {
          let lane = ctz(mask)
          mask &= mask - 1
          let t = load<f32>(lanes + ((<usize>lane) << 2))
          if (t < bestT) {
            const swapLane = best
            const swapT = bestT
            best = lane
            bestT = t
            lane = swapLane
            t = swapT
          }
          let slot = top
          while (slot > mark && load<f32>(slot - 4) < t) {
            store<i64>(slot, load<i64>(slot - 8))
            slot -= 8
          }
          store<i32>(slot, load<i32>(node + ((<usize>lane) << 2), L.NODE_CHILD))
          store<f32>(slot, t, 4)
          top += 8
        }
        current = load<i32>(node + ((<usize>best) << 2), L.NODE_CHILD)
        continue
      }
    } else {
      const number = ~current
      if (number & L.PLACE_LEAF) {
        let x = ox
        let y = oy
        let z = oz
        let tx = dx
        let ty = dy
        let tz = dz
        if (current == LEAVE) place = 0
        else {
          place = <usize>load<u32>(scene, L.SCENE_PLACES) + <usize>(~current ^ L.PLACE_LEAF) * L.PLACE_STRIDE
          store<i32>(top, LEAVE)
          store<f32>(top, -1, 4)
          top += 8
          intoPlace(place, ox, oy, oz, 1)
          x = intoX
          y = intoY
          z = intoZ
          intoPlace(place, dx, dy, dz, 0)
          tx = intoX
          ty = intoY
          tz = intoZ
        }
        ix = safeInverse(tx)
        iy = safeInverse(ty)
        iz = safeInverse(tz)
        invX = f32x4.splat(ix)
        invY = f32x4.splat(iy)
        invZ = f32x4.splat(iz)
        vox = f32x4.splat(x)
        voy = f32x4.splat(y)
        voz = f32x4.splat(z)
        vdx = f32x4.splat(tx)
        vdy = f32x4.splat(ty)
        vdz = f32x4.splat(tz)
        nearX = ix < 0 ? 48 : 0
        farX = 48 - nearX
        nearY = iy < 0 ? 64 : 16
        farY = 80 - nearY
        nearZ = iz < 0 ? 80 : 32
        farZ = 112 - nearZ
        if (place) {
          current = load<i32>(place, L.PLACE_ROOT)
          continue
        }
      } else {
        const packet = packets + <usize>number * L.PACKET_STRIDE
        let mask = testPacket(packet, vox, voy, voz, vdx, vdy, vdz, near, limit, skip, lanes)
        while (mask) {
          const lane = (<usize>ctz(mask)) << 2
          mask &= mask - 1
          const t = load<f32>(lanes + lane, 64)
          if (t < limit) {
            limit = t
            hitU = load<f32>(lanes + lane, 80)
            hitV = load<f32>(lanes + lane, 96)
            hitTriangle = load<i32>(packet + lane, L.PACKET_INDEX)
            hitPlace = place
          }
        }
      }
    }
    do {
      if (top == base) {
        hitDistance = limit
        return hitTriangle >= 0
      }
      top -= 8
    } while (load<f32>(top, 4) >= limit)
    current = load<i32>(top)
  }
}

/**
 * How much light passes along the segment: 0 behind anything solid, the product of (1 - opacity) of cut-outs and thin
 * layers otherwise.
 */
export function transmittance(
  scene: usize,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  near: f32,
  far: f32,
  skip: i32,
): f32 {
  cast++
  let current = load<i32>(scene, L.SCENE_ROOT)
  if (current < 0) return 1
  let through: f32 = 1
  const nodes = <usize>load<u32>(scene, L.SCENE_NODES)
  const packets = <usize>load<u32>(scene, L.SCENE_PACKETS)
  const lanes = scratch + L.SCRATCH_LANES
  const base = scratch + L.SCRATCH_STACK
  let top = base
  let ix = safeInverse(dx)
  let iy = safeInverse(dy)
  let iz = safeInverse(dz)
  let invX = f32x4.splat(ix)
  let invY = f32x4.splat(iy)
  let invZ = f32x4.splat(iz)
  let vox = f32x4.splat(ox)
  let voy = f32x4.splat(oy)
  let voz = f32x4.splat(oz)
  let vdx = f32x4.splat(dx)
  let vdy = f32x4.splat(dy)
  let vdz = f32x4.splat(dz)
  let nearX: usize = ix < 0 ? 48 : 0
  let farX: usize = 48 - nearX
  let nearY: usize = iy < 0 ? 64 : 16
  let farY: usize = 80 - nearY
  let nearZ: usize = iz < 0 ? 80 : 32
  let farZ: usize = 112 - nearZ
  const vNear = f32x4.splat(near)
  const vFar = f32x4.splat(far)
  const wide = v128.load(widening)
  let place: usize = 0
  while (true) {
    if (current >= 0) {
      const node = nodes + <usize>current * L.NODE_STRIDE
      const n = f32x4.pmax(
        f32x4.pmax(
          f32x4.mul(f32x4.sub(v128.load(node + nearX), vox), invX),
          f32x4.mul(f32x4.sub(v128.load(node + nearY), voy), invY),
        ),
        f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(node + nearZ), voz), invZ), vNear),
      )
      const f = f32x4.pmin(
        f32x4.pmin(
          f32x4.mul(f32x4.sub(v128.load(node + farX), vox), invX),
          f32x4.mul(f32x4.sub(v128.load(node + farY), voy), invY),
        ),
        f32x4.pmin(f32x4.mul(f32x4.sub(v128.load(node + farZ), voz), invZ), vFar),
      )
      let mask = i32x4.bitmask(f32x4.le(n, f32x4.mul(f, wide)))
      if (mask) {
        let best = ctz(mask)
        mask &= mask - 1
        if (mask) {
          // The nearest first: what blocks is mostly near. The order of the others does not matter
          v128.store(lanes, n)
          let bestT = load<f32>(lanes + ((<usize>best) << 2))
          do {
            let lane = ctz(mask)
            mask &= mask - 1
            const t = load<f32>(lanes + ((<usize>lane) << 2))
            if (t < bestT) {
              const swap = best
              best = lane
              lane = swap
              bestT = t
            }
            store<i32>(top, load<i32>(node + ((<usize>lane) << 2), L.NODE_CHILD))
            top += 4
          } while (mask)
        }
        current = load<i32>(node + ((<usize>best) << 2), L.NODE_CHILD)
        continue
      }
    } else {
      const number = ~current
      if (number & L.PLACE_LEAF) {
        let x = ox
        let y = oy
        let z = oz
        let tx = dx
        let ty = dy
        let tz = dz
        if (current == LEAVE) place = 0
        else {
          place = <usize>load<u32>(scene, L.SCENE_PLACES) + <usize>(~current ^ L.PLACE_LEAF) * L.PLACE_STRIDE
          store<i32>(top, LEAVE)
          top += 4
          intoPlace(place, ox, oy, oz, 1)
          x = intoX
          y = intoY
          z = intoZ
          intoPlace(place, dx, dy, dz, 0)
          tx = intoX
          ty = intoY
          tz = intoZ
        }
        ix = safeInverse(tx)
        iy = safeInverse(ty)
        iz = safeInverse(tz)
        invX = f32x4.splat(ix)
        invY = f32x4.splat(iy)
        invZ = f32x4.splat(iz)
        vox = f32x4.splat(x)
        voy = f32x4.splat(y)
        voz = f32x4.splat(z)
        vdx = f32x4.splat(tx)
        vdy = f32x4.splat(ty)
        vdz = f32x4.splat(tz)
        nearX = ix < 0 ? 48 : 0
        farX = 48 - nearX
        nearY = iy < 0 ? 64 : 16
        farY = 80 - nearY
        nearZ = iz < 0 ? 80 : 32
        farZ = 112 - nearZ
        if (place) {
          current = load<i32>(place, L.PLACE_ROOT)
          continue
        }
      } else {
        const packet = packets + <usize>number * L.PACKET_STRIDE
        let mask = testPacket(packet, vox, voy, voz, vdx, vdy, vdz, near, far, skip, lanes)
        while (mask) {
          const lane = (<usize>ctz(mask)) << 2
          mask &= mask - 1
          if ((load<i32>(packet + lane, L.PACKET_FLAGS) & L.FLAG_TRANSPARENT) == 0) return 0
          through *=
            ONE -
            opacityAt(
              scene,
              place,
              load<i32>(packet + lane, L.PACKET_INDEX),
              load<f32>(lanes + lane, 80),
              load<f32>(lanes + lane, 96),
              dx,
              dy,
              dz,
            )
          if (through < 1e-4) return 0
        }
      }
    }
    if (top == base) return through
    top -= 4
    current = load<i32>(top)
  }
}
