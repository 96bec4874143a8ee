// The one compiled module. Kernels are started band by band through runBand (core/engine/pool.ts).
import { initRandom, startSample, draw, randomX, randomY } from './random'
import { initTraverse, closestHit, transmittance, hitDistance, hitTriangle, hitU, hitV } from './traverse'
import { initCodes } from './codes'
import { initVertex } from './vertex'
import { chanceOf, pickLight, standAt } from './lighttree'
import { initCatcher } from './catcher'
import { initBehind } from './behind'
import { initBilateral } from './image/bilateral'
import { initBoxColumns } from './image/boxColumns'
import { initFocus } from './image/focus'
import { initAlikeFrames } from './image/alikeFrames'
import { initAlikePatches } from './image/alikePatches'
import { initKuwahara } from './image/kuwahara'
import { initMedian } from './image/median'
import { initMedium } from './medium'
import { initVolume } from './volume'
import { initProgram } from './program'

export { restoreBytes } from './bytes'
export { casts, resetCasts } from './traverse'
export { runBand } from './program'
export { denoiseRoom } from './image/denoise'
export { beginHierarchy, boundsOut, buildPlaces, buildTriangles, builtNodes, builtPackets } from './hierarchy'

export function heapBase(): usize {
  return __heap_base
}

/** Once per worker: scratch is its own room of SCRATCH_SIZE bytes; thread counts from 0. */
export function initWorker(scratch: usize, thread: i32): void {
  initProgram(scratch, thread)
  initRandom()
  initTraverse(scratch)
  initCodes()
  initVertex(scratch)
  initCatcher(scratch)
  initBehind(scratch)
  initBilateral(scratch)
  initBoxColumns(scratch)
  initFocus(scratch)
  initAlikeFrames(scratch)
  initAlikePatches(scratch)
  initKuwahara(scratch)
  initMedian(scratch)
  initMedium(scratch)
  initVolume(scratch)
}

/** One pair of sample numbers, for tests of their distribution. */
export function sampleNumber(x: i32, y: i32, index: i32, seed: i32, pair: i32, second: i32): f32 {
  startSample(x, y, index, seed)
  draw(pair)
  return second ? randomY : randomX
}

/**
 * Which light a place (facing a way, or 0, 0, 0) asks for a number in [0, 1), below 0 for none; and how likely it asks
 * a light: for tests of the tree.
 */
export function lightPicked(scene: usize, x: f32, y: f32, z: f32, nx: f32, ny: f32, nz: f32, pick: f32): i32 {
  standAt(scene, x, y, z, nx, ny, nz)
  return pickLight(scene, pick)
}
export function lightChance(scene: usize, x: f32, y: f32, z: f32, nx: f32, ny: f32, nz: f32, light: i32): f32 {
  standAt(scene, x, y, z, nx, ny, nz)
  return chanceOf(scene, light)
}

/**
 * Many rays at once, for measuring and tests: 8 floats each in (origin, near, direction, far), 4 out (distance or -1,
 * triangle, u, v).
 */
export function castRays(scene: usize, rays: usize, out: usize, count: i32, any: i32): void {
  for (let i = 0; i < count; i++) {
    const ray = rays + ((<usize>i) << 5)
    const to = out + ((<usize>i) << 4)
    const ox = load<f32>(ray)
    const oy = load<f32>(ray, 4)
    const oz = load<f32>(ray, 8)
    const near = load<f32>(ray, 12)
    const dx = load<f32>(ray, 16)
    const dy = load<f32>(ray, 20)
    const dz = load<f32>(ray, 24)
    const far = load<f32>(ray, 28)
    if (any) {
      store<f32>(to, transmittance(scene, ox, oy, oz, dx, dy, dz, near, far, 0))
      continue
    }
    const hit = closestHit(scene, ox, oy, oz, dx, dy, dz, near, far, 0)
    store<f32>(to, hit ? hitDistance : -1)
    store<i32>(to, hitTriangle, 4)
    store<f32>(to, hitU, 8)
    store<f32>(to, hitV, 12)
  }
}
