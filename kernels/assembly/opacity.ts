// What light meets and goes through, where nothing else of a surface is asked.
import { ONE } from './constants'
import * as L from './layout'
import { fetchTexture } from './texture'
import { loadExtra, painted, standing, stood, vertexOf } from './vertex'


@inline
export function applyMode(material: usize, value: f32): f32 {
  const mode = load<i32>(material, L.MATERIAL_ALPHA_MODE)
  if (mode == 0) return 1
  if (mode == 1) return value >= load<f32>(material, L.MATERIAL_CUTOFF) ? 1 : 0
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
export function paneOpacity(material: usize, through: f32, red: f32, green: f32, blue: f32, cosine: f32): f32 {
  const grey = red * <f32>0.2126 + green * <f32>0.7152 + blue * <f32>0.0722
  return (
    ONE -
    through *
      (ONE - load<f32>(material, L.MATERIAL_METALLIC)) *
      grey *
      (ONE - ofPane(fresnel(cosine, ONE / load<f32>(material, L.MATERIAL_IOR))))
  )
}

/**
 * Opacity of a triangle (of the mesh of a place, 0 for none) at barycentric u, v, met along dx, dy, dz: for shadow
 * rays, which need nothing else of the surface.
 */
export function opacityAt(scene: usize, place: usize, triangle: i32, u: f32, v: f32, dx: f32, dy: f32, dz: f32): f32 {
  const record = <usize>load<u32>(scene, L.SCENE_TRIANGLES) + <usize>triangle * L.TRIANGLE_STRIDE
  const material = <usize>load<u32>(scene, L.SCENE_MATERIALS) + <usize>load<u32>(record, 16) * L.MATERIAL_STRIDE
  let a = vertexOf(scene, record, 0)
  let b = vertexOf(scene, record, 1)
  let c = vertexOf(scene, record, 2)
  const w = ONE - u - v
  const s = load<f32>(a, 24) * w + load<f32>(b, 24) * u + load<f32>(c, 24) * v
  const t = load<f32>(a, 28) * w + load<f32>(b, 28) * u + load<f32>(c, 28) * v
  const texture = load<i32>(material, L.MATERIAL_TEXTURE_BASE)
  let colour = v128.load(material, L.MATERIAL_BASE)
  if (loadExtra(scene, record, u, v, w)) colour = f32x4.mul(colour, painted)
  if (texture >= 0) colour = f32x4.mul(colour, fetchTexture(scene, texture, s, t))
  const value = applyMode(material, f32x4.extract_lane(colour, 3))
  if (load<i32>(material, L.MATERIAL_GLASS) != L.GLASS_PANE) return value
  let through = load<f32>(material, L.MATERIAL_TRANSMISSION)
  const how = load<i32>(material, L.MATERIAL_TEXTURE_TRANSMISSION)
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
