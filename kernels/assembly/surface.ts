// What a hit triangle is made of: interpolated geometry, textures, opacity.
import { ONE } from './constants'
import * as L from './layout'
import {
  SCENE_OBJECTS,
  OBJECT_STRIDE,
  OBJECT_FLAGS,
  OBJECT_PRINTS,
  OBJECT_PRINT_COUNT,
  PRINT_STRIDE,
  PRINT_U,
  PRINT_V,
  PRINT_W,
  PRINT_FROM,
  PRINT_PERSPECTIVE,
  PRINT_NEAR,
  PRINT_FAR,
  PRINT_TEXTURE,
  PRINT_INSTEAD,
  PRINT_ROUGHNESS,
  PRINT_OPACITY,
  PRINT_NEAREST,
  PRINT_BIAS,
  PRINT_CELLS,
  SCENE_PLATE,
  SCENE_PLATE_WIDTH,
  SCENE_PLATE_HEIGHT,
  SCENE_PLATE_U,
  SCENE_PLATE_V,
  SCENE_PLATE_W,
  SCENE_PLATE_MEAN,
  SCENE_TRIANGLES,
  SCENE_VERTICES,
  SCENE_MATERIALS,
  SCENE_TEXTURES,
  TRIANGLE_STRIDE,
  VERTEX_STRIDE,
  SCRATCH_STANDING,
  PLACE_INTO,
  PLACE_OUT,
  PLACE_OBJECT,
  MATERIAL_STRIDE,
  MATERIAL_BASE,
  MATERIAL_METALLIC,
  MATERIAL_ROUGHNESS,
  MATERIAL_EMISSION,
  MATERIAL_ALPHA_MODE,
  MATERIAL_CUTOFF,
  MATERIAL_NORMAL_SCALE,
  MATERIAL_TEXTURE_BASE,
  MATERIAL_TEXTURE_ROUGHNESS,
  MATERIAL_TEXTURE_NORMAL,
  MATERIAL_TEXTURE_EMISSION,
  MATERIAL_DOUBLE_SIDED,
  MATERIAL_TRANSMISSION,
  MATERIAL_IOR,
  MATERIAL_GLASS,
  MATERIAL_TEXTURE_TRANSMISSION,
  MATERIAL_ABSORB,
  MATERIAL_GLASS_TABLE,
  MATERIAL_SPECULAR,
  MATERIAL_SPECULAR_STRENGTH,
  MATERIAL_COAT,
  MATERIAL_COAT_ALPHA,
  MATERIAL_SHEEN,
  MATERIAL_SHEEN_ALPHA,
  GLASS_PANE,
  TEXTURE_STRIDE,
  TEXTURE_WIDTH,
  TEXTURE_HEIGHT,
  TEXTURE_SET,
  TEXTURE_MOVE,
  SCENE_EXTRA,
  EXTRA_STRIDE,
  EXTRA_COLOUR,
  TEXTURE_SRGB,
  TEXTURE_WRAP_S,
  TEXTURE_WRAP_T,
} from './layout'

const LINEAR = memory.data(1024) // value of each 8-bit code, sRGB decoded (IEC 61966-2-1)
const PLAIN = memory.data(1024) // value of each 8-bit code, as it stands
let fetched: v128 = i32x4.splat(0)

export function initSurface(scratch: usize): void {
  standing = scratch + SCRATCH_STANDING
  for (let code = 0; code < 256; code++) {
    const value = <f64>code / 255
    store<f32>(PLAIN + (code << 2), <f32>value)
    store<f32>(LINEAR + (code << 2), <f32>(value <= 0.04045 ? value / 12.92 : Math.pow((value + 0.055) / 1.055, 2.4)))
  }
}


@inline
function wrap(index: i32, size: i32, mode: i32): i32 {
  if (mode == 1) return max(0, min(size - 1, index))
  if (mode == 2) {
    const period = size << 1
    let folded = index % period
    if (folded < 0) folded += period
    return folded < size ? folded : period - 1 - folded
  }
  const rest = index % size
  return rest < 0 ? rest + size : rest
}


@inline
function texel(pixels: usize, table: usize, x: i32, y: i32, width: i32): v128 {
  const code = load<u32>(pixels + ((<usize>y * width + x) << 2))
  return f32x4(
    load<f32>(table + ((code & 255) << 2)),
    load<f32>(table + (((code >> 8) & 255) << 2)),
    load<f32>(table + (((code >> 16) & 255) << 2)),
    load<f32>(PLAIN + ((code >> 24) << 2)),
  )
}


@inline
function textureOf(scene: usize, index: i32): usize {
  return <usize>load<u32>(scene, SCENE_TEXTURES) + <usize>index * TEXTURE_STRIDE
}

