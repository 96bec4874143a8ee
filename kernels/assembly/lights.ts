// Light sources: picking one, sampling it, and the density of having done so.
import { angle, polar } from './angles'
import { ONE, TWO, HALF } from './constants'
import { SCENE_LIGHTS, SCENE_LIGHT_COUNT, SCENE_LIGHT_CUMULATIVE, LIGHT_STRIDE, LIGHT_POSITION, LIGHT_NORMAL, LIGHT_U, LIGHT_V, LIGHT_RADIANCE,
  LIGHT_AREA, LIGHT_COSINE, LIGHT_CHANCE, LIGHT_COSINE_INNER, LIGHT_EDGE1, SCENE_ENVIRONMENT, SCENE_ENVIRONMENT_WIDTH, SCENE_ENVIRONMENT_HEIGHT,
  SCENE_ENVIRONMENT_MARGINAL, SCENE_ENVIRONMENT_CONDITIONAL, SCENE_ENVIRONMENT_GRID_WIDTH, SCENE_ENVIRONMENT_GRID_HEIGHT, SCENE_ENVIRONMENT_DENSITY,
  SCENE_ENVIRONMENT_TURN, SCENE_ENVIRONMENT_GAIN, SCENE_TRIANGLES, SCENE_VERTICES, TRIANGLE_STRIDE, VERTEX_STRIDE } from './layout'
import { emissionAt, emissionR, emissionG, emissionB } from './surface'
import { sampleCone, outX, outY, outZ } from './shading'

const TAU: f32 = 6.28318531
const PI: f32 = 3.14159265

export let towardsX: f32 = 0, towardsY: f32 = 0, towardsZ: f32 = 0
export let lightDistance: f32 = 0
export let lightR: f32 = 0, lightG: f32 = 0, lightB: f32 = 0
export let lightDensity: f32 = 0 // per solid angle, chance of picking included; 0 for lights without extent
export let lightIsSynthetic: bool = false // an emissive object rather than a lamp of the set
export let lightPointLike: bool = false

@inline function pickCell(table: usize, count: i32, value: f32): i32 {
  // First index whose cumulative value exceeds `value`
  let low = 0, high = count - 1
  while (low < high) {
    const middle = (low + high) >> 1
    if (load<f32>(table + (<usize>middle << 2)) > value) high = middle; else low = middle + 1
  }
  return low
}

