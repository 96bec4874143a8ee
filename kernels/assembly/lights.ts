// Light sources: picking one, sampling it, and the density of having done so.
import { draw, randomX, randomY } from './random'
import { ONE } from './constants'
import { sampleSky, skyB, skyDensity, skyFrom, skyG, skyR, skyX, skyY, skyZ } from './environment'
import * as L from './layout'
import { chanceOf, pickLight, pickedChance } from './lighttree'
import { emissionAt, shiningR, shiningG, shiningB } from './shining'
import { sampleCone, outX, outY, outZ } from './facets'
import { besideTube, seenOfTube, tubeFar, tubeLong, tubeX, tubeY, tubeZ } from './tube'

const TAU: f32 = 6.28318531

export let towardsX: f32 = 0
export let towardsY: f32 = 0
export let towardsZ: f32 = 0
export let lightDistance: f32 = 0
export let lightR: f32 = 0
export let lightG: f32 = 0
export let lightB: f32 = 0
export let lightDensity: f32 = 0 // per solid angle, chance of picking included; 0 for lights without extent
export let lightIsSynthetic: bool = false // an emissive object rather than a lamp of the set
export let lightPointLike: bool = false
export let lightGroup: i32 = 0

/**
 * Samples one of the lights other than the environment as seen from the place of standAt; false where it gives nothing.
 */
export function sampleLight(scene: usize, x: f32, y: f32, z: f32, pick: f32, u: f32, v: f32): bool {
  const index = pickLight(scene, pick)
  return index >= 0 && sampleFrom(scene, index, pickedChance, x, y, z, u, v)
}

export let centreX: f32 = 0
export let centreY: f32 = 0
export let centreZ: f32 = 0
/** Leaves the middle of a light in centreX, Y, Z; false for a sun, which has none. */
export function centreOf(scene: usize, index: i32): bool {
  const light = <usize>load<u32>(scene, L.SCENE_LIGHTS) + <usize>index * L.LIGHT_STRIDE
  const kind = load<i32>(light)
  if (kind == 0) return false
  if (kind == 2) {
    const record = <usize>load<u32>(scene, L.SCENE_TRIANGLES) + <usize>load<i32>(light, L.LIGHT_U) * L.TRIANGLE_STRIDE
    centreX = 0
    centreY = 0
    centreZ = 0
    for (let corner: usize = 0; corner < 12; corner += 4) {
      const vertex = <usize>load<u32>(scene, L.SCENE_VERTICES) + <usize>load<u32>(record + corner) * L.VERTEX_STRIDE
      centreX += load<f32>(vertex) / 3
      centreY += load<f32>(vertex, 4) / 3
      centreZ += load<f32>(vertex, 8) / 3
    }
    return true
  }
  centreX = load<f32>(light, L.LIGHT_POSITION)
  centreY = load<f32>(light, L.LIGHT_POSITION + 4)
  centreZ = load<f32>(light, L.LIGHT_POSITION + 8)
  return true
}

