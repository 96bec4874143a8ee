// The surface model: glTF 2.0 metallic-roughness (appendix B of the specification) with GGX.
// Energy: the specular lobe is scaled for multiple scattering (E. Turquin, "Practical multiple scattering compensation
// for microfacet models", 2019) and the diffuse lobe gets what the dielectric lobe leaves, so that a white surface in
// white light returns exactly white. Visible normals: E. Heitz, JCGT 7(4), 2018.
import { ONE, TWO, HALF } from './constants'
import { GLASS_PANE, GLASS_SHEET, GLASS_SOLID, SCENE_ALBEDO_TABLE, SCENE_SHEEN_TABLE } from './layout'
import {
  normalX,
  normalY,
  normalZ,
  baseR,
  baseG,
  baseB,
  metallic,
  alphaRoughness,
  transmission,
  ior,
  glass,
  paneShare,
  backFacing,
  fresnel,
  glassTable,
  ofPane,
  specularStrength,
  specularR,
  specularG,
  specularB,
  coat,
  coatAlpha,
  sheenR,
  sheenG,
  sheenB,
  sheenAlpha,
} from './surface'

const PI: f32 = 3.14159265
const INVERSE_PI: f32 = 0.318309886
export const TABLE: i32 = 32

let tangentX: f32 = 0
let tangentY: f32 = 0
let tangentZ: f32 = 0
let bitangentX: f32 = 0
let bitangentY: f32 = 0
let bitangentZ: f32 = 0
let viewX: f32 = 0
let viewY: f32 = 0
let viewZ: f32 = 0 // towards the viewer, in the frame of the normal
let f0R: f32 = 0
let f0G: f32 = 0
let f0B: f32 = 0
let boostR: f32 = 1
let boostG: f32 = 1
let boostB: f32 = 1
export let diffuseR: f32 = 0
export let diffuseG: f32 = 0
export let diffuseB: f32 = 0
/**
 * The matt lobe's share, whatever the colour; directions of it are drawn for black surfaces too when mattWanted is set.
 */
export let mattShare: f32 = 0
let mattWanted: bool = false
export function wantMatt(on: bool): void {
  mattWanted = on
}
export let albedoR: f32 = 0
export let albedoG: f32 = 0
export let albedoB: f32 = 0
let specularChance: f32 = 0
// Glass: what there is of the lobe through it, and the ratio of the indices on this side and beyond
export let transmitWeight: f32 = 0
let eta: f32 = 1
let laneScale: f32 = 1 // a pane's lobes stand for the share of it that is no hole

// Results of evaluate: the two lobes times cosine, and the density of sampling that direction.
export let lobeDiffuse: f32 = 0 // to be multiplied with diffuseR, G, B
export let lobeR: f32 = 0
export let lobeG: f32 = 0
export let lobeB: f32 = 0
export let lobeDensity: f32 = 0
// Results of sample
export let outX: f32 = 0
export let outY: f32 = 0
export let outZ: f32 = 0

let basisAX: f32 = 0
let basisAY: f32 = 0
let basisAZ: f32 = 0
let basisBX: f32 = 0
let basisBY: f32 = 0
let basisBZ: f32 = 0
/** Two directions square to n (T. Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 6(1), 2017). */
function buildBasis(x: f32, y: f32, z: f32): void {
  const sign: f32 = z >= 0 ? 1 : -1
  const a = -ONE / (sign + z)
  const b = x * y * a
  basisAX = 1 + sign * x * x * a
  basisAY = sign * b
  basisAZ = -sign * x
  basisBX = b
  basisBY = sign + y * y * a
  basisBZ = -y
}

let tableA: f32 = 0
let tableB: f32 = 0
function lookAlbedo(scene: usize, cosine: f32, alpha: f32): void {
  const table = <usize>load<u32>(scene, SCENE_ALBEDO_TABLE)
  const x = min<f32>(1, max<f32>(0, cosine)) * <f32>(TABLE - 1)
  const y = sqrt<f32>(min<f32>(1, alpha)) * <f32>(TABLE - 1)
  const x0 = min<i32>(TABLE - 2, <i32>x)
  const y0 = min<i32>(TABLE - 2, <i32>y)
  const fx = x - <f32>x0
  const fy = y - <f32>y0
  const at = table + ((<usize>y0 * TABLE + x0) << 3)
  const row = (<usize>TABLE) << 3
  const a0 = load<f32>(at) + (load<f32>(at, 8) - load<f32>(at)) * fx
  const a1 = load<f32>(at + row) + (load<f32>(at + row, 8) - load<f32>(at + row)) * fx
  const b0 = load<f32>(at, 4) + (load<f32>(at, 12) - load<f32>(at, 4)) * fx
  const b1 = load<f32>(at + row, 4) + (load<f32>(at + row, 12) - load<f32>(at + row, 4)) * fx
  tableA = a0 + (a1 - a0) * fy
  tableB = b0 + (b1 - b0) * fy
}

