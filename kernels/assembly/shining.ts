// Light that surfaces send by themselves.
import { ONE } from './constants'
import * as L from './layout'
import { fetchTexture } from './texture'
import { loadExtra, vertexOf } from './vertex'

/**
 * Emission of a triangle at barycentric u, v, left in shiningR, G, B; the facing test is the caller's.
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
  loadExtra(scene, record, u, v, w)
  loadEmission(
    scene,
    <usize>load<u32>(scene, L.SCENE_MATERIALS) + <usize>load<u32>(record, 16) * L.MATERIAL_STRIDE,
    load<f32>(a, 24) * w + load<f32>(b, 24) * u + load<f32>(c, 24) * v,
    load<f32>(a, 28) * w + load<f32>(b, 28) * u + load<f32>(c, 28) * v,
  )
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
