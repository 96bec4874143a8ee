// Scenes that shine by themselves, so that a render has no noise but that of its lens, and what a lens makes of them.
import { circleAtInfinity } from '../core/lens/focus'
import { passesToExr } from '../core/render/passfile'
import { beautyOf } from '../core/render/planes'
import { compileScene } from '../core/render/compile'
import { Evaluator } from '../core/compose/evaluate'
import { Render, type TrueLens } from '../core/render/render'
import type { Camera, Material, Part, Scene } from '../core/scene/scene'
import type { Vector3 } from '../core/scene/vector'
import { newDocument, newTreatment, type ShotDocument, type TreatmentSettings } from '../core/shot/document'
import { rowsOf } from '../core/shot/rows'
import { settingsOfCamera } from '../core/shot/scene'
import type { Engine } from '../host/engine'
import { ball, lookAt, material, object, quad, scene } from './scenes'
import { Files } from './compose/passes'
import type { EntryValue } from '../core/declare/field'

export interface View {
  /** Of glass and mirrors: with what they show, and with how far away that is. */
  showsBeyond?: 'light alone' | 'with distances'
  scene: Scene
  camera: Camera
  width: number
  height: number
}
const SIZE = { width: 192, height: 108 }
const SHARP_SAMPLES = 128
const PASSES = ['beauty', 'alpha', 'depth', 'emission', 'crypto_object']

export const shining = (name: string, colour: Vector3): Material =>
  material({ name, baseColour: [0, 0, 0, 1], specular: { strength: 0, colour: [0, 0, 0] }, emission: colour })

/** A small generator of numbers that are always the same. */
function numbers(seed: number): () => number {
  let state = seed
  return () => (state = (state * 16807) % 2147483647) / 2147483647
}

/** A wall of squares of many colours across the view at a distance: what its pattern is of. */
export function wall(z: number, half: number, count: number, materials: Material[], seed: number): Part[] {
  const random = numbers(seed)
  const parts: Part[] = []
  const side = (2 * half) / count
  for (let y = 0; y < Math.ceil(count * 0.6); y++)
    for (let x = 0; x < count; x++) {
      const base = 0.02 + 0.5 * random()
      materials.push(
        shining(`square ${materials.length}`, [base, base * (0.4 + random()), base * (0.3 + random() * 0.8)]),
      )
      const left = -half + x * side
      const low = -half * 0.6 + y * side
      parts.push(
        quad(
          [left, low, z],
          [left + side, low, z],
          [left + side, low + side, z],
          [left, low + side, z],
          materials.length - 1,
        ),
      )
    }
  return parts
}

/** Rods near and far before a wall, aslant, the near ones out of focus when the far ones are in it. */
export function comb(turn: number): View {
  const materials: Material[] = []
  const objects = wall(-14, 12, 24, materials, 7).map((part, i) => object(`wall ${i}`, part))
  const row = (z: number, thick: number, gap: number, lean: number, colour: Vector3, name: string): void => {
    materials.push(shining(name, colour))
    for (let i = -8; i <= 8; i++) {
      const x = i * gap
      objects.push(
        object(
          `${name} ${i}`,
          quad(
            [x - thick - lean, -4, z],
            [x + thick - lean, -4, z],
            [x + thick + lean, 4, z],
            [x - thick + lean, 4, z],
            materials.length - 1,
          ),
        ),
      )
    }
  }
  row(-3, 0.012, 0.33, 0.15, [0.9, 0.85, 0.7], 'near')
  row(-6, 0.03, 0.7, -0.4, [0.05, 0.1, 0.16], 'middle')
  row(-9, 0.02, 0.5, 0.1, [0.7, 0.15, 0.1], 'far')
  return {
    ...SIZE,
    scene: scene(objects, { materials }),
    camera: lookAt([0.3 * Math.sin(turn), 0.1 * turn, 0], [0.2 * turn, 0, -6], 40),
  }
}

/** Bright points far away behind the edge of something near, and a floor that goes all the way. */
export function points(turn: number): View {
  const materials: Material[] = [shining('dark', [0.02, 0.025, 0.03]), shining('near', [0.15, 0.2, 0.12])]
  const objects = [object('back', quad([-30, -20, -22], [30, -20, -22], [30, 20, -22], [-30, 20, -22], 0))]
  const random = numbers(31)
  for (let i = 0; i < 26; i++) {
    const at: Vector3 = [-5 + 10 * random(), -2 + 5 * random(), -20 + 1.5 * random()]
    const light = 1 + 3 * random()
    materials.push(shining(`lamp ${i}`, [light, light * (0.5 + 0.5 * random()), light * (0.3 + 0.6 * random())]))
    objects.push(object(`lamp ${i}`, ball(at, 0.11, 8, materials.length - 1)))
  }
  objects.push(object('edge', quad([-4, -3, -2.4], [-0.25, -3, -2.4], [-0.1, 3, -2.4], [-4, 3, -2.4], 1)))
  for (let i = 0; i < 40; i++) {
    materials.push(shining(`plank ${i}`, i % 2 ? [0.22, 0.16, 0.1] : [0.05, 0.05, 0.06]))
    const z = -1.5 - i * 0.5
    objects.push(
      object(
        `plank ${i}`,
        quad([-9, -1.1, z], [9, -1.1, z], [9, -1.1, z - 0.5], [-9, -1.1, z - 0.5], materials.length - 1),
      ),
    )
  }
  return {
    ...SIZE,
    scene: scene(objects, { materials }),
    camera: lookAt([0.2 * turn, 0.05, 0], [0.1 * turn, 0, -6], 40),
  }
}