/** What one scattering at the loaded border of solid glass keeps of the light. */
function lookGlass(cosine: f32, alpha: f32): f32 {
  const table = glassTable + (backFacing ? (<usize>(TABLE * TABLE)) << 2 : 0)
  const x = min<f32>(1, max<f32>(0, cosine)) * <f32>(TABLE - 1)
  const y = sqrt<f32>(min<f32>(1, alpha)) * <f32>(TABLE - 1)
  const x0 = min<i32>(TABLE - 2, <i32>x)
  const y0 = min<i32>(TABLE - 2, <i32>y)
  const fx = x - <f32>x0
  const fy = y - <f32>y0
  const at = table + ((<usize>y0 * TABLE + x0) << 2)
  const row: usize = (<usize>TABLE) << 2
  const upper = load<f32>(at) + (load<f32>(at, 4) - load<f32>(at)) * fx
  const lower = load<f32>(at + row) + (load<f32>(at + row, 4) - load<f32>(at + row)) * fx
  return max<f32>(0.05, upper + (lower - upper) * fy)
}

/** Prepares the lobes for the loaded surface seen along dx, dy, dz (direction the ray travelled in). */
export function prepare(scene: usize, dx: f32, dy: f32, dz: f32): void {
  buildBasis(normalX, normalY, normalZ)
  tangentX = basisAX
  tangentY = basisAY
  tangentZ = basisAZ
  bitangentX = basisBX
  bitangentY = basisBY
  bitangentZ = basisBZ
  viewX = -(dx * tangentX + dy * tangentY + dz * tangentZ)
  viewY = -(dx * bitangentX + dy * bitangentY + dz * bitangentZ)
  viewZ = max<f32>(1e-4, -(dx * normalX + dy * normalY + dz * normalZ))
  // Reflectance at normal incidence of a dielectric (KHR_materials_ior; 0.04 at 1.5)
  // (specularR, G, B hold it, coloured: KHR_materials_specular)
  const F0R = specularR * specularStrength
  const F0G = specularG * specularStrength
  const F0B = specularB * specularStrength
  f90 = specularStrength + (ONE - specularStrength) * metallic
  f0R = F0R + (baseR - F0R) * metallic
  f0G = F0G + (baseG - F0G) * metallic
  f0B = F0B + (baseB - F0B) * metallic
  lookAlbedo(scene, viewZ, alphaRoughness)
  const whole = max<f32>(1e-3, tableA + tableB)
  const lost = ONE / whole - 1
  boostR = 1 + f0R * lost
  boostG = 1 + f0G * lost
  boostB = 1 + f0B * lost
  const F0 = max(F0R, max(F0G, F0B))
  const dielectric = (F0 * tableA + specularStrength * tableB) * (1 + F0 * lost)
  mattShare = (ONE - metallic) * (ONE - dielectric)
  transmitWeight = 0
  laneScale = 1
  if (glass) {
    // What goes through does not come back as matt light
    mattShare *= ONE - transmission
    eta = glass == GLASS_SOLID && backFacing ? ior : ONE / ior
    // One scattering's loss of rough glass is given back to both its lobes
    const kept = glass == GLASS_SOLID ? lookGlass(viewZ, alphaRoughness) : whole
    boostR = ONE / kept
    boostG = boostR
    boostB = boostR
    if (glass == GLASS_PANE) {
      laneScale = ONE / paneShare
      mattShare *= laneScale
    } else transmitWeight = transmission * (ONE - metallic)
  }
  diffuseR = baseR * mattShare
  diffuseG = baseG * mattShare
  diffuseB = baseB * mattShare
  layUnder = 1
  coatChance = 0
  const ownA = tableA
  const ownB = tableB
  if (coat > 0 || sheenR + sheenG + sheenB > 0) prepareLayers(scene)
  tableA = ownA
  tableB = ownB * f90
  const sR = (f0R * tableA + tableB) * boostR
  const sG = (f0G * tableA + tableB) * boostG
  const sB = (f0B * tableA + tableB) * boostB
  albedoR = baseR
  albedoG = baseG
  albedoB = baseB
  const specular = sR + sG + sB + transmitWeight * 3
  const diffuse = diffuseR + diffuseG + diffuseB
  specularChance = specular + diffuse > 0 ? specular / (specular + diffuse) : 1
  // Neither lobe may starve: its rare samples would carry large weights
  if (diffuse > 0 || (mattWanted && mattShare > 0) || sheenR + sheenG + sheenB > 0)
    specularChance = max<f32>(0.1, min<f32>(0.9, specularChance))
  else specularChance = 1
}