/** Bilinear value of a texture at u, v (glTF: v downwards), left in `fetched`. */
function fetchTexture(scene: usize, index: i32, s: f32, t: f32): v128 {
  const texture = textureOf(scene, index)
  const set = load<i32>(texture, TEXTURE_SET)
  let u = set & 1 ? secondU : s
  let v = set & 1 ? secondV : t
  if (set & 2) {
    const a = u
    const b = v
    u =
      load<f32>(texture, TEXTURE_MOVE) * a +
      load<f32>(texture, TEXTURE_MOVE + 4) * b +
      load<f32>(texture, TEXTURE_MOVE + 8)
    v =
      load<f32>(texture, TEXTURE_MOVE + 12) * a +
      load<f32>(texture, TEXTURE_MOVE + 16) * b +
      load<f32>(texture, TEXTURE_MOVE + 20)
  }
  const width = load<i32>(texture, TEXTURE_WIDTH)
  const height = load<i32>(texture, TEXTURE_HEIGHT)
  const pixels = <usize>load<u32>(texture)
  const table = load<i32>(texture, TEXTURE_SRGB) ? LINEAR : PLAIN
  const wrapS = load<i32>(texture, TEXTURE_WRAP_S)
  const wrapT = load<i32>(texture, TEXTURE_WRAP_T)
  // Keeps far out coordinates within what i32 holds; sampling them is meaningless but must not trap.
  const x = max<f32>(-1e6, min<f32>(1e6, u * <f32>width - 0.5))
  const y = max<f32>(-1e6, min<f32>(1e6, v * <f32>height - 0.5))
  const left = <i32>floor<f32>(x)
  const upper = <i32>floor<f32>(y)
  const fx = f32x4.splat(x - <f32>left)
  const fy = f32x4.splat(y - <f32>upper)
  const x0 = wrap(left, width, wrapS)
  const x1 = wrap(left + 1, width, wrapS)
  const y0 = wrap(upper, height, wrapT)
  const y1 = wrap(upper + 1, height, wrapT)
  const a = texel(pixels, table, x0, y0, width)
  const b = texel(pixels, table, x1, y0, width)
  const c = texel(pixels, table, x0, y1, width)
  const d = texel(pixels, table, x1, y1, width)
  const top = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx))
  const bottom = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fx))
  fetched = f32x4.add(top, f32x4.mul(f32x4.sub(bottom, top), fy))
  return fetched
}

export let surfaceObject: i32 = 0
export let surfaceMaterial: i32 = 0
export let surfaceLight: i32 = -1
export let positionX: f32 = 0
export let positionY: f32 = 0
export let positionZ: f32 = 0
/** Metres to step off it, along its normal, so that rays clear it. */
export let surfaceStep: f32 = 0
/**
 * Where it would be if it were as smooth as its normals say: from there lights are asked, or coarse meshes have dark
 * blocks at the border of their shadow (J. Hanika, "Hacking the Shadow Terminator", Ray Tracing Gems II, 2021). The
 * place itself where it is flat, hollow, or glass.
 */
export let roundX: f32 = 0
export let roundY: f32 = 0
export let roundZ: f32 = 0
export let isRound: bool = false
export let geometricX: f32 = 0
export let geometricY: f32 = 0
export let geometricZ: f32 = 0
export let normalX: f32 = 0
export let normalY: f32 = 0
export let normalZ: f32 = 0
export let baseR: f32 = 0
export let baseG: f32 = 0
export let baseB: f32 = 0
export let opacity: f32 = 1
export let metallic: f32 = 0
export let alphaRoughness: f32 = 0 // GGX width, the square of glTF's roughness
export let emissionR: f32 = 0
export let emissionG: f32 = 0
export let emissionB: f32 = 0
export let transmission: f32 = 0 // share of the light below the surface that goes through
export let ior: f32 = 1.5
export let glass: i32 = 0 // GLASS_..., 0 for none
export let paneShare: f32 = 1 // what a pane does not let through, at this angle
export let glassTable: usize = 0
export let specularStrength: f32 = 1
export let specularR: f32 = 0.04
export let specularG: f32 = 0.04
export let specularB: f32 = 0.04
export let coat: f32 = 0
export let coatAlpha: f32 = 0
export let sheenR: f32 = 0
export let sheenG: f32 = 0
export let sheenB: f32 = 0
export let sheenAlpha: f32 = 1
export let absorbR: f32 = 0
export let absorbG: f32 = 0
export let absorbB: f32 = 0
export let backFacing: bool = false
export let surfaceFlags: i32 = 0
export let texU: f32 = 0
export let texV: f32 = 0
export let surfaceTriangle: i32 = 0
/** Place record of its mesh; 0 where it stands in the world itself. */
export let surfacePlace: usize = 0
export let barycentricU: f32 = 0
export let barycentricV: f32 = 0


@inline
function vertexOf(scene: usize, record: usize, corner: usize): usize {
  return <usize>load<u32>(scene, SCENE_VERTICES) + <usize>load<u32>(record + (corner << 2)) * VERTEX_STRIDE
}