/** Samples a light that was picked by that chance, as seen from a place; false where it gives nothing. */
export function sampleFrom(scene: usize, index: i32, chance: f32, x: f32, y: f32, z: f32, u: f32, v: f32): bool {
  const light = <usize>load<u32>(scene, L.SCENE_LIGHTS) + <usize>index * L.LIGHT_STRIDE
  const kind = load<i32>(light)
  lightR = load<f32>(light, L.LIGHT_RADIANCE)
  lightG = load<f32>(light, L.LIGHT_RADIANCE + 4)
  lightB = load<f32>(light, L.LIGHT_RADIANCE + 8)
  lightGroup = load<i32>(light, L.LIGHT_GROUP)
  lightIsSynthetic = false
  lightPointLike = false
  const nx = load<f32>(light, L.LIGHT_NORMAL)
  const ny = load<f32>(light, L.LIGHT_NORMAL + 4)
  const nz = load<f32>(light, L.LIGHT_NORMAL + 8)
  if (kind == 0) {
    const cosine = load<f32>(light, L.LIGHT_COSINE)
    sampleCone(-nx, -ny, -nz, cosine, u, v)
    towardsX = outX
    towardsY = outY
    towardsZ = outZ
    lightDistance = 1e30
    lightDensity = chance / load<f32>(light, L.LIGHT_AREA)
    return true
  }
  let px = load<f32>(light, L.LIGHT_POSITION)
  let py = load<f32>(light, L.LIGHT_POSITION + 4)
  let pz = load<f32>(light, L.LIGHT_POSITION + 8)
  let twoSided = false
  let fx = nx
  let fy = ny
  let fz = nz
  if (kind == 6) return sampleBall(light, x, y, z, chance, u, v)
  if (kind == 7) return sampleTube(light, x, y, z, chance, u, v)
  if (kind == 5) {
    const radius = sqrt<f32>(u)
    const angle = v * TAU
    const a = radius * Mathf.cos(angle)
    const b = radius * Mathf.sin(angle)
    px += load<f32>(light, L.LIGHT_U) * a + load<f32>(light, L.LIGHT_V) * b
    py += load<f32>(light, L.LIGHT_U + 4) * a + load<f32>(light, L.LIGHT_V + 4) * b
    pz += load<f32>(light, L.LIGHT_U + 8) * a + load<f32>(light, L.LIGHT_V + 8) * b
  } else if (kind == 1) {
    const a = u * 2 - 1
    const b = v * 2 - 1
    px += load<f32>(light, L.LIGHT_U) * a + load<f32>(light, L.LIGHT_V) * b
    py += load<f32>(light, L.LIGHT_U + 4) * a + load<f32>(light, L.LIGHT_V + 4) * b
    pz += load<f32>(light, L.LIGHT_U + 8) * a + load<f32>(light, L.LIGHT_V + 8) * b
  } else if (kind == 2) {
    const root = sqrt<f32>(u)
    const b1 = root * (ONE - v)
    const b2 = root * v
    const b0 = ONE - b1 - b2
    const triangle = load<i32>(light, L.LIGHT_U)
    const record = <usize>load<u32>(scene, L.SCENE_TRIANGLES) + <usize>triangle * L.TRIANGLE_STRIDE
    const vertices = <usize>load<u32>(scene, L.SCENE_VERTICES)
    const p = vertices + <usize>load<u32>(record) * L.VERTEX_STRIDE
    const q = vertices + <usize>load<u32>(record, 4) * L.VERTEX_STRIDE
    const r = vertices + <usize>load<u32>(record, 8) * L.VERTEX_STRIDE
    px = load<f32>(p) * b0 + load<f32>(q) * b1 + load<f32>(r) * b2
    py = load<f32>(p, 4) * b0 + load<f32>(q, 4) * b1 + load<f32>(r, 4) * b2
    pz = load<f32>(p, 8) * b0 + load<f32>(q, 8) * b1 + load<f32>(r, 8) * b2
    emissionAt(scene, triangle, b1, b2)
    lightR = shiningR
    lightG = shiningG
    lightB = shiningB
    twoSided = load<i32>(light, L.LIGHT_EDGE1) != 0
    lightIsSynthetic = true
  }
  let dx = px - x
  let dy = py - y
  let dz = pz - z
  const squared = dx * dx + dy * dy + dz * dz
  if (squared < 1e-12) return false
  const distance = sqrt<f32>(squared)
  const scale = ONE / distance
  dx *= scale
  dy *= scale
  dz *= scale
  towardsX = dx
  towardsY = dy
  towardsZ = dz
  lightDistance = distance
  let cosine = -(dx * fx + dy * fy + dz * fz)
  if (kind == 3 || kind == 4) {
    // Point and spot: radiance field holds intensity (W/sr); no extent, so no density
    lightPointLike = true
    let gain = ONE / (squared * chance)
    if (kind == 4) {
      gain *= coneGain(light, cosine)
    }
    lightR *= gain
    lightG *= gain
    lightB *= gain
    lightDensity = 1
    return gain > 0
  }
  if (twoSided) cosine = abs(cosine)
  if (cosine <= 1e-6) return false
  if (kind == 5 && !throughCone(light, cosine)) return false
  lightDensity = (chance * squared) / (load<f32>(light, L.LIGHT_AREA) * cosine)
  return true
}