// Layers over the surface: what they leave to it, and how often the lacquer is drawn
let layUnder: f32 = 1
let coatChance: f32 = 0
let f90: f32 = 1
/** Lacquer mirrors like glass of index 1.5 (KHR_materials_clearcoat). */
const COAT_F0: f32 = 0.04
function prepareLayers(scene: usize): void {
  let taken: f32 = 0
  const cloth = max(sheenR, max(sheenG, sheenB))
  if (cloth > 0) {
    const table = <usize>load<u32>(scene, SCENE_SHEEN_TABLE)
    const x = min<f32>(1, max<f32>(0, viewZ)) * <f32>(TABLE - 1)
    const y = sqrt<f32>(min<f32>(1, sheenAlpha)) * <f32>(TABLE - 1)
    const x0 = min<i32>(TABLE - 2, <i32>x)
    const y0 = min<i32>(TABLE - 2, <i32>y)
    const fx = x - <f32>x0
    const fy = y - <f32>y0
    const at = table + ((<usize>y0 * TABLE + x0) << 2)
    const row: usize = (<usize>TABLE) << 2
    const upper = load<f32>(at) + (load<f32>(at, 4) - load<f32>(at)) * fx
    const lower = load<f32>(at + row) + (load<f32>(at + row, 4) - load<f32>(at + row)) * fx
    taken = min<f32>(1, cloth * (upper + (lower - upper) * fy))
  }
  layUnder = ONE - taken
  if (coat > 0) {
    lookAlbedo(scene, viewZ, coatAlpha)
    const mirrored = coat * (COAT_F0 * tableA + tableB)
    layUnder *= ONE - mirrored
    coatChance = max<f32>(0.15, min<f32>(0.6, mirrored * 2))
  }
  mattShare *= layUnder
  diffuseR *= layUnder
  diffuseG *= layUnder
  diffuseB *= layUnder
  boostR *= layUnder
  boostG *= layUnder
  boostB *= layUnder
}

/** Lobes towards x, y, z (world, unit): fills lobe variables; all zero below the surface. */
export function evaluate(x: f32, y: f32, z: f32): void {
  const lz = x * normalX + y * normalY + z * normalZ
  if (lz <= 1e-6) {
    lobeDiffuse = 0
    lobeR = 0
    lobeG = 0
    lobeB = 0
    lobeDensity = 0
    return
  }
  const lx = x * tangentX + y * tangentY + z * tangentZ
  const ly = x * bitangentX + y * bitangentY + z * bitangentZ
  hx = viewX + lx
  hy = viewY + ly
  hz = viewZ + lz
  const scale = ONE / sqrt<f32>(hx * hx + hy * hy + hz * hz)
  hx *= scale
  hy *= scale
  hz *= scale
  const a2 = alphaRoughness * alphaRoughness
  // (hx^2 + hy^2) / a2 + hz^2 rather than the 1 - (1 - a2) hz^2 of the textbooks, which cancels for smooth surfaces
  const d = (hx * hx + hy * hy) / a2 + hz * hz
  const distribution = ONE / (PI * a2 * d * d)
  const gv = sqrt<f32>(a2 + (ONE - a2) * viewZ * viewZ)
  const gl = sqrt<f32>(a2 + (ONE - a2) * lz * lz)
  const visibility = HALF / (lz * gv + viewZ * gl)
  const vh = max<f32>(0, viewX * hx + viewY * hy + viewZ * hz)
  const m = ONE - vh
  const m2 = m * m
  const schlick = m2 * m2 * m
  const common = distribution * visibility * lz * laneScale
  if (glass) {
    const mirrored = glass == GLASS_SOLID ? fresnel(vh, eta) : ofPane(fresnel(vh, eta))
    lobeR = (mirrored + (baseR + (ONE - baseR) * schlick - mirrored) * metallic) * common * boostR
    lobeG = (mirrored + (baseG + (ONE - baseG) * schlick - mirrored) * metallic) * common * boostG
    lobeB = (mirrored + (baseB + (ONE - baseB) * schlick - mirrored) * metallic) * common * boostB
  } else {
    lobeR = (f0R + (f90 - f0R) * schlick) * common * boostR
    lobeG = (f0G + (f90 - f0G) * schlick) * common * boostG
    lobeB = (f0B + (f90 - f0B) * schlick) * common * boostB
  }
  lobeDiffuse = lz * INVERSE_PI
  // Density of a visible normal, mirrored: D G1(v) / (4 v.n)
  const g1 = (TWO * viewZ) / (viewZ + gv)
  const stays: f32 = transmitWeight > 0 ? ONE - throughChance(fresnel(vh, eta)) : 1
  lobeDensity = (specularChance * stays * distribution * g1) / (4 * viewZ) + (ONE - specularChance) * lz * INVERSE_PI
  if (coat > 0) {
    const c2 = coatAlpha * coatAlpha
    const e = (hx * hx + hy * hy) / c2 + hz * hz
    const dense = ONE / (PI * c2 * e * e)
    const cv = sqrt<f32>(c2 + (ONE - c2) * viewZ * viewZ)
    const cl = sqrt<f32>(c2 + (ONE - c2) * lz * lz)
    const laid = ((coat * (COAT_F0 + (ONE - COAT_F0) * schlick) * dense * HALF) / (lz * cv + viewZ * cl)) * lz
    lobeR += laid
    lobeG += laid
    lobeB += laid
    lobeDensity = lobeDensity * (ONE - coatChance) + (coatChance * dense * TWO * viewZ) / (viewZ + cv) / (4 * viewZ)
  }
  if (sheenR + sheenG + sheenB > 0) {
    // Fibres: A. C. Estevez and C. Kulla, "Production friendly microfacet sheen BRDF", 2017, with the visibility that
    // KHR_materials_sheen gives
    const invert = ONE / max<f32>(1e-3, sheenAlpha)
    const sine = sqrt<f32>(max<f32>(0, ONE - hz * hz))
    const laid = (((TWO + invert) * Mathf.pow(sine, invert)) / (TWO * PI) / (4 * (lz + viewZ - lz * viewZ))) * lz
    lobeR += sheenR * laid
    lobeG += sheenG * laid
    lobeB += sheenB * laid
  }
}