/** A place of a mesh's space by rows of four (PLACE_OUT), in the world, in outX, Y, Z. */
export let outX: f32 = 0
export let outY: f32 = 0
export let outZ: f32 = 0
export function byRows(rows: usize, x: f32, y: f32, z: f32, w: f32): void {
  outX = load<f32>(rows) * x + load<f32>(rows, 4) * y + load<f32>(rows, 8) * z + load<f32>(rows, 12) * w
  outY = load<f32>(rows, 16) * x + load<f32>(rows, 20) * y + load<f32>(rows, 24) * z + load<f32>(rows, 28) * w
  outZ = load<f32>(rows, 32) * x + load<f32>(rows, 36) * y + load<f32>(rows, 40) * z + load<f32>(rows, 44) * w
}
// Three vertices of a mesh as they stand in the world: in this worker's own scratch
let standing: usize = 0
function stood(place: usize, vertex: usize, to: usize): usize {
  byRows(place + PLACE_OUT, load<f32>(vertex), load<f32>(vertex, 4), load<f32>(vertex, 8), 1)
  store<f32>(to, outX)
  store<f32>(to, outY, 4)
  store<f32>(to, outZ, 8)
  // Normals go by the transposed way back
  const nx = load<f32>(vertex, 12)
  const ny = load<f32>(vertex, 16)
  const nz = load<f32>(vertex, 20)
  const into = place + PLACE_INTO
  const x = load<f32>(into) * nx + load<f32>(into, 16) * ny + load<f32>(into, 32) * nz
  const y = load<f32>(into, 4) * nx + load<f32>(into, 20) * ny + load<f32>(into, 36) * nz
  const z = load<f32>(into, 8) * nx + load<f32>(into, 24) * ny + load<f32>(into, 40) * nz
  const long = sqrt<f32>(x * x + y * y + z * z)
  const scale: f32 = long > 0 ? ONE / long : 0
  store<f32>(to, x * scale, 12)
  store<f32>(to, y * scale, 16)
  store<f32>(to, z * scale, 20)
  store<i64>(to, load<i64>(vertex, 24), 24)
  byRows(place + PLACE_OUT, load<f32>(vertex, 32), load<f32>(vertex, 36), load<f32>(vertex, 40), 0)
  const along = sqrt<f32>(outX * outX + outY * outY + outZ * outZ)
  const share: f32 = along > 0 ? ONE / along : 0
  store<f32>(to, outX * share, 32)
  store<f32>(to, outY * share, 36)
  store<f32>(to, outZ * share, 40)
  store<f32>(to, load<f32>(vertex, 44), 44)
  return to
}


@inline
function applyMode(material: usize, value: f32): f32 {
  const mode = load<i32>(material, MATERIAL_ALPHA_MODE)
  if (mode == 0) return 1
  if (mode == 1) return value >= load<f32>(material, MATERIAL_CUTOFF) ? 1 : 0
  return value
}

/**
 * Share of unpolarised light that a smooth border of two media mirrors; cosine of the angle to the normal, eta: index
 * on this side over index beyond (A.-J. Fresnel 1823). 1 where light is mirrored whole.
 */
export function fresnel(cosine: f32, eta: f32): f32 {
  const c = min<f32>(1, abs(cosine))
  const s2 = eta * eta * (ONE - c * c)
  if (s2 >= 1) return 1
  const t = sqrt<f32>(ONE - s2)
  const s = (eta * c - t) / (eta * c + t)
  const p = (c - eta * t) / (c + eta * t)
  return (s * s + p * p) * <f32>0.5
}
/** What a pane of two faces mirrors when light goes to and fro in it: R + (1 - R)² R + ... = 2 R / (1 + R). */
@inline
export function ofPane(r: f32): f32 {
  return (2 * r) / (ONE + r)
}

/** What a pane does not let through, of light that meets it at that angle. */
@inline
function paneOpacity(material: usize, through: f32, red: f32, green: f32, blue: f32, cosine: f32): f32 {
  const grey = red * <f32>0.2126 + green * <f32>0.7152 + blue * <f32>0.0722
  return (
    ONE -
    through *
      (ONE - load<f32>(material, MATERIAL_METALLIC)) *
      grey *
      (ONE - ofPane(fresnel(cosine, ONE / load<f32>(material, MATERIAL_IOR))))
  )
}

// What a vertex may have beside: second surface coordinates, and a colour that multiplies the material's
let secondU: f32 = 0
let secondV: f32 = 0
let painted: v128 = f32x4.splat(1)


@inline
function extraOf(scene: usize, record: usize, corner: usize): usize {
  return <usize>load<u32>(scene, SCENE_EXTRA) + <usize>load<u32>(record + (corner << 2)) * EXTRA_STRIDE
}
function loadExtra(scene: usize, record: usize, u: f32, v: f32, w: f32): bool {
  if (!load<u32>(scene, SCENE_EXTRA)) return false
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
  const code = load<u32>(vertex, EXTRA_COLOUR)
  return f32x4(
    load<f32>(LINEAR + ((code & 255) << 2)),
    load<f32>(LINEAR + (((code >> 8) & 255) << 2)),
    load<f32>(LINEAR + (((code >> 16) & 255) << 2)),
    load<f32>(PLAIN + ((code >> 24) << 2)),
  )
}

/**
 * Opacity of a triangle (of the mesh of a place, 0 for none) at barycentric u, v, met along dx, dy, dz: for shadow
 * rays, which need nothing else of the surface.
 */
