// How strong a lamp's surface shines from the power it is said to have. Powers are of the light it gives off, by
// Lambert's law of its surface.

/**
 * Lumen that stand for one watt of the renderer's light: the definition of the candela (SI brochure, 540 THz). Lumen of
 * any white are read by it.
 */
export const LUMEN_PER_WATT = 683

/** Falloff of a cone between its inner and outer angle, as cosines: glTF KHR_lights_punctual. */
export function coneRamp(cosine: number, inner: number, outer: number): number {
  const ramp = Math.min(1, Math.max(0, (cosine - outer) / Math.max(1e-4, inner - outer)))
  return ramp * ramp
}

/**
 * Projected solid angle (steradian) through which a flat surface shines: pi without a cone. Simpson's rule over the
 * ramp; angles in degrees from the axis.
 */
export function projectedAngle(cone?: { inner: number; outer: number }): number {
  if (!cone) return Math.PI
  const outer = (cone.outer * Math.PI) / 180
  const co = Math.cos(outer)
  const ci = Math.cos((cone.inner * Math.PI) / 180)
  const steps = 512
  let sum = 0
  for (let i = 0; i <= steps; i++) {
    const t = (i / steps) * outer
    sum += coneRamp(Math.cos(t), ci, co) * Math.cos(t) * Math.sin(t) * (i === 0 || i === steps ? 1 : i % 2 ? 4 : 2)
  }
  return (2 * Math.PI * sum * outer) / steps / 3
}

export type FluxShape =
  | { kind: 'flat'; area: number; cone?: { inner: number; outer: number } }
  | { kind: 'ball'; radius: number }
  | { kind: 'tube'; radius: number; length: number }

/** Radiance in W/(m2 sr) of a surface that gives off so many watts. */
export function radianceOf(watts: number, shape: FluxShape): number {
  if (shape.kind === 'flat') return watts / (shape.area * projectedAngle(shape.cone))
  const area = shape.kind === 'ball' ? 4 * Math.PI * shape.radius ** 2 : 2 * Math.PI * shape.radius * shape.length
  return watts / (area * Math.PI)
}
