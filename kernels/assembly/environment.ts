// Light of the environment: from a direction, and drawn by its brightness.
import { angle, polar } from './angles'
import { HALF, ONE, TWO } from './constants'
import * as L from './layout'

const TAU: f32 = 6.28318531
const PI: f32 = 3.14159265

export let skyX: f32 = 0
export let skyY: f32 = 0
export let skyZ: f32 = 0
export let skyR: f32 = 0
export let skyG: f32 = 0
export let skyB: f32 = 0
export let skyDensity: f32 = 0 // per solid angle


@inline
function pickCell(table: usize, count: i32, value: f32): i32 {
  // First index whose cumulative value exceeds `value`
  let low = 0
  let high = count - 1
  while (low < high) {
    const middle = (low + high) >> 1
    if (load<f32>(table + ((<usize>middle) << 2)) > value) high = middle
    else low = middle + 1
  }
  return low
}

// Place in the picture of the direction that skyFrom was asked for last
let placeU: f32 = 0
let placeV: f32 = 0
/** Light of the environment from a direction, in skyR, G, B. Picture centre lies towards -Z, up is +Y. */
export function skyFrom(scene: usize, dx: f32, dy: f32, dz: f32): void {
  if (!load<u32>(scene, L.SCENE_ENVIRONMENT)) {
    skyR = 0
    skyG = 0
    skyB = 0
    return
  }
  placeU = HALF + angle(dx, -dz) / TAU + load<f32>(scene, L.SCENE_ENVIRONMENT_TURN)
  placeU -= floor(placeU)
  placeV = polar(dy) / PI
  skyAt(scene, placeU, placeV)
}

/** Light of the environment from a place of its picture, u and v in 0..1 across and down. */
function skyAt(scene: usize, u: f32, v: f32): void {
  const pixels = <usize>load<u32>(scene, L.SCENE_ENVIRONMENT)
  const width = load<i32>(scene, L.SCENE_ENVIRONMENT_WIDTH)
  const height = load<i32>(scene, L.SCENE_ENVIRONMENT_HEIGHT)
  const x = u * <f32>width - 0.5
  const y = max<f32>(0, min<f32>(<f32>(height - 1), v * <f32>height - 0.5))
  const left = <i32>floor<f32>(x)
  const upper = min(height - 1, <i32>y)
  const fx = f32x4.splat(x - <f32>left)
  const fy = f32x4.splat(y - <f32>upper)
  const x0 = left < 0 ? width - 1 : min(left, width - 1)
  const x1 = left + 1 >= width ? 0 : left + 1
  const lower = min(height - 1, upper + 1)
  const row0 = pixels + ((<usize>upper * width) << 4)
  const row1 = pixels + ((<usize>lower * width) << 4)
  const a = v128.load(row0 + ((<usize>x0) << 4))
  const b = v128.load(row0 + ((<usize>x1) << 4))
  const c = v128.load(row1 + ((<usize>x0) << 4))
  const d = v128.load(row1 + ((<usize>x1) << 4))
  const top = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx))
  const bottom = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fx))
  const value = f32x4.add(top, f32x4.mul(f32x4.sub(bottom, top), fy))
  skyR = f32x4.extract_lane(value, 0) * load<f32>(scene, L.SCENE_ENVIRONMENT_GAIN)
  skyG = f32x4.extract_lane(value, 1) * load<f32>(scene, L.SCENE_ENVIRONMENT_GAIN + 4)
  skyB = f32x4.extract_lane(value, 2) * load<f32>(scene, L.SCENE_ENVIRONMENT_GAIN + 8)
}

/**
 * Density per solid angle of sampleSky towards the direction that skyFrom was asked for last, whose
 * height is dy.
 */
export function skyDensityTowards(scene: usize, dy: f32): f32 {
  const width = load<i32>(scene, L.SCENE_ENVIRONMENT_GRID_WIDTH)
  const height = load<i32>(scene, L.SCENE_ENVIRONMENT_GRID_HEIGHT)
  const x = min<i32>(width - 1, <i32>(placeU * <f32>width))
  const y = min<i32>(height - 1, <i32>(placeV * <f32>height))
  const sine = sqrt<f32>(max<f32>(1e-12, ONE - dy * dy))
  return (
    load<f32>(<usize>load<u32>(scene, L.SCENE_ENVIRONMENT_DENSITY) + ((<usize>(y * width + x)) << 2)) /
    (TWO * PI * PI * sine)
  )
}

/**
 * Samples the environment by its brightness into skyX, Y, Z, skyR, G, B and skyDensity; false where it is black or absent.
 */
export function sampleSky(scene: usize, u: f32, v: f32): bool {
  if (!load<u32>(scene, L.SCENE_ENVIRONMENT)) return false
  const width = load<i32>(scene, L.SCENE_ENVIRONMENT_GRID_WIDTH)
  const height = load<i32>(scene, L.SCENE_ENVIRONMENT_GRID_HEIGHT)
  const marginal = <usize>load<u32>(scene, L.SCENE_ENVIRONMENT_MARGINAL)
  const y = pickCell(marginal, height, v)
  const rowLow: f32 = y > 0 ? load<f32>(marginal + ((<usize>(y - 1)) << 2)) : 0
  const rowSpan = load<f32>(marginal + ((<usize>y) << 2)) - rowLow
  const conditional = <usize>load<u32>(scene, L.SCENE_ENVIRONMENT_CONDITIONAL) + ((<usize>(y * width)) << 2)
  const x = pickCell(conditional, width, u)
  const low: f32 = x > 0 ? load<f32>(conditional + ((<usize>(x - 1)) << 2)) : 0
  const span = load<f32>(conditional + ((<usize>x) << 2)) - low
  if (rowSpan <= 0 || span <= 0) return false
  const fu = (<f32>x + min<f32>(0.9999, (u - low) / span)) / <f32>width
  const fv = (<f32>y + min<f32>(0.9999, (v - rowLow) / rowSpan)) / <f32>height
  const theta = fv * PI
  const sine = Mathf.sin(theta)
  const phi = (fu - 0.5 - load<f32>(scene, L.SCENE_ENVIRONMENT_TURN)) * TAU
  skyX = Mathf.sin(phi) * sine
  skyY = Mathf.cos(theta)
  skyZ = -Mathf.cos(phi) * sine
  skyDensity =
    load<f32>(<usize>load<u32>(scene, L.SCENE_ENVIRONMENT_DENSITY) + ((<usize>(y * width + x)) << 2)) /
    (TWO * PI * PI * max<f32>(1e-6, sine))
  skyAt(scene, fu, fv)
  return skyDensity > 0
}