export function opacityAt(scene: usize, place: usize, triangle: i32, u: f32, v: f32, dx: f32, dy: f32, dz: f32): f32 {
  const record = <usize>load<u32>(scene, SCENE_TRIANGLES) + <usize>triangle * TRIANGLE_STRIDE
  const material = <usize>load<u32>(scene, SCENE_MATERIALS) + <usize>load<u32>(record, 16) * MATERIAL_STRIDE
  let a = vertexOf(scene, record, 0)
  let b = vertexOf(scene, record, 1)
  let c = vertexOf(scene, record, 2)
  const w = ONE - u - v
  const s = load<f32>(a, 24) * w + load<f32>(b, 24) * u + load<f32>(c, 24) * v
  const t = load<f32>(a, 28) * w + load<f32>(b, 28) * u + load<f32>(c, 28) * v
  const texture = load<i32>(material, MATERIAL_TEXTURE_BASE)
  let colour = v128.load(material, MATERIAL_BASE)
  if (loadExtra(scene, record, u, v, w)) colour = f32x4.mul(colour, painted)
  if (texture >= 0) colour = f32x4.mul(colour, fetchTexture(scene, texture, s, t))
  const value = applyMode(material, f32x4.extract_lane(colour, 3))
  if (load<i32>(material, MATERIAL_GLASS) != GLASS_PANE) return value
  let through = load<f32>(material, MATERIAL_TRANSMISSION)
  const how = load<i32>(material, MATERIAL_TEXTURE_TRANSMISSION)
  if (how >= 0) through *= f32x4.extract_lane(fetchTexture(scene, how, s, t), 0)
  if (place) {
    a = stood(place, a, standing)
    b = stood(place, b, standing + 48)
    c = stood(place, c, standing + 96)
  }
  const e1x = load<f32>(b) - load<f32>(a)
  const e1y = load<f32>(b, 4) - load<f32>(a, 4)
  const e1z = load<f32>(b, 8) - load<f32>(a, 8)
  const e2x = load<f32>(c) - load<f32>(a)
  const e2y = load<f32>(c, 4) - load<f32>(a, 4)
  const e2z = load<f32>(c, 8) - load<f32>(a, 8)
  const gx = e1y * e2z - e1z * e2y
  const gy = e1z * e2x - e1x * e2z
  const gz = e1x * e2y - e1y * e2x
  const long = sqrt<f32>(gx * gx + gy * gy + gz * gz)
  return (
    value *
    paneOpacity(
      material,
      through,
      f32x4.extract_lane(colour, 0),
      f32x4.extract_lane(colour, 1),
      f32x4.extract_lane(colour, 2),
      long > 0 ? (gx * dx + gy * dy + gz * dz) / long : 1,
    )
  )
}

/** Object of a triangle (of the mesh of a place, 0 for none). */
@inline
export function objectOf(scene: usize, place: usize, triangle: i32): i32 {
  return place
    ? load<i32>(place, PLACE_OBJECT)
    : load<i32>(<usize>load<u32>(scene, SCENE_TRIANGLES) + <usize>triangle * TRIANGLE_STRIDE, 12)
}

/** Moves the rounded place out towards the plane that a corner's normal stands on, by the corner's share. */
@inline
function bulge(corner: usize, share: f32, side: f32): void {
  const nx = load<f32>(corner, 12) * side
  const ny = load<f32>(corner, 16) * side
  const nz = load<f32>(corner, 20) * side
  const below =
    (positionX - load<f32>(corner)) * nx +
    (positionY - load<f32>(corner, 4)) * ny +
    (positionZ - load<f32>(corner, 8)) * nz
  if (below >= 0) return
  isRound = true
  roundX -= nx * below * share
  roundY -= ny * below * share
  roundZ -= nz * below * share
}

/**
 * Fills the surface variables for a hit (of the mesh of a place, 0 for none); dx, dy, dz is the direction the ray
 * travelled in. Normals face the ray.
 */
