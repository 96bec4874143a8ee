// Where samples are kept: sums of a pixel, coverage by name, and the camera that rays leave from.
import { byRows, outX, outY, outZ } from './vertex'
import { ONE, HALF } from './constants'
import * as L from './layout'
import * as S from './surface'


@inline
export function add(pixel: usize, field: usize, r: f32, g: f32, b: f32): void {
  const at = pixel + (field << 2)
  store<f32>(at, load<f32>(at) + r)
  store<f32>(at, load<f32>(at, 4) + g, 4)
  store<f32>(at, load<f32>(at, 8) + b, 8)
}


@inline
export function clampScale(r: f32, g: f32, b: f32, limit: f32): f32 {
  const top = max(r, max(g, b))
  // NaN falls through to 0: one bad sample must not blacken a pixel for ever
  return top >= 0 && top < 1e30 ? (limit > 0 && top > limit ? limit / top : 1) : 0
}

/** Distance to go on along a ray past what it met at `distance`: what that distance is known to counts too. */
@inline
export function stepOn(distance: f32): f32 {
  return distance + stepOff() + distance * <f32>1e-6
}

/** Distance to step off the loaded surface: what the roundings of its corners' coordinates leave open, and no more. */
@inline
export function stepOff(): f32 {
  return S.surfaceStep
}

/** Adds a share to the slot of a name; when all are taken the smallest gives way. */
export function addCoverage(at: usize, slots: i32, index: i32, weight: f32): void {
  let smallest = at
  for (let slot = 0; slot < slots; slot++) {
    const here = at + ((<usize>slot) << 3)
    const held = load<i32>(here)
    if (held == index || held == 0) {
      store<i32>(here, index)
      store<f32>(here, load<f32>(here, 4) + weight, 4)
      return
    }
    if (load<f32>(here, 4) < load<f32>(smallest, 4)) smallest = here
  }
  if (load<f32>(smallest, 4) < weight) {
    store<i32>(smallest, index)
    store<f32>(smallest, weight, 4)
  }
}

// The ray through a place of the picture: where it begins, and its way, of unit length
export let originX: f32 = 0
export let originY: f32 = 0
export let originZ: f32 = 0
export let rayX: f32 = 0
export let rayY: f32 = 0
export let rayZ: f32 = 0


@inline
export function aim(render: usize, px: f32, py: f32): void {
  const width = <f32>load<i32>(render, L.RENDER_WIDTH)
  const height = <f32>load<i32>(render, L.RENDER_HEIGHT)
  const a = ((px / width) * 2 - 1 + load<f32>(render, L.RENDER_SHIFT_X)) * load<f32>(render, L.RENDER_TAN_X)
  const b = (ONE - (py / height) * 2 + load<f32>(render, L.RENDER_SHIFT_Y)) * load<f32>(render, L.RENDER_TAN_Y)
  const camera = render + L.RENDER_CAMERA
  const x = load<f32>(camera, 12) * a + load<f32>(camera, 24) * b - load<f32>(camera, 36)
  const y = load<f32>(camera, 16) * a + load<f32>(camera, 28) * b - load<f32>(camera, 40)
  const z = load<f32>(camera, 20) * a + load<f32>(camera, 32) * b - load<f32>(camera, 44)
  const scale = ONE / sqrt<f32>(x * x + y * y + z * z)
  rayX = x * scale
  rayY = y * scale
  rayZ = z * scale
  originX = load<f32>(camera)
  originY = load<f32>(camera, 4)
  originZ = load<f32>(camera, 8)
}

/** The same ray through a place of the lens, counted to the right and up in metres: it meets the plane of focus there. */
export function throughLens(render: usize, across: f32, up: f32): void {
  const camera = render + L.RENDER_CAMERA
  const way = load<f32>(render, L.RENDER_FOCUS) / axial(render, 1)
  const dx = load<f32>(camera, 12) * across + load<f32>(camera, 24) * up
  const dy = load<f32>(camera, 16) * across + load<f32>(camera, 28) * up
  const dz = load<f32>(camera, 20) * across + load<f32>(camera, 32) * up
  const x = rayX * way - dx
  const y = rayY * way - dy
  const z = rayZ * way - dz
  const scale = ONE / sqrt<f32>(x * x + y * y + z * z)
  rayX = x * scale
  rayY = y * scale
  rayZ = z * scale
  originX += dx
  originY += dy
  originZ += dz
}

/** Distance along the view axis of a hit at `distance` along the current ray. */
@inline
export function axial(render: usize, distance: f32): f32 {
  const camera = render + L.RENDER_CAMERA
  return -distance * (rayX * load<f32>(camera, 36) + rayY * load<f32>(camera, 40) + rayZ * load<f32>(camera, 44))
}

