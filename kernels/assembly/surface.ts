// What a hit triangle is made of.
import { ONE } from './constants'
import * as L from './layout'
import { applyMode, paneOpacity } from './opacity'
import { loadEmission, shiningB, shiningG, shiningR } from './shining'
import { printedAt, printU, printV } from './print'
import { fetchTexture, textureOf } from './texture'
import { extraOf, loadExtra, painted, standing, stood, vertexOf } from './vertex'

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
  const record = <usize>load<u32>(scene, L.SCENE_TRIANGLES) + <usize>triangle * L.TRIANGLE_STRIDE
  surfaceTriangle = triangle
  surfacePlace = place
  barycentricU = u
  barycentricV = v
  surfaceObject = place ? load<i32>(place, L.PLACE_OBJECT) : load<i32>(record, 12)
  surfaceMaterial = load<i32>(record, 16)
  surfaceLight = load<i32>(record, 20)
  const material = <usize>load<u32>(scene, L.SCENE_MATERIALS) + <usize>surfaceMaterial * L.MATERIAL_STRIDE
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
  const normalTexture = load<i32>(material, L.MATERIAL_TEXTURE_NORMAL)
  if (normalTexture >= 0) {
    let tx = load<f32>(a, 32) * w + load<f32>(b, 32) * u + load<f32>(c, 32) * v
    let ty = load<f32>(a, 36) * w + load<f32>(b, 36) * u + load<f32>(c, 36) * v
    let tz = load<f32>(a, 40) * w + load<f32>(b, 40) * u + load<f32>(c, 40) * v
    let hand = load<f32>(a, 44)
    if (hand * load<f32>(b, 44) * load<f32>(c, 44) == 0) {
      // A corner on a mirrored fold of the picture has no tangent of its own: the triangle's is taken
      const second = extra && (load<i32>(textureOf(scene, normalTexture), L.TEXTURE_SET) & 1) != 0
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
      const scale = load<f32>(material, L.MATERIAL_NORMAL_SCALE)
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
  if (bent && !load<i32>(material, L.MATERIAL_GLASS)) {
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

  let colour = v128.load(material, L.MATERIAL_BASE)
  if (extra) colour = f32x4.mul(colour, painted)
  const baseTexture = load<i32>(material, L.MATERIAL_TEXTURE_BASE)
  if (baseTexture >= 0) colour = f32x4.mul(colour, fetchTexture(scene, baseTexture, texU, texV))
  baseR = f32x4.extract_lane(colour, 0)
  baseG = f32x4.extract_lane(colour, 1)
  baseB = f32x4.extract_lane(colour, 2)
  opacity = applyMode(material, f32x4.extract_lane(colour, 3))
  ior = load<f32>(material, L.MATERIAL_IOR)
  glass = load<i32>(material, L.MATERIAL_GLASS)
  transmission = 0
  paneShare = 1
  if (glass) {
    transmission = load<f32>(material, L.MATERIAL_TRANSMISSION)
    const how = load<i32>(material, L.MATERIAL_TEXTURE_TRANSMISSION)
    if (how >= 0) transmission *= f32x4.extract_lane(fetchTexture(scene, how, texU, texV), 0)
    glassTable = <usize>load<u32>(material, L.MATERIAL_GLASS_TABLE)
    absorbR = load<f32>(material, L.MATERIAL_ABSORB)
    absorbG = load<f32>(material, L.MATERIAL_ABSORB + 4)
    absorbB = load<f32>(material, L.MATERIAL_ABSORB + 8)
    if (glass == L.GLASS_PANE) {
      paneShare = max<f32>(1e-3, paneOpacity(material, transmission, baseR, baseG, baseB, gx * dx + gy * dy + gz * dz))
      opacity *= paneShare
    }
  }
  specularR = load<f32>(material, L.MATERIAL_SPECULAR)
  specularG = load<f32>(material, L.MATERIAL_SPECULAR + 4)
  specularB = load<f32>(material, L.MATERIAL_SPECULAR + 8)
  specularStrength = load<f32>(material, L.MATERIAL_SPECULAR_STRENGTH)
  coat = load<f32>(material, L.MATERIAL_COAT)
  coatAlpha = load<f32>(material, L.MATERIAL_COAT_ALPHA)
  sheenR = load<f32>(material, L.MATERIAL_SHEEN)
  sheenG = load<f32>(material, L.MATERIAL_SHEEN + 4)
  sheenB = load<f32>(material, L.MATERIAL_SHEEN + 8)
  sheenAlpha = load<f32>(material, L.MATERIAL_SHEEN_ALPHA)
  if (load<i32>(material, L.MATERIAL_GLOSS_PICTURES)) loadGloss(scene, material)
  metallic = load<f32>(material, L.MATERIAL_METALLIC)
  let roughness = load<f32>(material, L.MATERIAL_ROUGHNESS)
  const roughTexture = load<i32>(material, L.MATERIAL_TEXTURE_ROUGHNESS)
  if (roughTexture >= 0) {
    const value = fetchTexture(scene, roughTexture, texU, texV)
    roughness *= f32x4.extract_lane(value, 1)
    metallic *= f32x4.extract_lane(value, 2)
  }
  emissionR = 0
  emissionG = 0
  emissionB = 0
  if (!backFacing || load<i32>(material, L.MATERIAL_DOUBLE_SIDED)) {
    loadEmission(scene, material, texU, texV)
    emissionR = shiningR
    emissionG = shiningG
    emissionB = shiningB
  }
  const object = <usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>surfaceObject * L.OBJECT_STRIDE
  surfaceFlags = load<i32>(object, L.OBJECT_FLAGS)
  const prints = load<i32>(object, L.OBJECT_PRINT_COUNT)
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
    const print = <usize>load<u32>(object, L.OBJECT_PRINTS) + <usize>i * L.PRINT_STRIDE
    if (!printedAt(print, positionX, positionY, positionZ, geometricX, geometricY, geometricZ)) continue
    const texel = fetchTexture(scene, load<i32>(print, L.PRINT_TEXTURE), printU, printV)
    const share = f32x4.extract_lane(texel, 3) * load<f32>(print, L.PRINT_OPACITY)
    const rest = ONE - share
    baseR = baseR * rest + f32x4.extract_lane(texel, 0) * share
    baseG = baseG * rest + f32x4.extract_lane(texel, 1) * share
    baseB = baseB * rest + f32x4.extract_lane(texel, 2) * share
    const own = load<f32>(print, L.PRINT_ROUGHNESS)
    if (own >= 0) roughness = roughness * rest + own * share
    if (load<i32>(print, L.PRINT_INSTEAD)) {
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