export function loadSurface(
  scene: usize,
  place: usize,
  triangle: i32,
  u: f32,
  v: f32,
  dx: f32,
  dy: f32,
  dz: f32,
): void {
  const record = <usize>load<u32>(scene, SCENE_TRIANGLES) + <usize>triangle * TRIANGLE_STRIDE
  surfaceTriangle = triangle
  surfacePlace = place
  barycentricU = u
  barycentricV = v
  surfaceObject = place ? load<i32>(place, PLACE_OBJECT) : load<i32>(record, 12)
  surfaceMaterial = load<i32>(record, 16)
  surfaceLight = load<i32>(record, 20)
  const material = <usize>load<u32>(scene, SCENE_MATERIALS) + <usize>surfaceMaterial * MATERIAL_STRIDE
  let a = vertexOf(scene, record, 0)
  let b = vertexOf(scene, record, 1)
  let c = vertexOf(scene, record, 2)
  if (place) {
    a = stood(place, a, standing)
    b = stood(place, b, standing + 48)
    c = stood(place, c, standing + 96)
  }
  const w = ONE - u - v
  const ax = load<f32>(a)
  const ay = load<f32>(a, 4)
  const az = load<f32>(a, 8)
  const e1x = load<f32>(b) - ax
  const e1y = load<f32>(b, 4) - ay
  const e1z = load<f32>(b, 8) - az
  const e2x = load<f32>(c) - ax
  const e2y = load<f32>(c, 4) - ay
  const e2z = load<f32>(c, 8) - az
  positionX = ax + e1x * u + e2x * v
  positionY = ay + e1y * u + e2y * v
  positionZ = az + e1z * u + e2z * v
  let gx = e1y * e2z - e1z * e2y
  let gy = e1z * e2x - e1x * e2z
  let gz = e1x * e2y - e1y * e2x
  let length = sqrt<f32>(gx * gx + gy * gy + gz * gz)
  length = length > 0 ? ONE / length : 0
  gx *= length
  gy *= length
  gz *= length
  // Roundings of the corners' coordinates, along the normal and (from the products of the meeting itself) across it
  const wideX = abs(ax) + max(abs(e1x), abs(e2x))
  const wideY = abs(ay) + max(abs(e1y), abs(e2y))
  const wideZ = abs(az) + max(abs(e1z), abs(e2z))
  surfaceStep =
    1e-6 + <f32>1e-6 * (abs(gx) * wideX + abs(gy) * wideY + abs(gz) * wideZ) + <f32>2e-7 * max(wideX, max(wideY, wideZ))
  let nx = load<f32>(a, 12) * w + load<f32>(b, 12) * u + load<f32>(c, 12) * v
  let ny = load<f32>(a, 16) * w + load<f32>(b, 16) * u + load<f32>(c, 16) * v
  let nz = load<f32>(a, 20) * w + load<f32>(b, 20) * u + load<f32>(c, 20) * v
  length = sqrt<f32>(nx * nx + ny * ny + nz * nz)
  if (length > 1e-12) {
    nx /= length
    ny /= length
    nz /= length
  } else {
    nx = gx
    ny = gy
    nz = gz
  }
  texU = load<f32>(a, 24) * w + load<f32>(b, 24) * u + load<f32>(c, 24) * v
  texV = load<f32>(a, 28) * w + load<f32>(b, 28) * u + load<f32>(c, 28) * v

  const alike = nx * gx + ny * gy + nz * gz
  const bent = alike > 0 && alike < 0.99999
  const extra = loadExtra(scene, record, u, v, w)
  const normalTexture = load<i32>(material, MATERIAL_TEXTURE_NORMAL)
  if (normalTexture >= 0) {
    let tx = load<f32>(a, 32) * w + load<f32>(b, 32) * u + load<f32>(c, 32) * v
    let ty = load<f32>(a, 36) * w + load<f32>(b, 36) * u + load<f32>(c, 36) * v
    let tz = load<f32>(a, 40) * w + load<f32>(b, 40) * u + load<f32>(c, 40) * v
    let hand = load<f32>(a, 44)
    if (hand * load<f32>(b, 44) * load<f32>(c, 44) == 0) {
      // A corner on a mirrored fold of the picture has no tangent of its own: the triangle's is taken
      const second = extra && (load<i32>(textureOf(scene, normalTexture), TEXTURE_SET) & 1) != 0
      const at: usize = second ? 0 : 24
      const p = second ? extraOf(scene, record, 0) : a
      const q = second ? extraOf(scene, record, 1) : b
      const r = second ? extraOf(scene, record, 2) : c
      const du1 = load<f32>(q + at) - load<f32>(p + at)
      const dv1 = load<f32>(q + at, 4) - load<f32>(p + at, 4)
      const du2 = load<f32>(r + at) - load<f32>(p + at)
      const dv2 = load<f32>(r + at, 4) - load<f32>(p + at, 4)
      const turn: f32 = du1 * dv2 - du2 * dv1 < 0 ? -1 : 1
      tx = (e1x * dv2 - e2x * dv1) * turn
      ty = (e1y * dv2 - e2y * dv1) * turn
      tz = (e1z * dv2 - e2z * dv1) * turn
      hand = -turn
    }
    const along = tx * nx + ty * ny + tz * nz
    tx -= nx * along
    ty -= ny * along
    tz -= nz * along
    length = sqrt<f32>(tx * tx + ty * ty + tz * tz)
    if (length > 1e-12) {
      tx /= length
      ty /= length
      tz /= length
      const bx = (ny * tz - nz * ty) * hand
      const by = (nz * tx - nx * tz) * hand
      const bz = (nx * ty - ny * tx) * hand
      const value = fetchTexture(scene, normalTexture, texU, texV)
      const scale = load<f32>(material, MATERIAL_NORMAL_SCALE)
      const mx = (f32x4.extract_lane(value, 0) * 2 - 1) * scale
      const my = (f32x4.extract_lane(value, 1) * 2 - 1) * scale
      const mz = f32x4.extract_lane(value, 2) * 2 - 1
      const px = tx * mx + bx * my + nx * mz
      const py = ty * mx + by * my + ny * mz
      const pz = tz * mx + bz * my + nz * mz
      length = sqrt<f32>(px * px + py * py + pz * pz)
      if (length > 1e-12) {
        nx = px / length
        ny = py / length
        nz = pz / length
      }
    }
  }
  backFacing = gx * dx + gy * dy + gz * dz > 0
  if (backFacing) {
    gx = -gx
    gy = -gy
    gz = -gz
    nx = -nx
    ny = -ny
    nz = -nz
  }
  // A shading normal turned away from the viewer would make the surface black: bend it back to the horizon.
  const facing = nx * dx + ny * dy + nz * dz
  if (facing > -1e-3) {
    nx -= dx * (facing + 1e-3)
    ny -= dy * (facing + 1e-3)
    nz -= dz * (facing + 1e-3)
    length = ONE / sqrt<f32>(nx * nx + ny * ny + nz * nz)
    nx *= length
    ny *= length
    nz *= length
  }
  roundX = positionX
  roundY = positionY
  roundZ = positionZ
  isRound = false
  if (bent && !load<i32>(material, MATERIAL_GLASS)) {
    const side: f32 = backFacing ? -1 : 1
    bulge(a, w, side)
    bulge(b, u, side)
    bulge(c, v, side)
  }
  geometricX = gx
  geometricY = gy
  geometricZ = gz
  normalX = nx
  normalY = ny
  normalZ = nz

  let colour = v128.load(material, MATERIAL_BASE)
  if (extra) colour = f32x4.mul(colour, painted)
  const baseTexture = load<i32>(material, MATERIAL_TEXTURE_BASE)
  if (baseTexture >= 0) colour = f32x4.mul(colour, fetchTexture(scene, baseTexture, texU, texV))
  baseR = f32x4.extract_lane(colour, 0)
  baseG = f32x4.extract_lane(colour, 1)
  baseB = f32x4.extract_lane(colour, 2)
  opacity = applyMode(material, f32x4.extract_lane(colour, 3))
  ior = load<f32>(material, MATERIAL_IOR)
  glass = load<i32>(material, MATERIAL_GLASS)
  transmission = 0
  paneShare = 1
  if (glass) {
    transmission = load<f32>(material, MATERIAL_TRANSMISSION)
    const how = load<i32>(material, MATERIAL_TEXTURE_TRANSMISSION)
    if (how >= 0) transmission *= f32x4.extract_lane(fetchTexture(scene, how, texU, texV), 0)
    glassTable = <usize>load<u32>(material, MATERIAL_GLASS_TABLE)
    absorbR = load<f32>(material, MATERIAL_ABSORB)
    absorbG = load<f32>(material, MATERIAL_ABSORB + 4)
    absorbB = load<f32>(material, MATERIAL_ABSORB + 8)
    if (glass == GLASS_PANE) {
      paneShare = max<f32>(1e-3, paneOpacity(material, transmission, baseR, baseG, baseB, gx * dx + gy * dy + gz * dz))
      opacity *= paneShare
    }
  }
  specularR = load<f32>(material, MATERIAL_SPECULAR)
  specularG = load<f32>(material, MATERIAL_SPECULAR + 4)
  specularB = load<f32>(material, MATERIAL_SPECULAR + 8)
  specularStrength = load<f32>(material, MATERIAL_SPECULAR_STRENGTH)
  coat = load<f32>(material, MATERIAL_COAT)
  coatAlpha = load<f32>(material, MATERIAL_COAT_ALPHA)
  sheenR = load<f32>(material, MATERIAL_SHEEN)
  sheenG = load<f32>(material, MATERIAL_SHEEN + 4)
  sheenB = load<f32>(material, MATERIAL_SHEEN + 8)
  sheenAlpha = load<f32>(material, MATERIAL_SHEEN_ALPHA)
  if (load<i32>(material, L.MATERIAL_GLOSS_PICTURES)) loadGloss(scene, material)
  metallic = load<f32>(material, MATERIAL_METALLIC)
  let roughness = load<f32>(material, MATERIAL_ROUGHNESS)
  const roughTexture = load<i32>(material, MATERIAL_TEXTURE_ROUGHNESS)
  if (roughTexture >= 0) {
    const value = fetchTexture(scene, roughTexture, texU, texV)
    roughness *= f32x4.extract_lane(value, 1)
    metallic *= f32x4.extract_lane(value, 2)
  }
  emissionR = 0
  emissionG = 0
  emissionB = 0
  if (!backFacing || load<i32>(material, MATERIAL_DOUBLE_SIDED)) loadEmission(scene, material, texU, texV)
  const object = <usize>load<u32>(scene, SCENE_OBJECTS) + <usize>surfaceObject * OBJECT_STRIDE
  surfaceFlags = load<i32>(object, OBJECT_FLAGS)
  const prints = load<i32>(object, OBJECT_PRINT_COUNT)
  if (prints > 0) roughness = layPrints(scene, object, prints, roughness)
  alphaRoughness = max<f32>(roughness * roughness, 1e-3)
}

