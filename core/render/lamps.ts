// Everything that gives light, in one list for the kernels, and the groups that light is told apart by.
import * as L from '../../kernels/assembly/layout'
import type { Kernels } from '../engine/memory'
import type { Light, Material, Scene } from '../scene/scene'
import { projectedAngle } from '../scene/flux'
import { cross, length, normalized, type Vector3 } from '../scene/vector'

const RGB_LUMINANCE = [0.2126, 0.7152, 0.0722] as const
const luminance = (c: Vector3): number => c[0] * RGB_LUMINANCE[0] + c[1] * RGB_LUMINANCE[1] + c[2] * RGB_LUMINANCE[2]

export const shines = ({ emission }: Material): boolean => emission[0] + emission[1] + emission[2] > 0

export interface Emitter { triangle: number; area: number; emission: Vector3; doubleSided: boolean; normal: Vector3; centre: Vector3 }

/** Group of what shines by itself where nothing else is said, and of what is beyond the most groups that are told apart. */
export const SHINING = 'shining things'
const REST = 'all other light'
export class LightGroups {
  names: string[] = []
  number(name: string): number {
    const known = this.names.indexOf(name)
    if (known >= 0) return known
    if (this.names.length < L.MOST_GROUPS - 1) return this.names.push(name) - 1
    return this.names.length < L.MOST_GROUPS ? this.names.push(REST) - 1 : L.MOST_GROUPS - 1
  }
}
/** Lamps of the scene and emissive triangles in one list, picked in proportion to what they give off. */
export function placeLights(kernels: Kernels, scene: Scene, emitters: Emitter[], trianglePointer: number, groups: LightGroups, groupOf: readonly number[], own: (pointer: number) => number): { pointer: number; cumulative: number; count: number } {
  const stride = L.LIGHT_STRIDE / 4
  const count = scene.lights.length + emitters.length
  const words = new Int32Array(Math.max(1, count) * stride), floats = new Float32Array(words.buffer)
  const powers: number[] = []
  const put = (at: number, field: number, values: readonly number[]): void => floats.set(values, at + (field >> 2))
  scene.lights.forEach((light, i) => { words[i * stride + (L.LIGHT_GROUP >> 2)] = groups.number(light.group ?? light.name); powers.push(putLight(light, i * stride, words, put)) })
  const triangles = new Int32Array(kernels.memory.buffer, trianglePointer)
  emitters.forEach((emitter, i) => {
    const index = scene.lights.length + i, at = index * stride
    words[at] = 2
    put(at, L.LIGHT_POSITION, emitter.centre)
    put(at, L.LIGHT_NORMAL, emitter.normal)
    words[at + (L.LIGHT_U >> 2)] = emitter.triangle
    put(at, L.LIGHT_RADIANCE, emitter.emission)
    floats[at + (L.LIGHT_AREA >> 2)] = emitter.area
    words[at + (L.LIGHT_EDGE1 >> 2)] = emitter.doubleSided ? 1 : 0
    triangles[emitter.triangle * 6 + 5] = index
    words[at + (L.LIGHT_GROUP >> 2)] = groupOf[triangles[emitter.triangle * 6 + 3]!]!
    powers.push(luminance(emitter.emission) * emitter.area * Math.PI * (emitter.doubleSided ? 2 : 1))
  })
  const total = powers.reduce((sum, power) => sum + power, 0)
  const cumulative = new Float32Array(Math.max(1, count))
  let sum = 0
  powers.forEach((power, i) => {
    // Nothing that shines is ever left out of the draw
    const chance = total > 0 ? 0.95 * power / total + 0.05 / count : 1 / count
    floats[i * stride + (L.LIGHT_CHANCE >> 2)] = chance
    sum += chance
    cumulative[i] = sum
  })
  if (count) cumulative[count - 1] = 2
  return { pointer: own(kernels.place(words)), cumulative: own(kernels.place(cumulative)), count }
}

function putLight(light: Light, at: number, words: Int32Array, put: (at: number, field: number, values: readonly number[]) => void): number {
  if (light.kind === 'sun') {
    words[at] = 0
    const cosine = Math.cos(Math.max(0.01, light.diameter) / 2 * Math.PI / 180)
    // sin² of the half angle times pi is the projected solid angle: irradiance over it is the radiance of the disc
    const projected = Math.PI * (1 - cosine * cosine)
    put(at, L.LIGHT_NORMAL, light.direction)
    put(at, L.LIGHT_RADIANCE, light.irradiance.map(value => value / projected))
    put(at, L.LIGHT_AREA, [2 * Math.PI * (1 - cosine)])
    put(at, L.LIGHT_COSINE, [cosine])
    return luminance(light.irradiance) * 100
  }
  if (light.kind === 'box') {
    words[at] = 1
    put(at, L.LIGHT_POSITION, light.centre)
    put(at, L.LIGHT_NORMAL, light.normal)
    put(at, L.LIGHT_U, light.halfU)
    put(at, L.LIGHT_V, light.halfV)
    put(at, L.LIGHT_RADIANCE, light.radiance)
    const area = 4 * length(cross(light.halfU, light.halfV))
    put(at, L.LIGHT_AREA, [area])
    return luminance(light.radiance) * area * Math.PI
  }
  if (light.kind === 'disc') {
    words[at] = 5
    const u = normalized(cross(Math.abs(light.normal[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0], light.normal)), v = cross(light.normal, u), area = Math.PI * light.radius ** 2
    put(at, L.LIGHT_POSITION, light.centre)
    put(at, L.LIGHT_NORMAL, light.normal)
    put(at, L.LIGHT_U, u.map(value => value * light.radius))
    put(at, L.LIGHT_V, v.map(value => value * light.radius))
    put(at, L.LIGHT_RADIANCE, light.radiance)
    put(at, L.LIGHT_AREA, [area])
    put(at, L.LIGHT_COSINE, [light.cone ? Math.cos(light.cone.outer * Math.PI / 180) : -2])
    if (light.cone) put(at, L.LIGHT_COSINE_INNER, [Math.cos(light.cone.inner * Math.PI / 180)])
    return luminance(light.radiance) * area * projectedAngle(light.cone)
  }
  if (light.kind === 'ball' || light.kind === 'tube') {
    words[at] = light.kind === 'ball' ? 6 : 7
    put(at, L.LIGHT_POSITION, light.centre)
    put(at, L.LIGHT_U, [light.radius])
    if (light.kind === 'tube') put(at, L.LIGHT_V, light.half)
    put(at, L.LIGHT_RADIANCE, light.radiance)
    return luminance(light.radiance) * Math.PI * (light.kind === 'ball' ? 4 * Math.PI * light.radius ** 2 : 4 * Math.PI * light.radius * length(light.half))
  }
  words[at] = light.kind === 'point' ? 3 : 4
  put(at, L.LIGHT_POSITION, light.position)
  put(at, L.LIGHT_RADIANCE, light.intensity)
  if (light.kind === 'spot') {
    put(at, L.LIGHT_NORMAL, light.direction)
    put(at, L.LIGHT_COSINE, [Math.cos(light.outer * Math.PI / 180)])
    put(at, L.LIGHT_COSINE_INNER, [Math.cos(light.inner * Math.PI / 180)])
  }
  return luminance(light.intensity) * 4 * Math.PI
}