@inline
function coneGain(light: usize, cosine: f32): f32 {
  const outer = load<f32>(light, L.LIGHT_COSINE)
  if (outer < -1) return 1
  const ramp = max<f32>(
    0,
    min<f32>(1, (cosine - outer) / max<f32>(1e-4, load<f32>(light, L.LIGHT_COSINE_INNER) - outer)),
  )
  return ramp * ramp
}
/**
 * Dims lightR, G, B by a disc's cone for the cosine from its axis; false outside. glTF KHR_lights_punctual, spot
 * falloff.
 */
@inline
function throughCone(light: usize, cosine: f32): bool {
  const gain = coneGain(light, cosine)
  lightR *= gain
  lightG *= gain
  lightB *= gain
  return gain > 0
}

/** Evenly over the solid angle that a ball fills, as seen from outside it. */
function sampleBall(light: usize, x: f32, y: f32, z: f32, chance: f32, u: f32, v: f32): bool {
  let dx = load<f32>(light, L.LIGHT_POSITION) - x
  let dy = load<f32>(light, L.LIGHT_POSITION + 4) - y
  let dz = load<f32>(light, L.LIGHT_POSITION + 8) - z
  const radius = load<f32>(light, L.LIGHT_U)
  const squared = dx * dx + dy * dy + dz * dz
  if (squared <= radius * radius * 1.0001) return false
  const distance = sqrt<f32>(squared)
  const scale = ONE / distance
  dx *= scale
  dy *= scale
  dz *= scale
  const sine2 = (radius * radius) / squared
  const cosine = sqrt<f32>(max<f32>(0, ONE - sine2))
  sampleCone(dx, dy, dz, cosine, u, v)
  towardsX = outX
  towardsY = outY
  towardsZ = outZ
  const along = outX * dx + outY * dy + outZ * dz
  lightDistance =
    distance * along - sqrt<f32>(max<f32>(0, radius * radius - squared * max<f32>(0, ONE - along * along)))
  lightDensity = chance * ballDensity(sine2, cosine)
  return lightDistance > 0
}
/** One over the solid angle of a ball, 2 pi (1 - cos), in a form that keeps its digits for small ones. */
@inline
function ballDensity(sine2: f32, cosine: f32): f32 {
  return (ONE + cosine) / (TAU * max<f32>(1e-12, sine2))
}

/** Evenly over that part of a tube's side that faces the place; its ends are dark. */
function sampleTube(light: usize, x: f32, y: f32, z: f32, chance: f32, u: f32, v: f32): bool {
  if (!besideTube(light, x, y, z)) return false
  const radius = load<f32>(light, L.LIGHT_U)
  const angle = (v * 2 - 1) * Mathf.acos(radius / tubeFar)
  const c = Mathf.cos(angle)
  const s = Mathf.sin(angle)
  const t = u * 2 - 1
  const scale = ONE / tubeLong
  const ax = load<f32>(light, L.LIGHT_V)
  const ay = load<f32>(light, L.LIGHT_V + 4)
  const az = load<f32>(light, L.LIGHT_V + 8)
  // Across: axis x beside
  const bx = (ay * tubeZ - az * tubeY) * scale
  const by = (az * tubeX - ax * tubeZ) * scale
  const bz = (ax * tubeY - ay * tubeX) * scale
  const nx = tubeX * c + bx * s
  const ny = tubeY * c + by * s
  const nz = tubeZ * c + bz * s
  let dx = load<f32>(light, L.LIGHT_POSITION) + ax * t + nx * radius - x
  let dy = load<f32>(light, L.LIGHT_POSITION + 4) + ay * t + ny * radius - y
  let dz = load<f32>(light, L.LIGHT_POSITION + 8) + az * t + nz * radius - z
  const squared = dx * dx + dy * dy + dz * dz
  const distance = sqrt<f32>(squared)
  if (distance < 1e-6) return false
  dx /= distance
  dy /= distance
  dz /= distance
  const cosine = -(dx * nx + dy * ny + dz * nz)
  if (cosine <= 1e-6) return false
  towardsX = dx
  towardsY = dy
  towardsZ = dz
  lightDistance = distance
  lightDensity = (chance * squared) / (seenOfTube(radius) * cosine)
  return true
}