/**
 * A pane of glass in a frame of bars before a far wall, and beside it a mirror that shows a wall behind the camera. solid: the
 * glass is a slab, which bends light, else a sheet.
 */
export function windows(solid: boolean): View {
  const materials: Material[] = [
    material({ name: 'glass', roughness: 0, transmission: 1, ...(solid ? { solid: { absorption: [0, 0, 0] } } : {}) }),
    material({ name: 'mirror', roughness: 0, metallic: 1, baseColour: [0.95, 0.93, 0.9, 1] }),
    shining('bar', [0.4, 0.3, 0.2]),
  ]
  const facing = (left: number, low: number, right: number, high: number, z: number, which: number): Part =>
    quad([left, low, z], [right, low, z], [right, high, z], [left, high, z], which)
  const parts = [
    ...wall(-14, 12, 24, materials, 7),
    // Turned round to the camera's back
    ...wall(-7, 12, 24, materials, 3).map(part => ({
      ...part,
      positions: part.positions.map((value, i) => (i % 3 === 1 ? value : -value)),
      normals: part.normals && part.normals.map((value, i) => (i % 3 === 1 ? value : -value)),
    })),
    facing(-1.3, -0.8, -0.1, 0.8, -3, 0),
    ...(solid ? [turnedRound(facing(-1.3, -0.8, -0.1, 0.8, -3.05, 0))] : []),
    facing(0.1, -0.8, 1.3, 0.8, -3, 1),
    ...[-1.4, -0.75, -0.1, 1.3].map(x => facing(x, -0.9, x + 0.1, 0.9, -2.98, 2)),
  ]
  return {
    ...{ width: 128, height: 72 },
    scene: scene(
      parts.map((part, i) => object(`part ${i}`, part)),
      { materials },
    ),
    camera: lookAt([0, 0, 0], [0, 0, -1], 42),
    showsBeyond: 'with distances',
  }
}
/** Its other side to the camera. */
const turnedRound = (part: Part): Part => ({
  ...part,
  normals: part.normals && part.normals.map(value => -value),
  indices: part.indices.map((_, i) => part.indices[i % 3 === 0 ? i : i % 3 === 1 ? i + 1 : i - 1]!),
})

/** One lamp before nothing at a distance: in the middle, or near a corner. */
export function lamp(distance: number, where: 'middle' | 'corner' = 'middle'): View {
  const materials = [shining('lamp', [40, 40, 40])]
  const at: Vector3 = where === 'middle' ? [0, 0, -distance] : [distance * 0.1, distance * 0.05, -distance]
  const back = shining('back', [0, 0, 0])
  const wall = quad(
    [-99, -99, -distance - 0.04 * distance],
    [99, -99, -distance - 0.04 * distance],
    [99, 99, -distance - 0.04 * distance],
    [-99, 99, -distance - 0.04 * distance],
    1,
  )
  return {
    ...{ width: 96, height: 54 },
    scene: scene([object('lamp', ball(at, distance * 0.012, 16)), object('wall', wall)], {
      materials: [...materials, back],
    }),
    camera: lookAt([0, 0, 0], [0, 0, -1], 80),
  }
}

interface Taken {
  lens?: TrueLens | undefined
  /** The same a frame ago and a frame on. */
  moves?: { previous: View; next: View }
  /** What there is while the shutter is open. */
  moments?: readonly View[]
}
const BEYOND = ['through', 'mirrored'].flatMap(shows => [`${shows}_depth`, `${shows}_crypto_object`])
const MOTION = ['motion_forward', 'motion_back']
export function rendered(
  engine: Engine,
  { scene, camera, width, height, showsBeyond }: View,
  samples: number,
  { lens, moves, moments }: Taken = {},
) {
  const compiled = compileScene(
    engine.kernels,
    scene,
    moves && { previous: moves.previous.scene, next: moves.next.scene },
  )
  const passes = [
    ...PASSES,
    ...(moves ? MOTION : []),
    ...(showsBeyond ? ['reflection', 'refraction', ...(showsBeyond === 'light alone' ? [] : BEYOND)] : []),
  ]
  const shown = moments?.map(view => ({ scene: compileScene(engine.kernels, view.scene), camera: view.camera }))
  const render = new Render(engine.pool, compiled, {
    ...{ width, height, samples, passes, camera, lens, maxBounces: showsBeyond ? 4 : 0, moments: shown },
    moving: moves && { previous: moves.previous.camera, next: moves.next.camera },
  })
  while (!render.done) render.step(64)
  const result = render.snapshot()
  for (const { scene } of shown ?? []) scene.dispose()
  const told = {
    passes,
    objectNames: compiled.objects.map(({ name }) => name),
    materialNames: compiled.materials.map(({ name }) => name),
    assetNames: compiled.assets,
    lightGroups: compiled.lightGroups,
  }
  return { result, told, end: () => (render.dispose(), compiled.dispose()) }
}