/** Makes the loaded surface white and matt all through. */
export function paintWhite(): void {
  baseR = 1
  baseG = 1
  baseB = 1
  metallic = 0
  specularStrength = 0
  coat = 0
  sheenR = 0
  sheenG = 0
  sheenB = 0
  emissionR = 0
  emissionG = 0
  emissionB = 0
  glass = 0
  transmission = 0
}

/** Gives the loaded surface another roughness. */
export function polish(roughness: f32): void {
  alphaRoughness = max<f32>(roughness * roughness, 1e-3)
}

/**
 * Lays the object's pictures on the loaded surface: only on the side that faces where they are thrown from. Returns the
 * roughness.
 */
function layPrints(scene: usize, object: usize, count: i32, before: f32): f32 {
  let roughness = before
  for (let i = 0; i < count; i++) {
    const print = <usize>load<u32>(object, OBJECT_PRINTS) + <usize>i * PRINT_STRIDE
    const along =
      load<f32>(print, PRINT_W) * positionX +
      load<f32>(print, PRINT_W + 4) * positionY +
      load<f32>(print, PRINT_W + 8) * positionZ +
      load<f32>(print, PRINT_W + 12)
    if (along < load<f32>(print, PRINT_NEAR) || along > load<f32>(print, PRINT_FAR)) continue
    let u =
      load<f32>(print, PRINT_U) * positionX +
      load<f32>(print, PRINT_U + 4) * positionY +
      load<f32>(print, PRINT_U + 8) * positionZ +
      load<f32>(print, PRINT_U + 12)
    let v =
      load<f32>(print, PRINT_V) * positionX +
      load<f32>(print, PRINT_V + 4) * positionY +
      load<f32>(print, PRINT_V + 8) * positionZ +
      load<f32>(print, PRINT_V + 12)
    let fx = load<f32>(print, PRINT_FROM)
    let fy = load<f32>(print, PRINT_FROM + 4)
    let fz = load<f32>(print, PRINT_FROM + 8)
    if (load<i32>(print, PRINT_PERSPECTIVE)) {
      u /= along
      v /= along
      fx -= positionX
      fy -= positionY
      fz -= positionZ
    }
    if (!(u >= 0 && u <= 1 && v >= 0 && v <= 1) || fx * geometricX + fy * geometricY + fz * geometricZ <= 0) continue
    const x = min(PRINT_CELLS - 1, <i32>(u * <f32>PRINT_CELLS))
    const y = min(PRINT_CELLS - 1, <i32>(v * <f32>PRINT_CELLS))
    if (
      along >
      load<f32>(<usize>load<u32>(print, PRINT_NEAREST) + ((<usize>(y * PRINT_CELLS + x)) << 2)) +
        load<f32>(print, PRINT_BIAS)
    )
      continue
    const texel = fetchTexture(scene, load<i32>(print, PRINT_TEXTURE), u, v)
    const share = f32x4.extract_lane(texel, 3) * load<f32>(print, PRINT_OPACITY)
    const rest = ONE - share
    baseR = baseR * rest + f32x4.extract_lane(texel, 0) * share
    baseG = baseG * rest + f32x4.extract_lane(texel, 1) * share
    baseB = baseB * rest + f32x4.extract_lane(texel, 2) * share
    const own = load<f32>(print, PRINT_ROUGHNESS)
    if (own >= 0) roughness = roughness * rest + own * share
    if (load<i32>(print, PRINT_INSTEAD)) {
      metallic *= rest
      emissionR *= rest
      emissionG *= rest
      emissionB *= rest
    }
  }
  return roughness
}

