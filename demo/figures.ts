// Two clothed mannequins, photographed by the renderer under the plate's sky: cut-outs with straight alpha.
import type { Material, Part, Scene, SceneObject } from '../core/scene/scene'
import { identity, type Vector3 } from '../core/scene/vector'
import { join, tube, turned, type Mesh } from './mesh'
import { skyPanorama } from './sky'

/** Squeezes a turned body front to back, leans it, and sways its cloth. */
function shape(mesh: Mesh, depth: number, folds: number, phase: number): Mesh {
  const positions = mesh.positions.slice()
  for (let i = 0; i < positions.length; i += 3) {
    const angle = Math.atan2(positions[i + 2]!, positions[i]!)
    const y = positions[i + 1]!
    const sway = 1 + folds * Math.sin(angle * 7 + y * 5 + phase) * Math.max(0, 1.15 - y)
    positions[i] = positions[i]! * sway
    positions[i + 2] = positions[i + 2]! * depth * sway
  }
  return { ...mesh, positions }
}
const moved = (mesh: Mesh, by: Vector3): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((value, i) => value + by[i % 3]!),
})

function figure(tall: number, hat: boolean, phase: number): { coat: Mesh; skin: Mesh; dark: Mesh } {
  const coat = shape(
    turned(
      [
        [0.0, 1.49],
        [0.075, 1.48],
        [0.13, 1.455],
        [0.2, 1.4],
        [0.225, 1.32],
        [0.22, 1.15],
        [0.2, 1.02],
        [0.215, 0.9],
        [0.245, 0.7],
        [0.27, 0.5],
        [0.262, 0.485],
        [0, 0.5],
      ],
      [0, 0, 0],
      72,
    ),
    0.62,
    0.035,
    phase,
  )
  const arm = (side: number): Mesh =>
    tube(
      [
        [side * 0.07, 1.39, 0],
        [side * 0.17, 1.36, 0],
        [side * 0.235, 1.27, 0.01],
        [side * 0.265, 1.15, 0.02],
        [side * 0.275, 1.0, 0.05],
        [side * 0.25, 0.84, 0.12],
      ],
      0.062,
      16,
    )
  const leg = (side: number): Mesh =>
    tube(
      [
        [side * 0.09, 0.55, 0],
        [side * 0.095, 0.3, 0.01],
        [side * 0.1, 0.06, 0],
      ],
      0.075,
      16,
    )
  const shoe = (side: number): Mesh =>
    moved(
      shape(
        turned(
          [
            [0, 0.09],
            [0.05, 0.085],
            [0.07, 0.05],
            [0.075, 0],
            [0, 0],
          ],
          [0, 0, 0],
          24,
        ),
        1.9,
        0,
        0,
      ),
      [side * 0.1, 0, 0.06],
    )
  const head = moved(
    shape(
      turned(
        [
          [0, 0.13],
          [0.06, 0.118],
          [0.093, 0.07],
          [0.1, 0.0],
          [0.088, -0.07],
          [0.05, -0.125],
          [0.045, -0.18],
        ],
        [0, 0, 0],
        40,
      ),
      1.1,
      0,
      0,
    ),
    [0, 1.635, 0.01],
  )
  const scarf = turned(
    [
      [0.06, 1.44],
      [0.1, 1.45],
      [0.105, 1.48],
      [0.085, 1.52],
      [0.055, 1.52],
    ],
    [0, 0, 0],
    40,
  )
  const cap = moved(
    turned(
      hat
        ? [
            [0, 0.085],
            [0.07, 0.075],
            [0.1, 0.02],
            [0.108, -0.03],
            [0.1, -0.035],
          ]
        : [
            [0, 0.075],
            [0.08, 0.06],
            [0.104, 0.0],
            [0.1, -0.06],
            [0.09, -0.1],
          ],
      [0, 0, 0],
      40,
    ),
    [0, 1.7, 0],
  )
  const scale = tall / 1.785
  const sized = (mesh: Mesh): Mesh => ({ ...mesh, positions: mesh.positions.map(value => value * scale) })
  return {
    coat: sized(join(coat, arm(-1), arm(1))),
    skin: sized(head),
    dark: sized(join(leg(-1), leg(1), shoe(-1), shoe(1), cap, scarf)),
  }
}

/** Both of them, feet at y = 0 around the origin, looking out to sea. */
export function figures(): Scene {
  const material = (name: string, r: number, g: number, b: number, roughness = 0.9): Material => ({
    name,
    baseColour: [r, g, b, 1],
    metallic: 0,
    roughness,
    emission: [0, 0, 0],
    alphaMode: 'opaque',
    alphaCutoff: 0.5,
    normalScale: 1,
    doubleSided: true,
  })
  const objects: SceneObject[] = []
  const put = (name: string, mesh: Mesh, index: number, turn: number, at: Vector3): void => {
    const c = Math.cos(turn)
    const s = Math.sin(turn)
    const part: Part = {
      positions: Float32Array.from(mesh.positions),
      normals: Float32Array.from(mesh.normals),
      uvs: Float32Array.from(mesh.uvs),
      indices: Uint32Array.from(mesh.indices),
      material: index,
    }
    objects.push({
      name,
      matrix: [c, 0, -s, 0, 0, 1, 0, 0, s, 0, c, 0, ...at, 1],
      parts: [part],
      role: 'object',
      hidden: false,
      absent: false,
    })
  }
  for (const [index, tall, x, z, turn] of [
    [0, 1.8, -0.33, 0, 2.5],
    [1, 1.68, 0.36, 0.12, 3.5],
  ] as const) {
    const made = figure(tall, index === 0, index * 2.1)
    put(`coat ${index}`, made.coat, index, turn, [x, 0, z])
    put(`head ${index}`, made.skin, 2, turn, [x, 0, z])
    put(`clothes ${index}`, made.dark, 3 + index, turn, [x, 0, z])
  }
  const floor: Part = {
    positions: Float32Array.from([-9, 0, 9, 9, 0, 9, 9, 0, -9, -9, 0, -9]),
    indices: Uint32Array.from([0, 1, 2, 0, 2, 3]),
    material: 5,
  }
  objects.push({ name: 'ground', matrix: identity(), parts: [floor], role: 'object', hidden: true, absent: false })
  return {
    objects,
    materials: [
      material('navy coat', 0.035, 0.045, 0.07),
      material('ochre coat', 0.3, 0.17, 0.045),
      material('skin', 0.4, 0.26, 0.19, 0.6),
      material('dark cloth', 0.03, 0.03, 0.034),
      material('grey cloth', 0.075, 0.08, 0.085),
      material('ground', 0.09, 0.09, 0.09),
    ],
    lights: [],
    cameras: [],
    notes: [],
    environment: { ...skyPanorama(512), turn: 0, gain: [1, 1, 1], seenByCamera: false },
  }
}
