// Which lamp a place asks: a tree of lamps and shining triangles, walked by how much each branch may give there. Suns
// stand beside it.
// Source: A. Conty Estevez and C. Kulla, "Importance Sampling of Many Lights with Adaptive Tree Splitting" (2018); the
// bounds by cones are those of
// M. Pharr, W. Jakob and G. Humphreys, "Physically Based Rendering", 4th edition (2023), section 12.6.
import { angle } from './angles'
import { alongBeam, beamFirst, beamLast } from './beam'
import { ONE } from './constants'
import * as L from './layout'

// The place that asks, and the way it faces; no way: it takes light from all round
let fromX: f32 = 0
let fromY: f32 = 0
let fromZ: f32 = 0
let facingX: f32 = 0
let facingY: f32 = 0
let facingZ: f32 = 0
let faces = false
// A ray that asks for all its places between two: the way it goes, and those metres of it
let isRay = false
let wayX: f32 = 0
let wayY: f32 = 0
let wayZ: f32 = 0
let rayFirst: f32 = 0
let rayLast: f32 = 0
let root: usize = 0
// What suns and tree may give there
let ofSuns: f32 = 0
let ofTree: f32 = 0

/**
 * The place that lights are picked for from now on; facing is a unit vector, or 0, 0, 0 for a place that takes light
 * from all round.
 */
export function standAt(scene: usize, x: f32, y: f32, z: f32, nx: f32, ny: f32, nz: f32): void {
  fromX = x
  fromY = y
  fromZ = z
  facingX = nx
  facingY = ny
  facingZ = nz
  faces = nx != 0 || ny != 0 || nz != 0
  isRay = false
  ask(scene)
}
/**
 * A ray that lights are picked for from now on, for all of its places between two distances: what gives nothing at one
 * of them may give much at another.
 */
export function standAlong(
  scene: usize,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  first: f32,
  last: f32,
): void {
  fromX = ox
  fromY = oy
  fromZ = oz
  wayX = dx
  wayY = dy
  wayZ = dz
  rayFirst = first
  rayLast = last
  faces = false
  isRay = true
  ask(scene)
}
function ask(scene: usize): void {
  const suns = load<i32>(scene, L.SCENE_SUN_COUNT)
  ofSuns = 0
  for (let i = 0; i < suns; i++) ofSuns += sunGives(scene, i)
  const tree = <usize>load<u32>(scene, L.SCENE_LIGHT_TREE)
  root = tree
  ofTree = !tree
    ? 0
    : isRay && load<i32>(tree, L.TREE_LEFT) >= 0
      ? mayGive(branch(tree, L.TREE_LEFT)) + mayGive(branch(tree, L.TREE_RIGHT))
      : mayGive(tree)
}


@inline
function branch(node: usize, side: usize): usize {
  return root + <usize>load<i32>(node + side) * L.TREE_STRIDE
}

/** Irradiance of the i-th sun, which is light i. */
function sunGives(scene: usize, i: i32): f32 {
  const light = <usize>load<u32>(scene, L.SCENE_LIGHTS) + <usize>i * L.LIGHT_STRIDE
  const power = load<f32>(light, L.LIGHT_POWER)
  if (isRay) return power * (rayLast - rayFirst)
  if (!faces) return power
  const cosine = -(
    facingX * load<f32>(light, L.LIGHT_NORMAL) +
    facingY * load<f32>(light, L.LIGHT_NORMAL + 4) +
    facingZ * load<f32>(light, L.LIGHT_NORMAL + 8)
  )
  const edge = load<f32>(light, L.LIGHT_COSINE)
  return cosine < -sqrt<f32>(max<f32>(0, ONE - edge * edge)) ? 0 : power * max<f32>(<f32>0.02, cosine)
}


@inline
function sineOf(cosine: f32): f32 {
  return sqrt<f32>(max<f32>(0, ONE - cosine * cosine))
}
// Cosine and sine of max(0, a - b)
@inline
function cosineOfRest(sineA: f32, cosineA: f32, sineB: f32, cosineB: f32): f32 {
  return cosineA > cosineB ? ONE : cosineA * cosineB + sineA * sineB
}


