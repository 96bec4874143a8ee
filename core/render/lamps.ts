// Everything that gives light, in one list for the kernels, and the groups that light is told apart by.
import * as L from '../../kernels/assembly/layout'
import { luminance } from '../colour/luminance'
import type { Kernels } from '../engine/memory'
import type { Light, Material, Scene } from '../scene/scene'
import { add, cross, length, normalized, scaled, subtract, type Vector3 } from '../scene/vector'
import { lightTree, type TreeLight } from './lighttree'

const luminanceOf = (colour: Vector3): number => luminance(...colour)

export const shines = ({ emission }: Material): boolean => emission[0] + emission[1] + emission[2] > 0

export interface Emitter {
  triangle: number
  area: number
  emission: Vector3
  doubleSided: boolean
  normal: Vector3
  low: Vector3
  high: Vector3
}

/**
 * Group of what shines by itself where nothing else is said, and of what is beyond the most groups that are told apart.
 */
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
/**
 * Suns, lamps and emissive triangles in one list, in that order, and the tree that those with a place are picked by.
 */
export function placeLights(
  kernels: Kernels,
  scene: Scene,
  emitters: Emitter[],
  trianglePointer: number,
  groups: LightGroups,
  groupOf: readonly number[],
  own: (pointer: number) => number,
): { pointer: number; tree: number; suns: number; lamps: number } {
  const stride = L.LIGHT_STRIDE / 4
  const numbers = scene.lights.map(light => groups.number(light.group ?? light.name))
  const order = [...scene.lights.keys()].sort(
    (a, b) => Number(scene.lights[a]!.kind !== 'sun') - Number(scene.lights[b]!.kind !== 'sun'),
  )
  const count = scene.lights.length + emitters.length
  const words = new Int32Array(Math.max(1, count) * stride)
  const floats = new Float32Array(words.buffer)
  const leaves: TreeLight[] = []
  const put = (at: number, field: number, values: readonly number[]): void => floats.set(values, at + (field >> 2))
  order.forEach((from, i) => {
    const light = scene.lights[from]!
    words[i * stride + (L.LIGHT_GROUP >> 2)] = numbers[from]!
    const leaf = putLight(light, i * stride, words, put)
    if (leaf && leaf.power > 0) leaves.push({ index: i, ...leaf })
  })
  const triangles = new Int32Array(kernels.memory.buffer, trianglePointer)
  emitters.forEach((emitter, i) => {
    const index = scene.lights.length + i
    const at = index * stride
    const power = luminanceOf(emitter.emission) * emitter.area
    words[at] = 2
    put(at, L.LIGHT_POSITION, emitter.low)
    put(at, L.LIGHT_NORMAL, emitter.normal)
    words[at + (L.LIGHT_U >> 2)] = emitter.triangle
    put(at, L.LIGHT_RADIANCE, emitter.emission)
    floats[at + (L.LIGHT_AREA >> 2)] = emitter.area
    words[at + (L.LIGHT_EDGE1 >> 2)] = emitter.doubleSided ? 1 : 0
    triangles[emitter.triangle * 6 + 5] = index
    words[at + (L.LIGHT_GROUP >> 2)] = groupOf[triangles[emitter.triangle * 6 + 3]!]!
    if (power > 0)
      leaves.push({
        index,
        low: emitter.low,
        high: emitter.high,
        axis: emitter.normal,
        cone: emitter.doubleSided ? Math.PI : 0,
        emits: Math.PI / 2,
        power,
      })
  })
  let tree = 0
  if (leaves.length) {
    const { nodes, trails } = lightTree(leaves)
    for (const [index, trail] of trails) words[index * stride + (L.LIGHT_TRAIL >> 2)] = trail
    tree = own(kernels.place(new Int32Array(nodes)))
  }
  return {
    pointer: own(kernels.place(words)),
    tree,
    suns: scene.lights.filter(light => light.kind === 'sun').length,
    lamps: scene.lights.length,
  }
}

type Leaf = Omit<TreeLight, 'index'>
/** What a set of places spans, and a lamp there that shines all round. */
function allRound(places: readonly Vector3[], margin: number, power: number): Leaf {
  return {
    low: [0, 1, 2].map(k => Math.min(...places.map(p => p[k]!)) - margin) as Vector3,
    high: [0, 1, 2].map(k => Math.max(...places.map(p => p[k]!)) + margin) as Vector3,
    axis: [0, 1, 0],
    cone: Math.PI,
    emits: Math.PI,
    power,
  }
}

