// Rays against the four-wide hierarchy: closest hit, and transmittance along a segment (any hit).
// Slab test on four boxes at a time.
import { ONE } from './constants'
import * as L from './layout'
import { opacityAt } from './opacity'
import { intoPlace, intoX, intoY, intoZ, safeInverse, testPacket } from './packet'

export let hitDistance: f32 = 0
export let hitTriangle: i32 = -1
/** Place record of the mesh that was hit; 0 where the triangle stands in the world itself. */
export let hitPlace: usize = 0
export let hitU: f32 = 0
export let hitV: f32 = 0
let scratch: usize = 0
// Kept in memory: a vector spelled out in the code is put together anew at every use
const widening = memory.data<f32>([1.0000004, 1.0000004, 1.0000004, 1.0000004], 16)

export function initTraverse(pointer: usize): void {
  scratch = pointer
}

/** On the stack below what belongs to a place: the ray goes on in the world. */
const LEAVE: i32 = ~0x7fffffff

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
