// Occlusion: how open a surface is within some reach, by the real opacity of what stands round it.
import { opacityAt } from './opacity'
import { ONE } from './constants'
import * as L from './layout'
import { stepOff } from './film'
import { draw, randomX, randomY } from './random'
import { closestHit, transmittance, hitDistance, hitPlace, hitTriangle, hitU, hitV } from './traverse'
import * as F from './facets'
import * as S from './surface'
import * as M from './shading'

/** Layers of cut-outs that one ray counts at most where far things count for less. */
const MOST_LAYERS = 8

/** One sample of how open the loaded and prepared surface is, 0..1. */
export function openAt(scene: usize, render: usize, dimension: u32): f32 {
  if (S.surfaceFlags & L.OBJECT_UNDARKENED) return 1
  draw(dimension + 7)
  // By the cosine within the cone: the square of the sine is even
  F.sampleCosine(randomX * load<f32>(render, L.RENDER_OCCLUSION_SINE), randomY)
  if (F.outX * S.geometricX + F.outY * S.geometricY + F.outZ * S.geometricZ <= 0) return 0
  const step = stepOff()
  const x = S.positionX + S.geometricX * step
  const y = S.positionY + S.geometricY * step
  const z = S.positionZ + S.geometricZ * step
  const dx = F.outX
  const dy = F.outY
  const dz = F.outZ
  const reach = load<f32>(render, L.RENDER_OCCLUSION_REACH)
  const falloff = load<f32>(render, L.RENDER_OCCLUSION_FALLOFF)
  if (falloff <= 0) return transmittance(scene, x, y, z, dx, dy, dz, 0, reach, L.FLAG_LIGHT)
  let near: f32 = 0
  let through: f32 = 1
  let dark: f32 = 0
  for (let layer = 0; layer < MOST_LAYERS && through > 1e-3; layer++) {
    if (!closestHit(scene, x, y, z, dx, dy, dz, near, reach, L.FLAG_LIGHT)) break
    const opacity = opacityAt(scene, hitPlace, hitTriangle, hitU, hitV, dx, dy, dz)
    dark += through * opacity * Mathf.pow(max<f32>(0, ONE - hitDistance / reach), falloff)
    through *= ONE - opacity
    near = hitDistance + step
  }
  return ONE - dark
}
