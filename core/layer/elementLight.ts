// What lights an element, as its kernel reads it.
import { add, scaled, type Vector3 } from '../scene/vector'
import { ELEMENT_LIGHT } from '../../kernels/assembly/layout'
import { lampAt, skyPlaces } from './castLights'
import type { ElementValues } from './elementValues'
import type { LayerInput } from './layer'

/** Lamps of less power than this (W/sr) give nothing that is seen. */
const NOTHING = 1e-7
/** Within so many metres of its middle a lamp is as bright as there. */
const LEAST_RADIUS = 0.02

export interface Shine {
  /** What falls everywhere, and is there without light. */
  ambient: Vector3
  /** As many times a lamp (ELEMENT_LIGHT). */
  lamps: Float32Array
  count: number
}
/** As it is by itself. */
const OWN: Shine = { ambient: [1, 1, 1], lamps: new Float32Array(ELEMENT_LIGHT / 4), count: 0 }

/**
 * The light about places of the scene by which a picture is multiplied there: of something white that faces all of it,
 * irradiance over pi. Throws StillPacked.
 */
export function shineOf(input: LayerInput, { lit, by }: Pick<ElementValues, 'lit' | 'by'>): (at: Vector3) => Shine {
  if (!(lit > 0)) return () => OWN
  const isOne = by === 'one light'
  const lights = isOne ? input.lights().filter(({ name }) => name === input.light) : input.lights()
  const surroundings = isOne ? undefined : input.surroundings()
  const share = lit / Math.PI
  const own: Vector3 = [1 - lit, 1 - lit, 1 - lit]
  const around = surroundings
    ? skyPlaces(surroundings).reduce<Vector3>((sum, { power }) => add(sum, scaled(power, share)), own)
    : own
  return at => {
    const lamps = lights.flatMap(light => lampAt(light, at) ?? [])
    const near = lamps.filter(({ isPlace, power }) => isPlace && Math.max(...power) * share >= NOTHING)
    return {
      ambient: lamps.reduce((sum, { isPlace, power }) => (isPlace ? sum : add(sum, scaled(power, share))), around),
      lamps: near.length
        ? Float32Array.from(
            near.flatMap(({ middle, radius, power }) => [
              ...middle,
              Math.max(LEAST_RADIUS, radius) ** 2,
              ...scaled(power, share),
              0,
            ]),
          )
        : OWN.lamps,
      count: near.length,
    }
  }
}