/**
 * The next light of the set, from a number on, that a ray meets on its way (they have no triangles): sets lightR, G, B,
 * weighted against light sampling with the given density, and lightGroup. Returns the number to go on with, or 0 when
 * there is none.
 */
export function lightMet(
  scene: usize,
  from: i32,
  x: f32,
  y: f32,
  z: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  far: f32,
  density: f32,
): i32 {
  const count = load<i32>(scene, L.SCENE_LAMP_COUNT)
  for (let index = from; index < count; index++) {
    const light = <usize>load<u32>(scene, L.SCENE_LIGHTS) + <usize>index * L.LIGHT_STRIDE
    const kind = load<i32>(light)
    if (kind == 3 || kind == 4) continue
    const nx = load<f32>(light, L.LIGHT_NORMAL)
    const ny = load<f32>(light, L.LIGHT_NORMAL + 4)
    const nz = load<f32>(light, L.LIGHT_NORMAL + 8)
    const facing = -(dx * nx + dy * ny + dz * nz)
    let other: f32 = 0
    let dim: f32 = 1
    if (kind == 0) {
      if (far < 1e29 || facing < load<f32>(light, L.LIGHT_COSINE)) continue
      other = chanceOf(scene, index) / load<f32>(light, L.LIGHT_AREA)
    } else if (kind == 6) {
      const rx = load<f32>(light, L.LIGHT_POSITION) - x
      const ry = load<f32>(light, L.LIGHT_POSITION + 4) - y
      const rz = load<f32>(light, L.LIGHT_POSITION + 8) - z
      const radius = load<f32>(light, L.LIGHT_U)
      const squared = rx * rx + ry * ry + rz * rz
      const sine2 = (radius * radius) / squared
      if (sine2 >= 0.9999) continue
      const along = rx * dx + ry * dy + rz * dz
      const inside = radius * radius - (squared - along * along)
      if (along <= 0 || inside <= 0) continue
      const t = along - sqrt<f32>(inside)
      if (t <= 1e-4 || t >= far) continue
      other = chanceOf(scene, index) * ballDensity(sine2, sqrt<f32>(max<f32>(0, ONE - sine2)))
    } else if (kind == 7) {
      if (!besideTube(light, x, y, z)) continue
      const scale = ONE / tubeLong
      const radius = load<f32>(light, L.LIGHT_U)
      const ax = load<f32>(light, L.LIGHT_V) * scale
      const ay = load<f32>(light, L.LIGHT_V + 4) * scale
      const az = load<f32>(light, L.LIGHT_V + 8) * scale
      const lift = dx * ax + dy * ay + dz * az
      const ex = dx - ax * lift
      const ey = dy - ay * lift
      const ez = dz - az * lift
      const a = ex * ex + ey * ey + ez * ez
      if (a < 1e-12) continue
      const b = -(ex * tubeX + ey * tubeY + ez * tubeZ) * tubeFar
      const inside = b * b - a * (tubeFar * tubeFar - radius * radius)
      if (b <= 0 || inside <= 0) continue
      const t = (b - sqrt<f32>(inside)) / a
      if (t <= 1e-4 || t >= far) continue
      const sx = x - load<f32>(light, L.LIGHT_POSITION)
      const sy = y - load<f32>(light, L.LIGHT_POSITION + 4)
      const sz = z - load<f32>(light, L.LIGHT_POSITION + 8)
      if (abs(sx * ax + sy * ay + sz * az + lift * t) > tubeLong) continue
      const cosine =
        -(ex * (tubeX * tubeFar + ex * t) + ey * (tubeY * tubeFar + ey * t) + ez * (tubeZ * tubeFar + ez * t)) / radius
      if (cosine <= 1e-6) continue
      other = (chanceOf(scene, index) * t * t) / (seenOfTube(radius) * cosine)
    } else {
      if (facing <= 1e-6) continue
      const rx = load<f32>(light, L.LIGHT_POSITION) - x
      const ry = load<f32>(light, L.LIGHT_POSITION + 4) - y
      const rz = load<f32>(light, L.LIGHT_POSITION + 8) - z
      const t = -(rx * nx + ry * ny + rz * nz) / facing
      if (t <= 1e-4 || t >= far) continue
      const hx = dx * t - rx
      const hy = dy * t - ry
      const hz = dz * t - rz
      const ux = load<f32>(light, L.LIGHT_U)
      const uy = load<f32>(light, L.LIGHT_U + 4)
      const uz = load<f32>(light, L.LIGHT_U + 8)
      const vx = load<f32>(light, L.LIGHT_V)
      const vy = load<f32>(light, L.LIGHT_V + 4)
      const vz = load<f32>(light, L.LIGHT_V + 8)
      const hu = (hx * ux + hy * uy + hz * uz) / (ux * ux + uy * uy + uz * uz)
      const hv = (hx * vx + hy * vy + hz * vz) / (vx * vx + vy * vy + vz * vz)
      if (kind == 5 ? hu * hu + hv * hv > 1 : abs(hu) > 1 || abs(hv) > 1) continue
      if (kind == 5) dim = coneGain(light, facing)
      if (dim <= 0) continue
      other = (chanceOf(scene, index) * t * t) / (load<f32>(light, L.LIGHT_AREA) * facing)
    }
    const weight = ((density * density) / (density * density + other * other)) * dim
    lightR = load<f32>(light, L.LIGHT_RADIANCE) * weight
    lightG = load<f32>(light, L.LIGHT_RADIANCE + 4) * weight
    lightB = load<f32>(light, L.LIGHT_RADIANCE + 8) * weight
    lightGroup = load<i32>(light, L.LIGHT_GROUP)
    return index + 1
  }
  return 0
}

