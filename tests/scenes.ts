// Small scenes made in the tests, for comparison with closed forms.
import { Kernels } from '../core/engine/memory'
import { Pool } from '../core/engine/pool'
import { compileScene } from '../core/render/compile'
import type { OtherFrames } from '../core/render/geometry'
import type { RenderedPasses } from '../core/render/planes'
import { Render, type RenderSettings } from '../core/render/render'
import type { Camera, Environment, Light, Material, Part, Scene, SceneObject } from '../core/scene/scene'
import { cross, identity, normalized, subtract, type Vector3 } from '../core/scene/vector'
import { kernelModule } from '../host/engine'

export const material = (change: Partial<Material> = {}): Material => ({
  name: 'white',
  baseColour: [1, 1, 1, 1],
  metallic: 0,
  roughness: 1,
  emission: [0, 0, 0],
  alphaMode: 'opaque',
  alphaCutoff: 0.5,
  normalScale: 1,
  doubleSided: true,
  ...change,
})

export const object = (name: string, part: Part, change: Partial<SceneObject> = {}): SceneObject => ({
  name,
  matrix: identity(),
  parts: [part],
  role: 'object',
  hidden: false,
  absent: false,
  ...change,
})

/** A ball of so many steps; vertices lie on the sphere. */
export function ball(centre: Vector3, radius: number, steps = 64, materialIndex = 0): Part {
  const positions: number[] = []
  const normals: number[] = []
  const uvs: number[] = []
  const indices: number[] = []
  for (let y = 0; y <= steps; y++) {
    for (let x = 0; x <= steps * 2; x++) {
      const theta = (Math.PI * y) / steps
      const phi = (Math.PI * x) / steps
      const n: Vector3 = [Math.sin(theta) * Math.cos(phi), Math.cos(theta), Math.sin(theta) * Math.sin(phi)]
      normals.push(...n)
      positions.push(centre[0] + n[0] * radius, centre[1] + n[1] * radius, centre[2] + n[2] * radius)
      uvs.push(x / steps / 2, y / steps)
    }
  }
  const row = steps * 2 + 1
  for (let y = 0; y < steps; y++)
    for (let x = 0; x < steps * 2; x++) {
      const a = y * row + x
      indices.push(a, a + 1, a + row, a + 1, a + row + 1, a + row)
    }
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    uvs: Float32Array.from(uvs),
    indices: Uint32Array.from(indices),
    material: materialIndex,
  }
}

/** Four corners in order; the front is where they run anticlockwise. */
export function quad(a: Vector3, b: Vector3, c: Vector3, d: Vector3, materialIndex = 0): Part {
  const n = normalized(cross(subtract(b, a), subtract(d, a)))
  return {
    positions: Float32Array.from([...a, ...b, ...c, ...d]),
    normals: Float32Array.from([...n, ...n, ...n, ...n]),
    uvs: Float32Array.from([0, 1, 1, 1, 1, 0, 0, 0]),
    indices: Uint32Array.from([0, 1, 2, 0, 2, 3]),
    material: materialIndex,
  }
}

/** Level ground of half side `size` at height y, facing up. */
export const ground = (size: number, y = 0, materialIndex = 0): Part =>
  quad([-size, y, size], [size, y, size], [size, y, -size], [-size, y, -size], materialIndex)

export const constantEnvironment = (value = 1, change: Partial<Environment> = {}): Environment => ({
  width: 16,
  height: 8,
  pixels: new Float32Array(16 * 8 * 4).fill(value),
  turn: 0,
  gain: [1, 1, 1],
  seenByCamera: false,
  ...change,
})

/** A camera at `eye` looking at `target`. */
export function lookAt(eye: Vector3, target: Vector3, focalLength = 50): Camera {
  const back = normalized(subtract(eye, target))
  const right = normalized(cross(Math.abs(back[1]) > 0.999 ? [0, 0, -1] : [0, 1, 0], back))
  const up = cross(back, right)
  return {
    name: 'camera',
    matrix: [...right, 0, ...up, 0, ...back, 0, ...eye, 1],
    focalLength,
    sensorWidth: 36,
    shiftX: 0,
    shiftY: 0,
  }
}

export const scene = (objects: SceneObject[], change: Partial<Scene> & { lights?: Light[] } = {}): Scene => ({
  objects,
  materials: [material()],
  lights: [],
  cameras: [],
  notes: [],
  ...change,
})

export const ALL = [
  'beauty',
  'alpha',
  'occlusion',
  'shadow',
  'albedo',
  'normal',
  'crypto_object',
  'crypto_material',
] as const

/** Renders in this thread. */
export function renderScene(
  description: Scene,
  settings: Partial<RenderSettings> & { camera: Camera },
  others?: OtherFrames,
): Required<RenderedPasses> {
  const pool = new Pool(new Kernels(kernelModule()))
  const compiled = compileScene(pool.kernels, description, others)
  const render = new Render(pool, compiled, { width: 32, height: 32, samples: 64, passes: ALL, ...settings })
  while (!render.done) render.step(16)
  const result = render.snapshot()
  render.dispose()
  compiled.dispose()
  return result as Required<RenderedPasses>
}

/** Mean of an RGB plane's channel over the pixels that `where` picks. */
export function mean(
  plane: Float32Array,
  channels: number,
  channel = 0,
  where: (pixel: number) => boolean = () => true,
): number {
  let sum = 0
  let count = 0
  for (let i = 0; i < plane.length / channels; i++)
    if (where(i)) {
      sum += plane[i * channels + channel]!
      count++
    }
  return sum / count
}