/** Samples one of the lights other than the environment as seen from a point; false where it gives nothing. */
export function sampleLight(scene: usize, x: f32, y: f32, z: f32, pick: f32, u: f32, v: f32): bool {
  const count = load<i32>(scene, SCENE_LIGHT_COUNT)
  if (count == 0) return false
  const index = pickCell(<usize>load<u32>(scene, SCENE_LIGHT_CUMULATIVE), count, pick)
  const light = <usize>load<u32>(scene, SCENE_LIGHTS) + <usize>index * LIGHT_STRIDE
  const kind = load<i32>(light)
  const chance = load<f32>(light, LIGHT_CHANCE)
  lightR = load<f32>(light, LIGHT_RADIANCE); lightG = load<f32>(light, LIGHT_RADIANCE + 4); lightB = load<f32>(light, LIGHT_RADIANCE + 8)
  lightIsSynthetic = false
  lightPointLike = false
  const nx = load<f32>(light, LIGHT_NORMAL), ny = load<f32>(light, LIGHT_NORMAL + 4), nz = load<f32>(light, LIGHT_NORMAL + 8)
  if (kind == 0) {
    const cosine = load<f32>(light, LIGHT_COSINE)
    sampleCone(-nx, -ny, -nz, cosine, u, v)
    towardsX = outX; towardsY = outY; towardsZ = outZ
    lightDistance = 1e30
    lightDensity = chance / load<f32>(light, LIGHT_AREA)
    return true
  }
  let px = load<f32>(light, LIGHT_POSITION), py = load<f32>(light, LIGHT_POSITION + 4), pz = load<f32>(light, LIGHT_POSITION + 8)
  let twoSided = false
  let fx = nx, fy = ny, fz = nz
  if (kind == 1) {
    const a = u * 2 - 1, b = v * 2 - 1
    px += load<f32>(light, LIGHT_U) * a + load<f32>(light, LIGHT_V) * b
    py += load<f32>(light, LIGHT_U + 4) * a + load<f32>(light, LIGHT_V + 4) * b
    pz += load<f32>(light, LIGHT_U + 8) * a + load<f32>(light, LIGHT_V + 8) * b
  } else if (kind == 2) {
    const root = sqrt<f32>(u)
    const b1 = root * (ONE - v), b2 = root * v, b0 = ONE - b1 - b2
    const triangle = load<i32>(light, LIGHT_U)
    const record = <usize>load<u32>(scene, SCENE_TRIANGLES) + <usize>triangle * TRIANGLE_STRIDE
    const vertices = <usize>load<u32>(scene, SCENE_VERTICES)
    const p = vertices + <usize>load<u32>(record) * VERTEX_STRIDE, q = vertices + <usize>load<u32>(record, 4) * VERTEX_STRIDE
    const r = vertices + <usize>load<u32>(record, 8) * VERTEX_STRIDE
    px = load<f32>(p) * b0 + load<f32>(q) * b1 + load<f32>(r) * b2
    py = load<f32>(p, 4) * b0 + load<f32>(q, 4) * b1 + load<f32>(r, 4) * b2
    pz = load<f32>(p, 8) * b0 + load<f32>(q, 8) * b1 + load<f32>(r, 8) * b2
    emissionAt(scene, triangle, b1, b2)
    lightR = emissionR; lightG = emissionG; lightB = emissionB
    twoSided = load<i32>(light, LIGHT_EDGE1) != 0
    lightIsSynthetic = true
  }
  let dx = px - x, dy = py - y, dz = pz - z
  const squared = dx * dx + dy * dy + dz * dz
  if (squared < 1e-12) return false
  const distance = sqrt<f32>(squared), scale = ONE / distance
  dx *= scale; dy *= scale; dz *= scale
  towardsX = dx; towardsY = dy; towardsZ = dz
  lightDistance = distance
  let cosine = -(dx * fx + dy * fy + dz * fz)
  if (kind >= 3) {
    // Point and spot: radiance field holds intensity (W/sr); no extent, so no density
    lightPointLike = true
    let gain = ONE / (squared * chance)
    if (kind == 4) {
      const outer = load<f32>(light, LIGHT_COSINE), inner = load<f32>(light, LIGHT_COSINE_INNER)
      // glTF KHR_lights_punctual, spot falloff
      const ramp = max<f32>(0, min<f32>(1, (cosine - outer) / max<f32>(1e-4, inner - outer)))
      gain *= ramp * ramp
    }
    lightR *= gain; lightG *= gain; lightB *= gain
    lightDensity = 1
    return gain > 0
  }
  if (twoSided) cosine = abs(cosine)
  if (cosine <= 1e-6) return false
  lightDensity = chance * squared / (load<f32>(light, LIGHT_AREA) * cosine)
  return true
}

/** Density of sampling an emissive triangle by sampleLight, given the hit distance and the cosine at it. */
export function emissiveDensity(scene: usize, index: i32, distance: f32, cosine: f32): f32 {
  const light = <usize>load<u32>(scene, SCENE_LIGHTS) + <usize>index * LIGHT_STRIDE
  return load<f32>(light, LIGHT_CHANCE) * distance * distance / (load<f32>(light, LIGHT_AREA) * max<f32>(1e-6, cosine))
}

/**
 * Lights of the set that a ray meets on its way (suns and soft boxes have no triangles): sets lightR, G, B to the sum
 * weighted against light sampling with the given density. True when there is any.
 */