@inline
function sineOfRest(sineA: f32, cosineA: f32, sineB: f32, cosineB: f32): f32 {
  return cosineA > cosineB ? <f32>0 : sineA * cosineB - cosineA * sineB
}

/** Most that a branch may give at the place, up to what stands between; 0 only where it gives nothing. */
function mayGive(node: usize): f32 {
  let wx = fromX - load<f32>(node, L.TREE_CENTRE)
  let wy = fromY - load<f32>(node, L.TREE_CENTRE + 4)
  let wz = fromZ - load<f32>(node, L.TREE_CENTRE + 8)
  const radius = load<f32>(node, L.TREE_RADIUS)
  const power = load<f32>(node, L.TREE_POWER)
  if (isRay) return alongGives(node, wx, wy, wz, radius, power)
  const squared = wx * wx + wy * wy + wz * wz
  const within = radius * radius
  // In its ball any side of it may be near: nothing is known but how large it is
  if (squared <= within) return power / max<f32>(1e-12, within)
  const scale = ONE / sqrt<f32>(squared)
  wx *= scale
  wy *= scale
  wz *= scale
  const cosineB = sqrt<f32>(max<f32>(0, ONE - within / squared))
  const sineB = sqrt<f32>(within / squared)
  const cosineO = load<f32>(node, L.TREE_CONE)
  let cosine: f32 = 1
  if (cosineO > -1) {
    const cosineW =
      wx * load<f32>(node, L.TREE_AXIS) + wy * load<f32>(node, L.TREE_AXIS + 4) + wz * load<f32>(node, L.TREE_AXIS + 8)
    const sineW = sineOf(cosineW)
    const sineO = sineOf(cosineO)
    const cosineX = cosineOfRest(sineW, cosineW, sineO, cosineO)
    const sineX = sineOfRest(sineW, cosineW, sineO, cosineO)
    cosine = cosineOfRest(sineX, cosineX, sineB, cosineB)
    if (cosine <= load<f32>(node, L.TREE_EMITS)) return 0
    cosine = max<f32>(cosine, <f32>1e-3)
  }
  if (faces) {
    const cosineI = -(wx * facingX + wy * facingY + wz * facingZ)
    const lit = cosineOfRest(sineOf(cosineI), cosineI, sineB, cosineB)
    if (lit <= 0) return 0
    cosine *= lit
  }
  return (power * cosine) / squared
}

/** So many branches down beams are asked one by one: what bounds several of them says little of a ray. */
const BEAMS_DEEP = 5
/** Of spots alone, as the tree is built (core/render/lighttree.ts). */
@inline
function areBeams(node: usize): bool {
  // Less than its cosine, which is less than 1 by half of that
  return load<f32>(node, L.TREE_EMITS) > <f32>(1 - L.BEAM_EMITS * L.BEAM_EMITS)
}
let deep = 0
/** What a branch may give to the ray: its power over the square of the distance, summed up along what it may light. */
function alongGives(node: usize, wx: f32, wy: f32, wz: f32, radius: f32, power: f32): f32 {
  let first = rayFirst
  let last = rayLast
  if (areBeams(node)) {
    if (load<i32>(node, L.TREE_LEFT) >= 0) {
      if (deep < BEAMS_DEEP) {
        deep++
        const both = mayGive(branch(node, L.TREE_LEFT)) + mayGive(branch(node, L.TREE_RIGHT))
        deep--
        return both
      }
    } else if (radius <= 0) {
      const cone = load<f32>(node, L.TREE_CONE)
      const emits = load<f32>(node, L.TREE_EMITS)
      const widest = cone * emits - sineOf(cone) * sineOf(emits)
      const axis = node + L.TREE_AXIS
      if (widest > 0) {
        if (
          !alongBeam(
            wx,
            wy,
            wz,
            wayX,
            wayY,
            wayZ,
            load<f32>(axis),
            load<f32>(axis, 4),
            load<f32>(axis, 8),
            widest,
            first,
            last,
          )
        )
          return 0
        first = beamFirst
        last = beamLast
      }
    }
  }
  const closest = -(wx * wayX + wy * wayY + wz * wayZ)
  const offX = wx + closest * wayX
  const offY = wy + closest * wayY
  const offZ = wz + closest * wayZ
  const off = sqrt<f32>(max<f32>(max<f32>(1e-8, radius * radius), offX * offX + offY * offY + offZ * offZ))
  return (power * max<f32>(1e-12, angle(last - closest, off) - angle(first - closest, off))) / off
}

