// The surface model: glTF 2.0 metallic-roughness (appendix B of the specification) with GGX.
// Energy: the specular lobe is scaled for multiple scattering (E. Turquin, "Practical multiple scattering compensation
// for microfacet models", 2019) and the diffuse lobe gets what the dielectric lobe leaves, so that a white surface in
// white light returns exactly white. Visible normals: E. Heitz, JCGT 7(4), 2018.
import { ONE, TWO, HALF } from './constants'
import {
  bitangentX,
  bitangentY,
  bitangentZ,
  frame,
  halfway,
  hx,
  hy,
  hz,
  INVERSE_PI,
  lookAlbedo,
  lookSheen,
  masking,
  mirror,
  PI,
  sampleCosine,
  tableA,
  tableB,
  tangentX,
  tangentY,
  tangentZ,
  viewX,
  viewY,
  viewZ,
  visibleNormal,
} from './facets'
import {
  glassMirrors,
  glassPasses,
  mattWithin,
  ofFace,
  prepareGlass,
  throughFace,
  walk,
  WALK_STAYS,
  WALK_THROUGH,
} from './glass'
import * as L from './layout'
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
  glass,
  paneShare,
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

let f0R: f32 = 0
let f0G: f32 = 0
let f0B: f32 = 0
let boostR: f32 = 1 // of glass: of its metal alone
let boostG: f32 = 1
let boostB: f32 = 1
let metalBoost: f32 = 1 // of a white metal
let glassBoost: f32 = 1 // of glass: of what is no metal
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
/** It is black all through: no light comes back from it. */
export let sendsNothing: bool = false
// Glass: what there is of the lobe through it
export let transmitWeight: f32 = 0
let laneScale: f32 = 1 // a pane's lobes stand for the share of it that is no hole