/** What pictures leave of the mirroring, the lacquer and the cloth of the loaded surface. */
function loadGloss(scene: usize, material: usize): void {
  const strength = load<i32>(material, L.MATERIAL_TEXTURE_SPECULAR)
  const colour = load<i32>(material, L.MATERIAL_TEXTURE_SPECULAR_COLOUR)
  if (strength >= 0) specularStrength *= f32x4.extract_lane(fetchTexture(scene, strength, texU, texV), 3)
  if (colour >= 0) {
    const value = fetchTexture(scene, colour, texU, texV)
    specularR *= f32x4.extract_lane(value, 0)
    specularG *= f32x4.extract_lane(value, 1)
    specularB *= f32x4.extract_lane(value, 2)
  }
  const laid = load<i32>(material, L.MATERIAL_TEXTURE_COAT)
  const rough = load<i32>(material, L.MATERIAL_TEXTURE_COAT_ROUGHNESS)
  if (laid >= 0) coat *= f32x4.extract_lane(fetchTexture(scene, laid, texU, texV), 0)
  if (rough >= 0) {
    const value = f32x4.extract_lane(fetchTexture(scene, rough, texU, texV), 1)
    coatAlpha = max<f32>(1e-3, coatAlpha * value * value)
  }
  const cloth = load<i32>(material, L.MATERIAL_TEXTURE_SHEEN)
  const nap = load<i32>(material, L.MATERIAL_TEXTURE_SHEEN_ROUGHNESS)
  if (cloth >= 0) {
    const value = fetchTexture(scene, cloth, texU, texV)
    sheenR *= f32x4.extract_lane(value, 0)
    sheenG *= f32x4.extract_lane(value, 1)
    sheenB *= f32x4.extract_lane(value, 2)
  }
  if (nap >= 0) {
    const value = f32x4.extract_lane(fetchTexture(scene, nap, texU, texV), 3)
    sheenAlpha = max<f32>(1e-3, sheenAlpha * value * value)
  }
}