export function lightsMet(scene: usize, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, far: f32, density: f32): bool {
  const count = load<i32>(scene, SCENE_LIGHT_COUNT)
  lightR = 0; lightG = 0; lightB = 0
  let any = false
  for (let index = 0; index < count; index++) {
    const light = <usize>load<u32>(scene, SCENE_LIGHTS) + <usize>index * LIGHT_STRIDE
    const kind = load<i32>(light)
    if (kind > 1) continue
    const nx = load<f32>(light, LIGHT_NORMAL), ny = load<f32>(light, LIGHT_NORMAL + 4), nz = load<f32>(light, LIGHT_NORMAL + 8)
    const facing = -(dx * nx + dy * ny + dz * nz)
    let other: f32 = 0
    if (kind == 0) {
      if (far < 1e29 || facing < load<f32>(light, LIGHT_COSINE)) continue
      other = load<f32>(light, LIGHT_CHANCE) / load<f32>(light, LIGHT_AREA)
    } else {
      if (facing <= 1e-6) continue
      const rx = load<f32>(light, LIGHT_POSITION) - x, ry = load<f32>(light, LIGHT_POSITION + 4) - y, rz = load<f32>(light, LIGHT_POSITION + 8) - z
      const t = -(rx * nx + ry * ny + rz * nz) / facing
      if (t <= 1e-4 || t >= far) continue
      const hx = dx * t - rx, hy = dy * t - ry, hz = dz * t - rz
      const ux = load<f32>(light, LIGHT_U), uy = load<f32>(light, LIGHT_U + 4), uz = load<f32>(light, LIGHT_U + 8)
      const vx = load<f32>(light, LIGHT_V), vy = load<f32>(light, LIGHT_V + 4), vz = load<f32>(light, LIGHT_V + 8)
      if (abs(hx * ux + hy * uy + hz * uz) > ux * ux + uy * uy + uz * uz) continue
      if (abs(hx * vx + hy * vy + hz * vz) > vx * vx + vy * vy + vz * vz) continue
      other = load<f32>(light, LIGHT_CHANCE) * t * t / (load<f32>(light, LIGHT_AREA) * facing)
    }
    const weight = density * density / (density * density + other * other)
    lightR += load<f32>(light, LIGHT_RADIANCE) * weight
    lightG += load<f32>(light, LIGHT_RADIANCE + 4) * weight
    lightB += load<f32>(light, LIGHT_RADIANCE + 8) * weight
    any = true
  }
  return any
}

/** Light of the environment from a direction, in lightR, G, B. Picture centre lies towards -Z, up is +Y. */
export function environmentFrom(scene: usize, dx: f32, dy: f32, dz: f32): void {
  const pixels = <usize>load<u32>(scene, SCENE_ENVIRONMENT)
  if (!pixels) { lightR = 0; lightG = 0; lightB = 0; return }
  const width = load<i32>(scene, SCENE_ENVIRONMENT_WIDTH), height = load<i32>(scene, SCENE_ENVIRONMENT_HEIGHT)
  let u = HALF + angle(dx, -dz) / TAU + load<f32>(scene, SCENE_ENVIRONMENT_TURN)
  u -= floor(u)
  const v = polar(dy) / PI
  const x = u * <f32>width - 0.5, y = max<f32>(0, min<f32>(<f32>(height - 1), v * <f32>height - 0.5))
  const left = <i32>floor<f32>(x), upper = min(height - 1, <i32>y)
  const fx = f32x4.splat(x - <f32>left), fy = f32x4.splat(y - <f32>upper)
  const x0 = left < 0 ? width - 1 : min(left, width - 1), x1 = left + 1 >= width ? 0 : left + 1
  const lower = min(height - 1, upper + 1)
  const row0 = pixels + ((<usize>upper * width) << 4), row1 = pixels + ((<usize>lower * width) << 4)
  const a = v128.load(row0 + (<usize>x0 << 4)), b = v128.load(row0 + (<usize>x1 << 4))
  const c = v128.load(row1 + (<usize>x0 << 4)), d = v128.load(row1 + (<usize>x1 << 4))
  const top = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx)), bottom = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fx))
  const value = f32x4.add(top, f32x4.mul(f32x4.sub(bottom, top), fy))
  lightR = f32x4.extract_lane(value, 0) * load<f32>(scene, SCENE_ENVIRONMENT_GAIN)
  lightG = f32x4.extract_lane(value, 1) * load<f32>(scene, SCENE_ENVIRONMENT_GAIN + 4)
  lightB = f32x4.extract_lane(value, 2) * load<f32>(scene, SCENE_ENVIRONMENT_GAIN + 8)
}