/** Direction with cosine density about the normal, left in outX, Y, Z. */
export function sampleCosine(u: f32, v: f32): void {
  const radius = sqrt<f32>(u)
  const angle = v * 6.28318531
  const x = radius * Mathf.cos(angle)
  const y = radius * Mathf.sin(angle)
  const z = sqrt<f32>(max<f32>(0, ONE - u))
  toWorld(x, y, z)
}


@inline
function toWorld(x: f32, y: f32, z: f32): void {
  outX = tangentX * x + bitangentX * y + normalX * z
  outY = tangentY * x + bitangentY * y + normalY * z
  outZ = tangentZ * x + bitangentZ * y + normalZ * z
}

/** How likely the light is followed through a small face that mirrors so much of it, rather than mirrored there. */
@inline
function throughChance(r: f32): f32 {
  const mirrored = glass == GLASS_SHEET ? ofPane(r) : r
  const through = (ONE - mirrored) * transmitWeight
  return through > 0 ? min<f32>(most, through / (through + mirrored)) : 0
}
let most: f32 = 1
/**
 * The most of the directions that go through glass: below 1 where what it mirrors must not be found by a few lucky
 * samples only.
 */
export function mostThrough(share: f32): void {
  most = share
}

/**
 * Draws a direction from the lobes (u, v, choice in [0, 1)), leaving it in outX, Y, Z. Below 0: it stays on this side,
 * evaluate gives its weight and density. Else it goes through the glass, and this is what of the light comes along it
 * over how likely it was drawn, without the colour; 0 where nothing does (B. Walter et al., "Microfacet models for
 * refraction", EGSR 2007).
 */
export function sampleLobes(u: f32, v: f32, choice: f32): f32 {
  if (coatChance > 0) {
    if (u < coatChance) {
      visibleNormal(u / coatChance, v, coatAlpha)
      const along = TWO * (viewX * hx + viewY * hy + viewZ * hz)
      toWorld(along * hx - viewX, along * hy - viewY, along * hz - viewZ)
      return -1
    }
    u = min<f32>(0.99999994, (u - coatChance) / (ONE - coatChance))
  }
  if (u >= specularChance) {
    sampleCosine((u - specularChance) / (ONE - specularChance), v)
    return -1
  }
  visibleNormal(min<f32>(0.99999994, u / specularChance), v, alphaRoughness)
  const vh = viewX * hx + viewY * hy + viewZ * hz
  if (transmitWeight > 0) {
    const r = fresnel(vh, eta)
    const chance = throughChance(r)
    if (choice < chance) return throughFace(vh, r) / (chance * specularChance * (ONE - coatChance))
  }
  const along = TWO * vh
  toWorld(along * hx - viewX, along * hy - viewY, along * hz - viewZ)
  return -1
}