// Results of evaluate: the two lobes times cosine, and the density of sampling that direction.
export let lobeDiffuse: f32 = 0 // to be multiplied with diffuseR, G, B
export let lobeR: f32 = 0
export let lobeG: f32 = 0
export let lobeB: f32 = 0
export let lobeDensity: f32 = 0
/** Prepares the lobes for the loaded surface seen along dx, dy, dz (direction the ray travelled in). */
export function prepare(scene: usize, dx: f32, dy: f32, dz: f32): void {
  frame(dx, dy, dz)
  walks = false
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
  const lost = ONE / max<f32>(1e-3, tableA + tableB) - 1
  transmitWeight = 0
  laneScale = 1
  if (glass) {
    // Of what the glass does not mirror, some goes through and the rest is matt: together they give back what came. What
    // one scattering of rough glass loses is given back to all of it.
    prepareGlass()
    glassBoost = (ONE - metallic) / max<f32>(0.05, glassMirrors + glassPasses)
    mattShare = (ONE - transmission) * glassPasses * glassBoost
    metalBoost = 1 + lost
    boostR = metallic * (1 + baseR * lost)
    boostG = metallic * (1 + baseG * lost)
    boostB = metallic * (1 + baseB * lost)
    if (glass == L.GLASS_PANE) {
      laneScale = ONE / paneShare
      mattShare *= laneScale
    } else transmitWeight = transmission * (ONE - metallic)
  } else {
    // A mixture of metal and dielectric sends back the mixture of what both send back, each with what one scattering of
    // its small faces loses given back
    const plainR = (F0R * tableA + specularStrength * tableB) * (1 + F0R * lost)
    const plainG = (F0G * tableA + specularStrength * tableB) * (1 + F0G * lost)
    const plainB = (F0B * tableA + specularStrength * tableB) * (1 + F0B * lost)
    mattShare = (ONE - metallic) * (ONE - max(plainR, max(plainG, plainB)))
    boostR = boostOf(plainR, baseR, f0R, lost)
    boostG = boostOf(plainG, baseG, f0G, lost)
    boostB = boostOf(plainB, baseB, f0B, lost)
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
  tableB = ownB
  let specular: f32
  if (glass) specular = 3 * (glassMirrors * glassBoost + metallic) + transmitWeight * 3
  else
    specular =
      (f0R * tableA + f90 * tableB) * boostR +
      (f0G * tableA + f90 * tableB) * boostG +
      (f0B * tableA + f90 * tableB) * boostB
  albedoR = baseR
  albedoG = baseG
  albedoB = baseB
  const diffuse = diffuseR + diffuseG + diffuseB
  sendsNothing = !glass && coat <= 0 && specular <= 0 && diffuse + sheenR + sheenG + sheenB <= 0
  specularChance = specular + diffuse > 0 ? specular / (specular + diffuse) : 1
  // Neither lobe may starve: its rare samples would carry large weights
  if (diffuse > 0 || (mattWanted && mattShare > 0) || sheenR + sheenG + sheenB > 0)
    specularChance = specular > 0 ? max<f32>(0.1, min<f32>(0.9, specularChance)) : 0
  else specularChance = 1
}

/** What the mixed lobe must be scaled by; plain: what the dielectric's share of it sends back. */
@inline
function boostOf(plain: f32, base: f32, f0: f32, lost: f32): f32 {
  const whole = (ONE - metallic) * plain + metallic * (base * tableA + tableB) * (1 + base * lost)
  return whole / max<f32>(1e-6, f0 * tableA + f90 * tableB)
}

// Layers over the surface: what they leave to it, and how often the lacquer is drawn
let layUnder: f32 = 1
let underCoat: f32 = 1 // what the lacquer leaves to the cloth and all below
let coatChance: f32 = 0
let f90: f32 = 1
/** Lacquer mirrors like glass of index 1.5 (KHR_materials_clearcoat). */
const COAT_F0: f32 = 0.04
function prepareLayers(scene: usize): void {
  let taken: f32 = 0
  const cloth = max(sheenR, max(sheenG, sheenB))
  if (cloth > 0) {
    taken = min<f32>(1, cloth * lookSheen(scene, viewZ, sheenAlpha))
  }
  layUnder = ONE - taken
  underCoat = 1
  if (coat > 0) {
    lookAlbedo(scene, viewZ, coatAlpha)
    const mirrored = coat * (COAT_F0 * tableA + tableB)
    underCoat = ONE - mirrored
    layUnder *= underCoat
    coatChance = max<f32>(0.15, min<f32>(0.6, mirrored * 2))
  }
  mattShare *= layUnder
  diffuseR *= layUnder
  diffuseG *= layUnder
  diffuseB *= layUnder
  boostR *= layUnder
  boostG *= layUnder
  boostB *= layUnder
  glassBoost *= layUnder
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
  halfway(lx, ly, lz)
  const a2 = alphaRoughness * alphaRoughness
  // (hx^2 + hy^2) / a2 + hz^2 rather than the 1 - (1 - a2) hz^2 of the textbooks, which cancels for smooth surfaces
  const d = (hx * hx + hy * hy) / a2 + hz * hz
  const distribution = ONE / (PI * a2 * d * d)
  const gv = masking(alphaRoughness, viewZ)
  const gl = masking(alphaRoughness, lz)
  const visibility = HALF / (lz * gv + viewZ * gl)
  const vh = max<f32>(0, viewX * hx + viewY * hy + viewZ * hz)
  const m = ONE - vh
  const m2 = m * m
  const schlick = m2 * m2 * m
  const common = distribution * visibility * lz * laneScale
  // Density of a visible normal, mirrored: D G1(v) / (4 v.n)
  const seen = (distribution * TWO) / (viewZ + gv) / 4
  lobeDiffuse = lz * INVERSE_PI
  if (glass) {
    const face = ofFace(vh)
    const mirrored = face * glassBoost * common
    lobeR = mirrored + (baseR + (ONE - baseR) * schlick) * boostR * common
    lobeG = mirrored + (baseG + (ONE - baseG) * schlick) * boostG * common
    lobeB = mirrored + (baseB + (ONE - baseB) * schlick) * boostB * common
    if (mattShare > 0) lobeDiffuse *= mattWithin(lz)
    if (walks)
      lobeDensity =
        clothChance * lz * INVERSE_PI +
        (ONE - clothChance) *
          (metallic * common * metalBoost + (mirrored + mattShare * lobeDiffuse) / max<f32>(1e-6, layUnder))
    else {
      const stays: f32 = transmitWeight > 0 ? ONE - throughChance(face) : 1
      lobeDensity = specularChance * stays * seen + (ONE - specularChance) * lz * INVERSE_PI
    }
  } else {
    lobeR = (f0R + (f90 - f0R) * schlick) * common * boostR
    lobeG = (f0G + (f90 - f0G) * schlick) * common * boostG
    lobeB = (f0B + (f90 - f0B) * schlick) * common * boostB
    lobeDensity = specularChance * seen + (ONE - specularChance) * lz * INVERSE_PI
  }
  if (coat > 0) {
    const c2 = coatAlpha * coatAlpha
    const e = (hx * hx + hy * hy) / c2 + hz * hz
    const dense = ONE / (PI * c2 * e * e)
    const cv = masking(coatAlpha, viewZ)
    const cl = masking(coatAlpha, lz)
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
    lobeR += sheenR * laid * underCoat
    lobeG += sheenG * laid * underCoat
    lobeB += sheenB * laid * underCoat
  }
}

/** How likely the light is followed through a small face that mirrors so much of it, rather than mirrored there. */
@inline
function throughChance(mirrored: f32): f32 {
  const through = (ONE - mirrored) * transmitWeight
  return through > 0 ? min<f32>(MOST_THROUGH, through / (through + mirrored * (ONE - metallic) + metallic)) : 0
}
/** The most of the first directions that go through glass: what it mirrors must not be found by a few lucky ones only. */
const MOST_THROUGH: f32 = 0.75
// Whether light is walked on at glass, rather than guided where it would be noisy
let walks: bool = false
let clothChance: f32 = 0
/**
 * Says whether light is walked on at glass: for every surface but the first of a path. A guided direction carries more
 * or less than all of the light, which multiplies within a body.
 */
export function walkOn(on: bool): void {
  walks = on && glass != 0 && glass != L.GLASS_PANE
  clothChance = sheenR + sheenG + sheenB > 0 ? 0.25 : 0
}

/**
 * Draws a direction from the lobes (u, v, choice in [0, 1)), leaving it in outX, Y, Z. Below 0: it stays on this side,
 * evaluate gives its weight and density. Else it goes through the glass, and this is what of the light comes along it
 * over how likely it was drawn, without the colour; 0 where nothing does.
 */
export function sampleLobes(u: f32, v: f32, choice: f32): f32 {
  if (coatChance > 0) {
    if (u < coatChance) {
      visibleNormal(u / coatChance, v, coatAlpha)
      mirror()
      return -1
    }
    u = min<f32>(0.99999994, (u - coatChance) / (ONE - coatChance))
  }
  if (walks) {
    if (u < clothChance) {
      sampleCosine(u / clothChance, v)
      return -1
    }
    u = min<f32>(0.99999994, (u - clothChance) / (ONE - clothChance))
    if (u < metallic) {
      return walk(u / metallic, v, -1) == WALK_STAYS ? -1 : 0
    }
    const way = walk(min<f32>(0.99999994, (u - metallic) / (ONE - metallic)), v, choice)
    if (way == WALK_STAYS) return -1
    return way == WALK_THROUGH ? layUnder / ((ONE - coatChance) * (ONE - clothChance)) : 0
  }
  if (u >= specularChance) {
    sampleCosine((u - specularChance) / (ONE - specularChance), v)
    return -1
  }
  visibleNormal(min<f32>(0.99999994, u / specularChance), v, alphaRoughness)
  if (transmitWeight > 0) {
    const vh = viewX * hx + viewY * hy + viewZ * hz
    const face = ofFace(vh)
    const chance = throughChance(face)
    if (choice < chance) return (throughFace(vh, face) * glassBoost) / (chance * specularChance * (ONE - coatChance))
  }
  mirror()
  return -1
}