/** How likely the last pick was. */
export let pickedChance: f32 = 0
/** Picks a light for the place by a number in [0, 1); below 0 when none can give anything there. */
export function pickLight(scene: usize, pick: f32): i32 {
  const all = ofSuns + ofTree
  if (!(all > 0)) return -1
  let value = pick * all
  pickedChance = 1
  if (value < ofSuns) {
    const suns = load<i32>(scene, L.SCENE_SUN_COUNT)
    for (let i = 0; i < suns; i++) {
      const gives = sunGives(scene, i)
      if (value < gives || (i == suns - 1 && gives > 0)) {
        pickedChance = gives / all
        return i
      }
      value -= gives
    }
  }
  if (!(ofTree > 0)) return -1
  pickedChance = ofTree / all
  value = min<f32>(<f32>0.9999999, max<f32>(0, (value - ofSuns) / ofTree))
  const tree = <usize>load<u32>(scene, L.SCENE_LIGHT_TREE)
  let node = tree
  while (load<i32>(node, L.TREE_LEFT) >= 0) {
    const left = tree + <usize>load<i32>(node, L.TREE_LEFT) * L.TREE_STRIDE
    const right = tree + <usize>load<i32>(node, L.TREE_RIGHT) * L.TREE_STRIDE
    const a = mayGive(left)
    const b = mayGive(right)
    if (!(a + b > 0)) return -1
    const share = a / (a + b)
    if (value < share) {
      node = left
      pickedChance *= share
      value = min<f32>(<f32>0.9999999, value / share)
    } else {
      node = right
      pickedChance *= ONE - share
      value = min<f32>(<f32>0.9999999, (value - share) / (ONE - share))
    }
  }
  return load<i32>(node, L.TREE_LIGHT)
}

/** How likely pickLight picks that light for the place. */
export function chanceOf(scene: usize, index: i32): f32 {
  const all = ofSuns + ofTree
  if (!(all > 0)) return 0
  if (index < load<i32>(scene, L.SCENE_SUN_COUNT)) return sunGives(scene, index) / all
  const tree = <usize>load<u32>(scene, L.SCENE_LIGHT_TREE)
  let node = tree
  let trail = load<u32>(<usize>load<u32>(scene, L.SCENE_LIGHTS) + <usize>index * L.LIGHT_STRIDE, L.LIGHT_TRAIL)
  let chance = ofTree / all
  while (load<i32>(node, L.TREE_LEFT) >= 0) {
    const left = tree + <usize>load<i32>(node, L.TREE_LEFT) * L.TREE_STRIDE
    const right = tree + <usize>load<i32>(node, L.TREE_RIGHT) * L.TREE_STRIDE
    const a = mayGive(left)
    const b = mayGive(right)
    if (!(a + b > 0)) return 0
    const share = a / (a + b)
    if (trail & 1) {
      node = right
      chance *= ONE - share
    } else {
      node = left
      chance *= share
    }
    trail >>= 1
  }
  return chance
}

/** Density of sampling an emissive triangle by sampleLight, given the hit distance and the cosine at it. */
export function emissiveDensity(scene: usize, index: i32, distance: f32, cosine: f32): f32 {
  const light = <usize>load<u32>(scene, L.SCENE_LIGHTS) + <usize>index * L.LIGHT_STRIDE
  return (chanceOf(scene, index) * distance * distance) / (load<f32>(light, L.LIGHT_AREA) * max<f32>(1e-6, cosine))
}