function throughFace(vh: f32, r: f32): f32 {
  const z = bendThrough(vh)
  if (z >= -1e-6) return 0
  const a2 = alphaRoughness * alphaRoughness
  const g1 = (TWO * -z) / (sqrt<f32>(a2 + (ONE - a2) * z * z) - z)
  return (ONE - (glass == GLASS_SHEET ? ofPane(r) : r)) * g1 * boostR * transmitWeight
}

/**
 * Leaves the way through the small face in outX, Y, Z; returns its height over the surface, not below 0 where light
 * does not pass.
 */
function bendThrough(vh: f32): f32 {
  let x: f32
  let y: f32
  let z: f32
  if (glass == GLASS_SHEET) {
    // In by one face and out by the other: as if mirrored, to the other side
    x = TWO * vh * hx - viewX
    y = TWO * vh * hy - viewY
    z = viewZ - TWO * vh * hz
  } else {
    const inside = ONE - eta * eta * (ONE - vh * vh)
    if (inside <= 0) return 0
    const along = eta * vh - sqrt<f32>(inside)
    x = along * hx - eta * viewX
    y = along * hy - eta * viewY
    z = along * hz - eta * viewZ
  }
  toWorld(x, y, z)
  return z
}

/**
 * The way on through the prepared glass, or mirrored by the prepared surface, left in outX, Y, Z: by the surface itself
 * when smooth is said, else by one of its small faces drawn with u, v. Returns -1 when it goes through, 1 when it stays
 * on this side (light that is mirrored whole within glass too), 0 where there is none.
 */
export function leaveFace(u: f32, v: f32, smooth: bool, mirrors: bool): i32 {
  if (smooth) {
    hx = 0
    hy = 0
    hz = 1
  } else visibleNormal(u, v, alphaRoughness)
  const vh = viewX * hx + viewY * hy + viewZ * hz
  if (!mirrors && bendThrough(vh) < -1e-6) return -1
  const along = TWO * vh
  const z = along * hz - viewZ
  toWorld(along * hx - viewX, along * hy - viewY, z)
  return z > 0 ? 1 : 0
}

// A normal of the microfacets that the viewer sees, in the frame of the surface
let hx: f32 = 0
let hy: f32 = 0
let hz: f32 = 0
function visibleNormal(u: f32, v: f32, width: f32): void {
  // Stretch, sample the visible half disc, unstretch (Heitz 2018)
  let sx = viewX * width
  let sy = viewY * width
  let sz = viewZ
  const scale = ONE / sqrt<f32>(sx * sx + sy * sy + sz * sz)
  sx *= scale
  sy *= scale
  sz *= scale
  const flat = sx * sx + sy * sy
  let ax: f32 = 1
  let ay: f32 = 0
  if (flat > 1e-14) {
    const r = ONE / sqrt<f32>(flat)
    ax = -sy * r
    ay = sx * r
  }
  const bx = -sz * ay
  const by = sz * ax
  const bz = sx * ay - sy * ax
  const radius = sqrt<f32>(u)
  const angle = v * 6.28318531
  const p1 = radius * Mathf.cos(angle)
  const s = HALF * (1 + sz)
  const p2 = (ONE - s) * sqrt<f32>(max<f32>(0, ONE - p1 * p1)) + s * radius * Mathf.sin(angle)
  const p3 = sqrt<f32>(max<f32>(0, ONE - p1 * p1 - p2 * p2))
  hx = ax * p1 + bx * p2 + sx * p3
  hy = ay * p1 + by * p2 + sy * p3
  hz = bz * p2 + sz * p3
  hx *= width
  hy *= width
  hz = max<f32>(1e-6, hz)
  const length = ONE / sqrt<f32>(hx * hx + hy * hy + hz * hz)
  hx *= length
  hy *= length
  hz *= length
}

/** Direction within a cone about an axis: cosine in [cosine, 1] uniformly; left in outX, Y, Z. */
export function sampleCone(x: f32, y: f32, z: f32, cosine: f32, u: f32, v: f32): void {
  buildBasis(x, y, z)
  const c = ONE - u * (ONE - cosine)
  const s = sqrt<f32>(max<f32>(0, ONE - c * c))
  const angle = v * 6.28318531
  const a = s * Mathf.cos(angle)
  const b = s * Mathf.sin(angle)
  outX = basisAX * a + basisBX * b + x * c
  outY = basisAY * a + basisBY * b + y * c
  outZ = basisAZ * a + basisBZ * b + z * c
}