// Where a place of the world appears to a camera (RENDER_CAMERA with what follows it, or RENDER_NEXT, RENDER_PREVIOUS),
// pixels
let seenX: f32 = 0
let seenY: f32 = 0
function project(render: usize, camera: usize, tangents: usize, x: f32, y: f32, z: f32): bool {
  const vx = x - load<f32>(camera)
  const vy = y - load<f32>(camera, 4)
  const vz = z - load<f32>(camera, 8)
  const ahead = -(load<f32>(camera, 36) * vx + load<f32>(camera, 40) * vy + load<f32>(camera, 44) * vz)
  if (ahead < 1e-6) return false
  const across =
    (load<f32>(camera, 12) * vx + load<f32>(camera, 16) * vy + load<f32>(camera, 20) * vz) /
    (ahead * load<f32>(tangents))
  const up =
    (load<f32>(camera, 24) * vx + load<f32>(camera, 28) * vy + load<f32>(camera, 32) * vz) /
    (ahead * load<f32>(tangents, 4))
  seenX = (across - load<f32>(tangents, 8) + ONE) * HALF * <f32>load<i32>(render, L.RENDER_WIDTH)
  seenY = (ONE + load<f32>(tangents, 12) - up) * HALF * <f32>load<i32>(render, L.RENDER_HEIGHT)
  return true
}

// Where the loaded surface is at another frame, of which positions and places are
let thereX: f32 = 0
let thereY: f32 = 0
let thereZ: f32 = 0
function goThere(scene: usize, positions: usize, places: usize): void {
  if (S.surfacePlace) {
    // A mesh that stands in several places keeps its shape: from the world into its space, and out again where the
    // place is then
    byRows(S.surfacePlace + L.PLACE_INTO, S.positionX, S.positionY, S.positionZ, 1)
    if (!places) {
      stay()
      return
    }
    byRows(
      places + ((S.surfacePlace - <usize>load<u32>(scene, L.SCENE_PLACES)) / L.PLACE_STRIDE) * L.PLACE_ROWS,
      outX,
      outY,
      outZ,
      1,
    )
    thereX = outX
    thereY = outY
    thereZ = outZ
  } else {
    if (!positions) {
      stay()
      return
    }
    const record = <usize>load<u32>(scene, L.SCENE_TRIANGLES) + <usize>S.surfaceTriangle * L.TRIANGLE_STRIDE
    const u = S.barycentricU
    const v = S.barycentricV
    const w = ONE - u - v
    const a = positions + <usize>load<u32>(record) * 12
    const b = positions + <usize>load<u32>(record, 4) * 12
    const c = positions + <usize>load<u32>(record, 8) * 12
    thereX = load<f32>(a) * w + load<f32>(b) * u + load<f32>(c) * v
    thereY = load<f32>(a, 4) * w + load<f32>(b, 4) * u + load<f32>(c, 4) * v
    thereZ = load<f32>(a, 8) * w + load<f32>(b, 8) * u + load<f32>(c, 8) * v
  }
}
function stay(): void {
  thereX = S.positionX
  thereY = S.positionY
  thereZ = S.positionZ
}

/**
 * Where the loaded surface is at another frame, as seen by that frame's camera, less where it is seen now: into `to`.
 * Zero when it is behind a camera.
 */
function keepMotion(scene: usize, render: usize, positions: usize, places: usize, camera: usize, to: usize): void {
  goThere(scene, positions, places)
  if (!project(render, render + L.RENDER_CAMERA, render + L.RENDER_TAN_X, S.positionX, S.positionY, S.positionZ)) return
  const nowX = seenX
  const nowY = seenY
  if (!project(render, camera, camera + 48, thereX, thereY, thereZ)) return
  store<f32>(to, seenX - nowX)
  store<f32>(to, seenY - nowY, 4)
}

/** Keeps place, texture coordinates, motion and place on the thing of the loaded surface as the pixel's. */
export function keepPlace(scene: usize, render: usize, pixel: usize): void {
  const rest = load<i32>(render, L.RENDER_REST)
  if (rest) {
    goThere(scene, <usize>load<u32>(scene, L.SCENE_REST), <usize>load<u32>(scene, L.SCENE_PLACES_REST))
    const at = pixel + ((<usize>rest) << 2)
    store<f32>(at, thereX)
    store<f32>(at, thereY, 4)
    store<f32>(at, thereZ, 8)
  }
  const begin = load<i32>(render, L.RENDER_PLACE)
  if (!begin) return
  const at = pixel + ((<usize>begin) << 2)
  store<f32>(at, S.positionX)
  store<f32>(at, S.positionY, 4)
  store<f32>(at, S.positionZ, 8)
  store<f32>(at, S.texU, L.PLACE_UV << 2)
  store<f32>(at, S.texV, (L.PLACE_UV + 1) << 2)
  if (!(load<i32>(render, L.RENDER_FLAGS) & L.DO_MOTION)) return
  keepMotion(
    scene,
    render,
    <usize>load<u32>(scene, L.SCENE_NEXT),
    <usize>load<u32>(scene, L.SCENE_PLACES_NEXT),
    render + L.RENDER_NEXT,
    at + (L.PLACE_FORWARD << 2),
  )
  keepMotion(
    scene,
    render,
    <usize>load<u32>(scene, L.SCENE_PREVIOUS),
    <usize>load<u32>(scene, L.SCENE_PLACES_PREVIOUS),
    render + L.RENDER_PREVIOUS,
    at + (L.PLACE_BACK << 2),
  )
}
