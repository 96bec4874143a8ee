// A shot to put elements, fog and specks into, with nothing behind but what is said, and what is expected of air.
import { expect } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { writePng } from '../core/formats/png/png'
import { placeAt } from '../core/match/project'
import type { ElementLayer, PictureReference, ShotDocument } from '../core/shot/document'
import { bringElement } from '../core/shot/elements'
import { settingsOfCamera, sightOf } from '../core/shot/scene'
import type { Vector3 } from '../core/scene/vector'
import { documentFaults } from '../shared/validate'
import { camera, changed, HEIGHT, keep, load, two, WIDTH } from './buildShot'

/** A picture of one grey, scene-linear as it stands, of such an alpha. */
export function plain(grey: number, alpha: number, [width, height] = [40, 20]): PictureReference {
  const data = new Uint8Array(width * height * 4)
  for (let i = 0; i < data.length; i += 4) data.set([grey * 255, grey * 255, grey * 255, alpha * 255], i)
  return {
    blob: keep(writePng({ width, height, channels: 4, maximum: 255, data })),
    ...{ name: 'grey.png', encoding: 'linear', alpha: 'straight' as const, width, height },
  }
}
/** With nothing behind but what is said. */
export const shot = (
  picture: PictureReference,
  change: (element: ElementLayer, document: ShotDocument) => void = () => {},
): ShotDocument =>
  changed(d => {
    Object.assign(d.scene.camera, settingsOfCamera(camera))
    d.plate = null
    const element = bringElement(d, picture, 1, 'element')
    change(element, d)
  })
export async function pixels(told: ShotDocument, frame = 1): Promise<Float32Array> {
  expect(documentFaults(told)).toEqual([])
  const evaluator = new Evaluator(two.pool, load, 2 ** 28)
  const raster = await evaluator.evaluate({ document: told, frame, shrink: 1, show: { kind: 'build' } })
  return two.kernels.floats(raster.pointer, WIDTH * HEIGHT * 4).slice()
}
export const only = (document: ShotDocument): void => {
  for (const [id, layer] of Object.entries(document.build.layers)) if (id !== 'element') layer.on = false
}
export const eye = () => sightOf(shot(plain(1, 1)), 1).camera()
/** Over all of the frame at such a distance, in the middle of what is seen. */
export const across = (metres: number) => {
  const [x, y, z] = placeAt(eye(), WIDTH / HEIGHT, 0.5, 0.5, metres)
  return { x, y, z, size: metres * 2 }
}
export const middleOf = (data: Float32Array): [number, number] => {
  const at = ((HEIGHT / 2) * WIDTH + WIDTH / 2) * 4
  return [data[at]!, data[at + 3]!]
}

/**
 * Light through an even slab that covers `cover` of what is behind it over its depth, with an opaque or half opaque sheet
 * at a share of that from its near side: summed up over so many slices, by itself.
 */
export function marched(cover: number, grey: number, sheet: { at: number; value: number; alpha: number }): number {
  const slices = 20000
  const lost = 1 - (1 - cover) ** (1 / slices)
  let left = 1
  let sum = 0
  let passed = false
  for (let i = 0; i < slices; i++) {
    if (!passed && (i + 0.5) / slices > sheet.at) {
      passed = true
      sum += left * sheet.value * sheet.alpha
      left *= 1 - sheet.alpha
    }
    sum += left * lost * grey
    left *= 1 - lost
  }
  if (!passed) sum += left * sheet.value * sheet.alpha
  return sum
}

/** Metres along the view axis at which the near ball of the shot is met. */
export function depthOfBall(u: number, v: number): number {
  const [m, near] = [eye().matrix, placeAt(eye(), WIDTH / HEIGHT, u, v, 1)]
  const from: Vector3 = [m[12]!, m[13]!, m[14]!]
  const way = [0, 1, 2].map(i => near[i]! - from[i]!)
  const off = [0, 1, 2].map(i => from[i]! - [-0.8, 0.7, -4][i]!)
  const [a, b, c] = [dot(way, way), dot(way, off), dot(off, off) - 0.7 ** 2]
  return (-b - Math.sqrt(b * b - a * c)) / a
}
const dot = (a: number[], b: number[]): number => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!
