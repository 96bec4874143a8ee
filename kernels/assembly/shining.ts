// Light that surfaces send by themselves.
import { ONE } from './constants'
import * as L from './layout'
import { applyMode } from './opacity'
import { fetchTexture } from './texture'
import { loadExtra, painted, vertexOf } from './vertex'

/**
 * What a triangle sends at barycentric u, v, left in shiningR, G, B: only what of it is there, where it is cut out or
 * thin. The facing test is the caller's.
 */
export let shiningR: f32 = 0
export let shiningG: f32 = 0
export let shiningB: f32 = 0
export function emissionAt(scene: usize, triangle: i32, u: f32, v: f32): void {
  const record = <usize>load<u32>(scene, L.SCENE_TRIANGLES) + <usize>triangle * L.TRIANGLE_STRIDE
  const a = vertexOf(scene, record, 0)
  const b = vertexOf(scene, record, 1)
  const c = vertexOf(scene, record, 2)
  const w = ONE - u - v
  const isPainted = loadExtra(scene, record, u, v, w)
  const material = <usize>load<u32>(scene, L.SCENE_MATERIALS) + <usize>load<u32>(record, 16) * L.MATERIAL_STRIDE
  const s = load<f32>(a, 24) * w + load<f32>(b, 24) * u + load<f32>(c, 24) * v
  const t = load<f32>(a, 28) * w + load<f32>(b, 28) * u + load<f32>(c, 28) * v
  loadEmission(scene, material, s, t)
  if (load<i32>(material, L.MATERIAL_ALPHA_MODE) == 0) return
  let alpha = load<f32>(material, L.MATERIAL_BASE + 12)
  if (isPainted) alpha *= f32x4.extract_lane(painted, 3)
  const texture = load<i32>(material, L.MATERIAL_TEXTURE_BASE)
  if (texture >= 0) alpha *= f32x4.extract_lane(fetchTexture(scene, texture, s, t), 3)
  alpha = applyMode(material, alpha)
  shiningR *= alpha
  shiningG *= alpha
  shiningB *= alpha
}

/** Of a material, in shiningR, G, B. */
@inline
export function loadEmission(scene: usize, material: usize, s: f32, t: f32): void {
  shiningR = load<f32>(material, L.MATERIAL_EMISSION)
  shiningG = load<f32>(material, L.MATERIAL_EMISSION + 4)
  shiningB = load<f32>(material, L.MATERIAL_EMISSION + 8)
  const texture = load<i32>(material, L.MATERIAL_TEXTURE_EMISSION)
  if (texture >= 0 && shiningR + shiningG + shiningB > 0) {
    const value = fetchTexture(scene, texture, s, t)
    shiningR *= f32x4.extract_lane(value, 0)
    shiningG *= f32x4.extract_lane(value, 1)
    shiningB *= f32x4.extract_lane(value, 2)
  }
}