/**
 * Light that the plate shows at the loaded surface, as its camera sees it, in plateR, G, B: at its border beyond it,
 * its mean behind the camera.
 */
export let plateR: f32 = 0
export let plateG: f32 = 0
export let plateB: f32 = 0
export function plateAtSurface(scene: usize): void {
  const pixels = <usize>load<u32>(scene, SCENE_PLATE)
  plateR = load<f32>(scene, SCENE_PLATE_MEAN)
  plateG = load<f32>(scene, SCENE_PLATE_MEAN + 4)
  plateB = load<f32>(scene, SCENE_PLATE_MEAN + 8)
  if (!pixels) return
  const w =
    load<f32>(scene, SCENE_PLATE_W) * positionX +
    load<f32>(scene, SCENE_PLATE_W + 4) * positionY +
    load<f32>(scene, SCENE_PLATE_W + 8) * positionZ +
    load<f32>(scene, SCENE_PLATE_W + 12)
  if (w < 1e-3) return
  const u =
    (load<f32>(scene, SCENE_PLATE_U) * positionX +
      load<f32>(scene, SCENE_PLATE_U + 4) * positionY +
      load<f32>(scene, SCENE_PLATE_U + 8) * positionZ +
      load<f32>(scene, SCENE_PLATE_U + 12)) /
    w
  const v =
    (load<f32>(scene, SCENE_PLATE_V) * positionX +
      load<f32>(scene, SCENE_PLATE_V + 4) * positionY +
      load<f32>(scene, SCENE_PLATE_V + 8) * positionZ +
      load<f32>(scene, SCENE_PLATE_V + 12)) /
    w
  const width = load<i32>(scene, SCENE_PLATE_WIDTH)
  const height = load<i32>(scene, SCENE_PLATE_HEIGHT)
  const x = max<f32>(0, min<f32>(<f32>(width - 1), u * <f32>width - 0.5))
  const y = max<f32>(0, min<f32>(<f32>(height - 1), v * <f32>height - 0.5))
  const left = <i32>x
  const upper = <i32>y
  const right = min(width - 1, left + 1)
  const lower = min(height - 1, upper + 1)
  const fx = f32x4.splat(x - <f32>left)
  const fy = f32x4.splat(y - <f32>upper)
  const row0 = pixels + ((<usize>upper * width) << 4)
  const row1 = pixels + ((<usize>lower * width) << 4)
  const a = v128.load(row0 + ((<usize>left) << 4))
  const b = v128.load(row0 + ((<usize>right) << 4))
  const c = v128.load(row1 + ((<usize>left) << 4))
  const d = v128.load(row1 + ((<usize>right) << 4))
  const top = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx))
  const bottom = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fx))
  const value = f32x4.add(top, f32x4.mul(f32x4.sub(bottom, top), fy))
  plateR = f32x4.extract_lane(value, 0)
  plateG = f32x4.extract_lane(value, 1)
  plateB = f32x4.extract_lane(value, 2)
}

/**
 * Emission of a triangle at barycentric u, v, left in shiningR, G, B; the facing test is the caller's. The loaded
 * surface stays as it is.
 */
export let shiningR: f32 = 0
export let shiningG: f32 = 0
export let shiningB: f32 = 0
export function emissionAt(scene: usize, triangle: i32, u: f32, v: f32): void {
  const record = <usize>load<u32>(scene, SCENE_TRIANGLES) + <usize>triangle * TRIANGLE_STRIDE
  const a = vertexOf(scene, record, 0)
  const b = vertexOf(scene, record, 1)
  const c = vertexOf(scene, record, 2)
  const w = ONE - u - v
  const r = emissionR
  const g = emissionG
  const blue = emissionB
  loadExtra(scene, record, u, v, w)
  loadEmission(
    scene,
    <usize>load<u32>(scene, SCENE_MATERIALS) + <usize>load<u32>(record, 16) * MATERIAL_STRIDE,
    load<f32>(a, 24) * w + load<f32>(b, 24) * u + load<f32>(c, 24) * v,
    load<f32>(a, 28) * w + load<f32>(b, 28) * u + load<f32>(c, 28) * v,
  )
  shiningR = emissionR
  shiningG = emissionG
  shiningB = emissionB
  emissionR = r
  emissionG = g
  emissionB = blue
}


@inline
function loadEmission(scene: usize, material: usize, s: f32, t: f32): void {
  emissionR = load<f32>(material, MATERIAL_EMISSION)
  emissionG = load<f32>(material, MATERIAL_EMISSION + 4)
  emissionB = load<f32>(material, MATERIAL_EMISSION + 8)
  const texture = load<i32>(material, MATERIAL_TEXTURE_EMISSION)
  if (texture >= 0 && emissionR + emissionG + emissionB > 0) {
    const value = fetchTexture(scene, texture, s, t)
    emissionR *= f32x4.extract_lane(value, 0)
    emissionG *= f32x4.extract_lane(value, 1)
    emissionB *= f32x4.extract_lane(value, 2)
  }
}