/** Light of the environment from a direction, in lightR, G, B. */
export function environmentFrom(scene: usize, dx: f32, dy: f32, dz: f32): void {
  skyFrom(scene, dx, dy, dz)
  lightR = skyR
  lightG = skyG
  lightB = skyB
}

/** Samples the environment by its brightness; false where it is black or absent. */
export function sampleEnvironment(scene: usize, u: f32, v: f32): bool {
  if (!sampleSky(scene, u, v)) return false
  towardsX = skyX
  towardsY = skyY
  towardsZ = skyZ
  lightR = skyR
  lightG = skyG
  lightB = skyB
  lightDensity = skyDensity
  lightDistance = 1e30
  lightGroup = load<i32>(scene, L.SCENE_ENVIRONMENT_GROUP)
  return true
}

/**
 * One sample of the light at the place of standAt: of the environment (turn 0), or of one of the lamps and shining
 * triangles (turn 1); two or three numbers are drawn.
 */
export function drawLight(scene: usize, turn: i32, dimension: u32, x: f32, y: f32, z: f32): bool {
  if (turn == 0) {
    draw(dimension)
    return sampleEnvironment(scene, randomX, randomY)
  }
  draw(dimension + 1)
  const pick = randomX
  draw(dimension + 2)
  return sampleLight(scene, x, y, z, pick, randomX, randomY)
}