/** Density per solid angle of sampleEnvironment towards a direction. */
export function environmentDensity(scene: usize, dx: f32, dy: f32, dz: f32): f32 {
  const width = load<i32>(scene, SCENE_ENVIRONMENT_GRID_WIDTH), height = load<i32>(scene, SCENE_ENVIRONMENT_GRID_HEIGHT)
  let u = HALF + angle(dx, -dz) / TAU + load<f32>(scene, SCENE_ENVIRONMENT_TURN)
  u -= floor(u)
  const v = polar(dy) / PI
  const x = min<i32>(width - 1, <i32>(u * <f32>width)), y = min<i32>(height - 1, <i32>(v * <f32>height))
  const sine = sqrt<f32>(max<f32>(1e-12, ONE - dy * dy))
  return load<f32>(<usize>load<u32>(scene, SCENE_ENVIRONMENT_DENSITY) + (<usize>(y * width + x) << 2)) / (TWO * PI * PI * sine)
}

/** Samples the environment by its brightness into towards, light and lightDensity; false where it is black or absent. */
export function sampleEnvironment(scene: usize, u: f32, v: f32): bool {
  if (!load<u32>(scene, SCENE_ENVIRONMENT)) return false
  const width = load<i32>(scene, SCENE_ENVIRONMENT_GRID_WIDTH), height = load<i32>(scene, SCENE_ENVIRONMENT_GRID_HEIGHT)
  const marginal = <usize>load<u32>(scene, SCENE_ENVIRONMENT_MARGINAL)
  const y = pickCell(marginal, height, v)
  const rowLow: f32 = y > 0 ? load<f32>(marginal + (<usize>(y - 1) << 2)) : 0
  const rowSpan = load<f32>(marginal + (<usize>y << 2)) - rowLow
  const conditional = <usize>load<u32>(scene, SCENE_ENVIRONMENT_CONDITIONAL) + (<usize>(y * width) << 2)
  const x = pickCell(conditional, width, u)
  const low: f32 = x > 0 ? load<f32>(conditional + (<usize>(x - 1) << 2)) : 0
  const span = load<f32>(conditional + (<usize>x << 2)) - low
  if (rowSpan <= 0 || span <= 0) return false
  const fu = (<f32>x + min<f32>(0.9999, (u - low) / span)) / <f32>width
  const fv = (<f32>y + min<f32>(0.9999, (v - rowLow) / rowSpan)) / <f32>height
  const theta = fv * PI, sine = Mathf.sin(theta)
  const phi = (fu - 0.5 - load<f32>(scene, SCENE_ENVIRONMENT_TURN)) * TAU
  towardsX = Mathf.sin(phi) * sine; towardsY = Mathf.cos(theta); towardsZ = -Mathf.cos(phi) * sine
  lightDensity = load<f32>(<usize>load<u32>(scene, SCENE_ENVIRONMENT_DENSITY) + (<usize>(y * width + x) << 2)) / (TWO * PI * PI * max<f32>(1e-6, sine))
  lightDistance = 1e30
  environmentFrom(scene, towardsX, towardsY, towardsZ)
  return lightDensity > 0
}