/** Red, green and blue of what the true lens sees. */
export function truth(engine: Engine, view: View, lens: TrueLens, samples = 160): Float32Array {
  const { result, end } = rendered(engine, view, samples, { lens })
  const beauty = beautyOf(result).slice()
  end()
  return beauty
}

/** The shot of a sharp render with lines at the finish. */
export async function finished(
  engine: Engine,
  view: View,
  lines: readonly [string, Record<string, EntryValue>][],
  moves?: Taken['moves'],
): Promise<Float32Array> {
  const { result, told, end } = rendered(engine, view, view.showsBeyond ? SHARP_SAMPLES / 2 : SHARP_SAMPLES, { moves })
  const files = new Files()
  const document: ShotDocument = newDocument(view.width, view.height)
  const blob = files.keep(passesToExr(result, told))
  end()
  document.scene.camera = settingsOfCamera(view.camera)
  document.passes.file = {
    ...{ blob, name: 'passes.exr', width: view.width, height: view.height, passes: told.passes as never },
    ...{ objects: told.objectNames, materials: told.materialNames, of: '' },
  }
  document.finish = rowsOf<TreatmentSettings>(lines.map(([kind, values]) => newTreatment(kind, values)))
  const raster = await new Evaluator(engine.pool, files.load, 2 ** 28).evaluate({
    ...{ document, frame: 1, shrink: 1, show: { kind: 'finish' } },
  })
  return engine.kernels.floats(raster.pointer, view.width * view.height * 4).slice()
}

export interface Sharp {
  colour: Float32Array
  depth: Float32Array
  /** Weights of the objects of each pixel. */
  coverage: Float32Array
}
/** What a render says of every pixel, through a pinhole or a lens. */
export function sharp(engine: Engine, view: View, lens: TrueLens | undefined, samples = SHARP_SAMPLES): Sharp {
  const { result, end } = rendered(engine, view, samples, { lens })
  const out = {
    colour: beautyOf(result).slice(),
    depth: result.depth!.slice(),
    coverage: result.coverage!.crypto_object!.weight.slice(),
  }
  end()
  return out
}

/** The plain way: each pixel the mean of a disc as large as its own circle. Four floats a pixel. */
export function discBlur(
  { colour, depth }: Sharp,
  { camera, width, height }: View,
  { fNumber, distance }: TrueLens,
): Float32Array {
  const atInfinity = circleAtInfinity(camera, fNumber, distance, width)
  const out = new Float32Array(width * height * 4)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const radius = Math.min(60, Math.abs(atInfinity * (1 - distance / depth[y * width + x]!)))
      const reach = Math.ceil(radius)
      const sum = [0, 0, 0]
      let weights = 0
      for (let dy = -reach; dy <= reach; dy++)
        for (let dx = -reach; dx <= reach; dx++) {
          const weight = Math.min(1, Math.max(0, radius + 0.5 - Math.hypot(dx, dy)))
          if (weight === 0) continue
          const qx = Math.min(width - 1, Math.max(0, x + dx))
          const qy = Math.min(height - 1, Math.max(0, y + dy))
          for (let c = 0; c < 3; c++) sum[c]! += weight * colour[(qy * width + qx) * 3 + c]!
          weights += weight
        }
      out.set([...sum.map(value => value / weights), 1], (y * width + x) * 4)
    }
  return out
}

export const code = (value: number): number =>
  255 * Math.min(1, Math.max(0, value <= 0.0031308 ? value * 12.92 : 1.055 * value ** (1 / 2.4) - 0.055))
/** Decibels between what both look like (sRGB codes); three floats a pixel, and four. */
export function psnr(real: Float32Array, other: Float32Array): number {
  let sum = 0
  for (let i = 0; i < real.length / 3; i++)
    for (let c = 0; c < 3; c++) sum += (code(real[i * 3 + c]!) - code(other[i * 4 + c]!)) ** 2
  return 10 * Math.log10(255 ** 2 / (sum / real.length))
}