/** Fills a light's record; gives what the tree needs of it, nothing for a sun. */
function putLight(
  light: Light,
  at: number,
  words: Int32Array,
  put: (at: number, field: number, values: readonly number[]) => void,
): Leaf | undefined {
  if (light.kind === 'sun') {
    words[at] = 0
    const cosine = Math.cos(((Math.max(0.01, light.diameter) / 2) * Math.PI) / 180)
    // sin² of the half angle times pi is the projected solid angle: irradiance over it is the radiance of the disc
    const projected = Math.PI * (1 - cosine * cosine)
    put(at, L.LIGHT_NORMAL, light.direction)
    put(
      at,
      L.LIGHT_RADIANCE,
      light.irradiance.map(value => value / projected),
    )
    put(at, L.LIGHT_AREA, [2 * Math.PI * (1 - cosine)])
    put(at, L.LIGHT_COSINE, [cosine])
    put(at, L.LIGHT_POWER, [luminanceOf(light.irradiance)])
    return undefined
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
    const corners = [
      [1, 1],
      [1, -1],
      [-1, 1],
      [-1, -1],
    ].map(([a, b]) => add(light.centre, add(scaled(light.halfU, a!), scaled(light.halfV, b!))))
    return {
      ...allRound(corners, 0, luminanceOf(light.radiance) * area),
      axis: light.normal,
      cone: 0,
      emits: Math.PI / 2,
    }
  }
  if (light.kind === 'disc') {
    words[at] = 5
    const u = normalized(cross(Math.abs(light.normal[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0], light.normal))
    const v = cross(light.normal, u)
    const area = Math.PI * light.radius ** 2
    put(at, L.LIGHT_POSITION, light.centre)
    put(at, L.LIGHT_NORMAL, light.normal)
    put(
      at,
      L.LIGHT_U,
      u.map(value => value * light.radius),
    )
    put(
      at,
      L.LIGHT_V,
      v.map(value => value * light.radius),
    )
    put(at, L.LIGHT_RADIANCE, light.radiance)
    put(at, L.LIGHT_AREA, [area])
    put(at, L.LIGHT_COSINE, [light.cone ? Math.cos((light.cone.outer * Math.PI) / 180) : -2])
    if (light.cone) put(at, L.LIGHT_COSINE_INNER, [Math.cos((light.cone.inner * Math.PI) / 180)])
    return {
      ...allRound([light.centre], light.radius, luminanceOf(light.radiance) * area),
      axis: light.normal,
      cone: 0,
      emits: light.cone ? (light.cone.outer * Math.PI) / 180 : Math.PI / 2,
    }
  }
  if (light.kind === 'ball' || light.kind === 'tube') {
    words[at] = light.kind === 'ball' ? 6 : 7
    put(at, L.LIGHT_POSITION, light.centre)
    put(at, L.LIGHT_U, [light.radius])
    if (light.kind === 'tube') put(at, L.LIGHT_V, light.half)
    put(at, L.LIGHT_RADIANCE, light.radiance)
    return light.kind === 'ball'
      ? allRound([light.centre], light.radius, luminanceOf(light.radiance) * Math.PI * light.radius ** 2)
      : allRound(
          [add(light.centre, light.half), subtract(light.centre, light.half)],
          light.radius,
          luminanceOf(light.radiance) * 4 * light.radius * length(light.half),
        )
  }
  words[at] = light.kind === 'point' ? 3 : 4
  put(at, L.LIGHT_POSITION, light.position)
  put(at, L.LIGHT_RADIANCE, light.intensity)
  if (light.kind === 'spot') {
    put(at, L.LIGHT_NORMAL, light.direction)
    put(at, L.LIGHT_COSINE, [Math.cos((light.outer * Math.PI) / 180)])
    put(at, L.LIGHT_COSINE_INNER, [Math.cos((light.inner * Math.PI) / 180)])
  }
  // A spot gives the same all over its cone, and nothing beside it
  return {
    ...allRound([light.position], 0, luminanceOf(light.intensity)),
    ...(light.kind === 'spot'
      ? { axis: light.direction, cone: (light.outer * Math.PI) / 180, emits: L.BEAM_EMITS }
      : {}),
  }
}
